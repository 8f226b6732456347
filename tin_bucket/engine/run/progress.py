"""Live progress of a run: what has happened so far, for anyone who listens."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from dataclasses import asdict, dataclass, field
from typing import Any

from tin_bucket.core.problem import Problem


@dataclass(frozen=True, slots=True)
class Tile:
    """One call on the call strip; `ms` are milliseconds. `state` is ``answered``, ``saved`` (an answer that an earlier
    run had), ``missing``, ``again`` (it was made once more) or ``failed``."""

    number: int
    stage: str
    label: str
    state: str
    status: int
    ms: int
    records: int


@dataclass(frozen=True, slots=True)
class Waiting:
    """What a run waits for.

    Attributes:
        what: ``key``, or ``time``: that the limits let the next call go, or that a call is made again.
        service_id: whose key or limits these are.
        problem: why the key was refused.
        until: when it goes on, in seconds since 1970, where that is known.
        why: why it waits, such as ``90 calls in 10 seconds``.
    """

    what: str
    service_id: str
    problem: Problem | None = None
    until: float | None = None
    why: str = ""


@dataclass(slots=True)
class Progress:
    """What a run has done so far.

    `expected` is the number of calls that the present stage will make, where that is known.
    """

    run_id: int
    query_id: int
    state: str = "running"
    stage: str = "pages"
    rows: int = 0
    stated_total: int | None = None
    expected: int | None = None
    before_stage: int = 0
    iterations: int = 1
    iterations_done: int = 0
    waiting: Waiting | None = None
    problem: Problem | None = None
    snapshot_id: int | None = None
    tiles: list[Tile] = field(default_factory=list)
    _changed: asyncio.Event = field(default_factory=asyncio.Event)

    def tell(self) -> None:
        """Wake everyone who listens."""
        self._changed.set()
        self._changed = asyncio.Event()

    def summary(self, since: int) -> dict[str, Any]:
        """The state of the run, with the tiles from number `since` on."""
        return {
            "run_id": self.run_id,
            "query_id": self.query_id,
            "state": self.state,
            "stage": self.stage,
            "calls": len(self.tiles),
            "rows": self.rows,
            "stated_total": self.stated_total,
            "expected": self.expected,
            "before_stage": self.before_stage,
            "iterations": self.iterations,
            "iterations_done": self.iterations_done,
            "waiting": asdict(self.waiting) if self.waiting else None,
            "problem": self.problem.as_dict() if self.problem else None,
            "snapshot_id": self.snapshot_id,
            "tiles": [asdict(tile) for tile in self.tiles[since:]],
        }

    async def listen(self, pause: float = 0.1) -> AsyncIterator[dict[str, Any]]:
        """Summaries until the run ends: at once, then on each change, at most one in `pause` seconds."""
        sent = 0
        while True:
            changed = self._changed
            summary = self.summary(sent)
            sent = len(self.tiles)
            yield summary
            if summary["state"] != "running":
                return
            await changed.wait()
            await asyncio.sleep(pause)
