"""Skerrywick Ferries: its simulated services together, with one simulated day."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import ExitStack
from datetime import date

from .running import Running
from .services.awkward import Awkward
from .services.bookings import Bookings
from .services.fares import Fares
from .services.operations import Operations
from .services.register import Register
from .services.simulated import Calendar, Simulated
from .services.statistics import Statistics


class Company:
    """The services, running on loopback. Use it as a context."""

    def __init__(self, today: date, pause: float = 0.0, port: int = 0, ports: Mapping[str, int] | None = None) -> None:
        """
        Args:
            today: the simulated day.
            pause: seconds that each answer takes.
            port: the first service's port; the others take the ones behind it. 0 takes any that are free.
            ports: the port of each service by its short name, in place of `port`.
        """
        self.calendar = Calendar(today)
        self.operations = Operations(self.calendar, pause)
        self.fares = Fares(self.calendar, pause)
        self.register = Register(self.calendar, pause)
        self.statistics = Statistics(self.calendar, pause)
        self.bookings = Bookings(self.calendar, pause)
        self.awkward = Awkward(self.calendar, pause)
        self._ports = {name: port + at if port else 0 for at, name in enumerate(self.services)} | dict(ports or {})
        self._open = ExitStack()
        self.bases: dict[str, str] = {}

    @property
    def services(self) -> dict[str, Simulated]:
        """The services by their short names."""
        return {
            "operations": self.operations,
            "fares": self.fares,
            "register": self.register,
            "statistics": self.statistics,
            "bookings": self.bookings,
            "awkward": self.awkward,
        }

    def __enter__(self) -> Company:
        try:
            for name, service in self.services.items():
                running = Running(service.app(), self._ports[name])
                self._open.enter_context(running)
                self.bases[name] = running.base
        except BaseException:
            self._open.close()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        self._open.close()
