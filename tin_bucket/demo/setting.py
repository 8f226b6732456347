"""The demo's workspace: services, their keys, queries, and a month of snapshots made by the real engine."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Mapping
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from urllib.parse import urlsplit

from tin_bucket.core.document.service import Service
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.demo.services import bookings, fares, register, statistics
from tin_bucket.demo.services import operations as ops
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.network.http import CALLER
from tin_bucket.store.workspace import Workspace

from .company import Company
from .harbour_desk import make_desk, with_feeds
from .queries import AWKWARD, BOOKINGS, FARES, OPERATIONS, REGISTER, STATISTICS, briefs
from .reports import demo_reports

DAYS = 30


def _service(
    service_id: str, name: str, base: str, key: dict[str, object] | None, path: str = "", check: str = "/"
) -> Service:
    return Service.model_validate(
        {
            "id": service_id,
            "name": name,
            "base": base + path,
            "headers": [{"name": "User-Agent", "value": f"{CALLER} (harbour desk)"}],
            "docs": base + "/",
            "note": "A simulated service that ships with Tin Bucket.",
            "timeout": 20,
            "check": check,
            "key": key,
        }
    )


def operations_service(base: str) -> Service:
    """The operations service as a workspace knows it: a key in a header."""
    key: dict[str, object] = {"name": "Operations desk", "places": [{"at": "header", "name": ops.KEY_HEADER}]}
    return _service(OPERATIONS, "Skerrywick Operations", base, key, check="/ports")


def fares_service(base: str) -> Service:
    """The fares service: client id and secret are exchanged for a bearer token."""
    key: dict[str, object] = {
        "name": "Fares client",
        "source": {"by": "client credentials", "address": "/oauth/token"},
        "places": [{"at": "bearer"}],
    }
    return _service(FARES, "Skerrywick Fares", base, key)


def register_service(base: str) -> Service:
    """The register: user and password."""
    key: dict[str, object] = {"name": "Register account", "places": [{"at": "user and password"}]}
    return _service(REGISTER, "Skerrywick Register", base, key, "/v1", "/vessels")


def statistics_service(base: str) -> Service:
    """The statistics: a key in the address, or in the body where there is one."""
    key: dict[str, object] = {
        "name": "Statistics key",
        "places": [
            {"at": "address", "name": "key", "calls": "without body"},
            {"at": "body", "place": "$.key"},
        ],
    }
    return _service(STATISTICS, "Skerrywick Statistics", base, key, check="/passengers")


def bookings_service(base: str) -> Service:
    """The bookings: a bearer key, two limits, and a rule for the errors inside its answers."""
    key: dict[str, object] = {"name": "Bookings key", "places": [{"at": "bearer"}]}
    service = _service(BOOKINGS, "Skerrywick Bookings", base, key, check="/bookings")
    limits = [Window(calls=12, per="PT1S"), Window(calls=90, per="PT10S")]
    return service.model_copy(
        update={"limits": limits, "error_rules": [ErrorRule(at="$.error", words="$.error.message")]}
    )


def awkward_service(base: str) -> Service:
    """The service that misbehaves; it needs no key."""
    return _service(AWKWARD, "Skerrywick Awkward", base, None, check="/ways/well")


def services(bases: Mapping[str, str]) -> list[tuple[Service, dict[str, str]]]:
    """Every service with its key, by the addresses of the running stand-ins."""
    return [
        (operations_service(bases["operations"]), {"key": ops.KEY}),
        (fares_service(bases["fares"]), {"client_id": fares.CLIENT, "client_secret": fares.CLIENT_SECRET}),
        (register_service(bases["register"]), {"user": register.USER, "password": register.PASSWORD}),
        (statistics_service(bases["statistics"]), {"key": statistics.KEY}),
        (bookings_service(bases["bookings"]), {"key": bookings.KEY}),
        (awkward_service(bases["awkward"]), {}),
    ]


def set_up(workspace: Workspace, bases: Mapping[str, str], now: datetime) -> None:
    """Put the services and their keys into a workspace."""
    for service, secret in services(bases):
        workspace.services.save(service)
        if service.key is not None:
            workspace.vault.store(service.id, service.key.bound_to(service.base), secret, now)


def service_ports(home: Path) -> dict[str, int]:
    """The ports at which the demo in a folder asks its services, by their short names."""
    workspace = Workspace(home)
    try:
        bases = {service.id.removeprefix("skerrywick-"): service.base for service in workspace.services.all()}
    finally:
        workspace.close()
    return {name: port for name, base in bases.items() if (port := urlsplit(base).port) is not None}


def _hand_over(workspace: Workspace, now: datetime) -> None:
    """Make the harbour desk's workbook, and let the sailings be handed over to it from now on."""
    query = workspace.queries.find("Sailings by route")
    make_desk(workspace, query.id)
    workspace.queries.save(query.id, with_feeds(query.brief), now)


async def furnish(
    home: Path,
    company: Company,
    last: date,
    days: int = DAYS,
    tell: Callable[[int, int], None] | None = None,
) -> None:
    """Make the demo's workspace in a folder: `days` days of snapshots that end with the day `last`.

    Args:
        company: the running services, whose simulated day is moved along.
        tell: called with the number of days that are done, and of all.
    """
    workspace = Workspace(home, create=True)
    clock = SetClock(datetime.now(UTC))
    engine = Engine(workspace, clock)
    first = datetime.combine(last - timedelta(days=days), time(9, 12), UTC)
    set_up(workspace, company.bases, first)
    queries = [workspace.queries.add(brief, first) for brief in briefs()]
    # What is brought in is there before what it is brought into.
    queries.sort(key=lambda query: query.brief.keep.schedule is not None)
    pauses = {name: service.pause for name, service in company.services.items()}
    for service in company.services.values():
        service.pause = 0.0
    # The past is made in one go; the limits are those of a service in use.
    company.bookings.limited = False
    limited = workspace.services.get(BOOKINGS)
    workspace.services.save(limited.model_copy(update={"limits": []}))
    for done in range(days):
        day = last - timedelta(days=days - 1 - done)
        company.calendar.today = day
        if done == days - 1:
            _hand_over(workspace, clock.now())
        for index, query in enumerate(queries):
            # The last ones are refreshed just now: nothing is dated in the future, and no schedule is behind.
            now = datetime.now(UTC)
            clock.set(now if day == now.date() else datetime.combine(day, time(5, 30 + index), UTC))
            if query.brief.keep.schedule is None and done % 10 != 0:
                continue
            if query.brief.start is not None:
                continue  # Its dates are those of what it starts from.
            await engine.refresh(query.id, {}, "schedule" if query.brief.keep.schedule else "by hand")
        if tell is not None:
            tell(done + 1, days)
    for report in demo_reports(workspace):
        workspace.reports.add(report, clock.now())
    for name, service in company.services.items():
        service.pause = pauses[name]
    company.bookings.limited = True
    workspace.services.save(limited)
    await asyncio.to_thread(engine.row_counting.count_all)
    await engine.close()
    workspace.close()
