"""The practice services: a simulated ferry company that somebody who has no API at hand can try things on."""

from __future__ import annotations

import json
import logging
from datetime import date
from threading import Lock
from urllib.parse import urlsplit

from tin_bucket.demo.company import Company
from tin_bucket.demo.practice import Example, examples
from tin_bucket.demo.running import PortTaken
from tin_bucket.store.settings import Settings

log = logging.getLogger("tin_bucket.practice")
_PORTS = "practice services"


class Practice:
    """Starts the services when they are wanted, and keeps their addresses for the queries that ask them."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self._lock = Lock()
        self._company: Company | None = None

    def resume(self) -> None:
        """Start them again where they were, if they were ever started in this workspace."""
        if not self._settings.get(_PORTS):
            return
        with self._lock:
            try:
                self._start()
            except PortTaken as error:
                log.warning("the practice services are not started: %s", error)

    def start(self) -> list[Example]:
        """Start them, where they do not run; what there is to try."""
        with self._lock:
            if self._company is None:
                try:
                    self._start()
                except PortTaken:
                    # Somebody else listens where they were; queries that were made with them say so.
                    self._settings.put(_PORTS, "")
                    self._start()
            assert self._company is not None
            return examples(self._company)

    def examples(self) -> list[Example]:
        """What there is to try; nothing while they do not run."""
        with self._lock:
            return [] if self._company is None else examples(self._company)

    def close(self) -> None:
        """Stop them."""
        with self._lock:
            if self._company is not None:
                self._company.__exit__()
            self._company = None

    def _start(self) -> None:
        ports = json.loads(self._settings.get(_PORTS) or "{}")
        company = Company(date.today(), ports=ports)
        company.__enter__()
        self._company = company
        self._settings.put(_PORTS, json.dumps({name: urlsplit(base).port for name, base in company.bases.items()}))
