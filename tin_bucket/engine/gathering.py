"""Gathers the records of a run's pages into its table, in the order of rounds and pages, as they come."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from typing import Any

from tin_bucket.core.brief import Take
from tin_bucket.core.reading import Reader, Reading

MANY = 200  # Records from which a page is read beside the event loop.


class Gathering:
    """The pages of all rounds. What comes before its turn waits; nothing else is kept of the records."""

    def __init__(self, take: Take, rounds: int) -> None:
        self._reader = Reader(take)
        self._now = 0
        self._early: dict[int, list[list[Any]]] = {}
        self._ended: set[int] = set()
        self._lock = asyncio.Lock()
        self._turned = asyncio.Event()
        self.round_of_page: list[int] = []
        self.pages = [0] * rounds

    async def add(self, at: int, records: list[Any]) -> None:
        """The records of the next page of a round."""
        self.pages[at] += 1
        async with self._lock:
            if at == self._now:
                await self._read(at, records)
            else:
                self._early.setdefault(at, []).append(records)

    async def add_streamed(self, at: int, batches: Iterator[list[Any]]) -> None:
        """The records of a page that is too large to hold. It waits for the rounds before its own."""
        self.pages[at] += 1
        while at != self._now:
            await self._turned.wait()
        async with self._lock:
            self.round_of_page.append(at)

            def read() -> None:
                self._reader.add([])
                for batch in batches:
                    self._reader.add(batch, more=True)

            await asyncio.to_thread(read)

    async def end(self, at: int) -> None:
        """A round has ended, well or not."""
        async with self._lock:
            self._ended.add(at)
            while self._now in self._ended:
                self._now += 1
                self._turned.set()
                self._turned = asyncio.Event()
                for records in self._early.pop(self._now, []):
                    await self._read(self._now, records)

    async def _read(self, at: int, records: list[Any]) -> None:
        self.round_of_page.append(at)
        if len(records) >= MANY:
            await asyncio.to_thread(self._reader.add, records)
        else:
            self._reader.add(records)

    def reading(self) -> Reading:
        """The table of all that was gathered."""
        return self._reader.reading()
