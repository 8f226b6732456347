"""Feeds the pages of a run to its pipeline in the order of iterations and pages, whatever order they come in."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from typing import Any

from tin_bucket.core.formats.jsonpath import Picked
from tin_bucket.core.table.pipeline import Pipeline
from tin_bucket.gc_pause import collector_paused

MANY = 200  # Records from which a page is read beside the event loop.


class PageCollector:
    """The pages of all iterations. What comes before its turn waits; nothing else is kept of the records."""

    def __init__(self, pipeline: Pipeline, iterations: int) -> None:
        self._pipeline = pipeline
        self._now = 0
        self._early: dict[int, list[tuple[Picked, Any]]] = {}
        self._ended: set[int] = set()
        self._lock = asyncio.Lock()
        self._turned = asyncio.Event()
        self.pages = [0] * max(1, iterations)

    async def add(self, at: int, picked: Picked, document: Any) -> None:
        """The records of the next page of an iteration, and the answer around them."""
        self.pages[at] += 1
        async with self._lock:
            if at == self._now:
                await self._feed(at, picked, document)
            else:
                self._early.setdefault(at, []).append((picked, document))

    async def add_batches(self, at: int, batches: Iterator[list[Any]], document: Any) -> None:
        """The records of a page that is too large to hold. It waits for the iterations before its own."""
        self.pages[at] += 1
        while at != self._now:
            await self._turned.wait()
        async with self._lock:
            await asyncio.to_thread(self._pipeline.add_batches, at, batches, document)

    async def end(self, at: int) -> None:
        """An iteration has ended, well or not."""
        async with self._lock:
            self._ended.add(at)
            while self._now in self._ended:
                self._now += 1
                self._turned.set()
                self._turned = asyncio.Event()
                for picked, document in self._early.pop(self._now, []):
                    await self._feed(self._now, picked, document)

    async def _feed(self, at: int, picked: Picked, document: Any) -> None:
        if len(picked.values) >= MANY:
            await asyncio.to_thread(self._add, at, picked, document)
        else:
            self._add(at, picked, document)

    def _add(self, at: int, picked: Picked, document: Any) -> None:
        with collector_paused():
            self._pipeline.add(at, picked, document)
