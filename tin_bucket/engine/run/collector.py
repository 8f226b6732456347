"""Gathers the records of a run's pages into its table, in the order of iterations and pages, as they come."""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any

from tin_bucket.core.document.extraction import Extraction
from tin_bucket.core.formats.jsonpath import Picked
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.values import Bindings
from tin_bucket.core.table.reader import Reader
from tin_bucket.core.table.select import Reading

MANY = 200  # Records from which a page is read beside the event loop.


class PageCollector:
    """The pages of all iterations. What comes before its turn waits; nothing else is kept of the records."""

    def __init__(self, take: Extraction, iterations: Sequence[Iteration], bindings: Bindings) -> None:
        self._reader = Reader(take, bindings)
        self._iterations = iterations
        self._now = 0
        self._early: dict[int, list[tuple[Picked, Any]]] = {}
        self._turned_of: Counter[int] = Counter()
        self._ended: set[int] = set()
        self._lock = asyncio.Lock()
        self._following = asyncio.Event()
        self.iteration_of_page: list[int] = []
        self.pages = [0] * max(1, len(iterations))

    async def add(self, at: int, picked: Picked, document: Any) -> None:
        """The records of the next page of a round, and the answer around them."""
        self.pages[at] += 1
        async with self._lock:
            if at == self._now:
                await self._read(at, picked, document)
            else:
                self._early.setdefault(at, []).append((picked, document))

    async def add_streamed(self, at: int, batches: Iterator[list[Any]], document: Any) -> None:
        """The records of a page that is too large to hold. It waits for the iterations before its own."""
        self.pages[at] += 1
        while at != self._now:
            await self._following.wait()
        async with self._lock:
            self.iteration_of_page.append(at)

            number = self._number(at)

            def read() -> None:
                self._reader.add(None, document, number, self._own(at), [])
                for batch in batches:
                    self._reader.add(None, document, number, self._own(at), batch, more=True)

            await asyncio.to_thread(read)

    async def end(self, at: int) -> None:
        """A round has ended, well or not."""
        async with self._lock:
            self._ended.add(at)
            while self._now in self._ended:
                self._now += 1
                self._following.set()
                self._following = asyncio.Event()
                for picked, document in self._early.pop(self._now, []):
                    await self._read(self._now, picked, document)

    def _number(self, at: int) -> int:
        """The number of the next page of a round, counted from 1."""
        self._turned_of[at] += 1
        return self._turned_of[at]

    def _own(self, at: int) -> Iteration | None:
        return self._iterations[at] if at < len(self._iterations) else None

    async def _read(self, at: int, picked: Picked, document: Any) -> None:
        self.iteration_of_page.append(at)
        more = picked, document, self._number(at), self._own(at)
        if len(picked.values) >= MANY:
            await asyncio.to_thread(self._reader.add, *more)
        else:
            self._reader.add(*more)

    def reading(self) -> Reading:
        """The table of all that was gathered."""
        return self._reader.reading()
