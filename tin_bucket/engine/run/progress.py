"""Live progress of a run: what has happened so far, for anyone who listens."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Literal

from pydantic import BaseModel, Field

from tin_bucket.core.problem import Problem
from tin_bucket.store.runs import Run

TileState = Literal["answered", "saved", "unchanged", "missing", "again", "failed"]


class Tile(BaseModel):
    """One call on the call strip."""

    number: int
    stage: str
    label: str
    state: TileState = Field(
        description="saved: an earlier run had the answer; unchanged: and the service said that it is up to date (304);"
        " again: it was retried; missing: there is no such record"
    )
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
        until: when it resumes, in seconds since 1970, where that is known.
        why: why it waits, such as ``90 calls in 10 seconds``.
    """

    what: str
    service_id: str
    problem: Problem | None = None
    until: float | None = None
    why: str = ""


class ProgressProblem(BaseModel):
    kind: str
    what: str
    where: str
    do: str
    words: str


class WaitingInfo(BaseModel):
    """What a run waits for, and why."""

    what: str = Field(description="key, or time")
    service_id: str
    problem: ProgressProblem | None
    until: float | None = Field(description="when it resumes, in seconds since 1970")
    why: str


class RunProgress(BaseModel):
    """What a run has done so far, with the tiles since the last time."""

    run_id: int
    query_id: int
    state: str
    stage: str = ""
    calls: int = 0
    rows: int = 0
    stated_total: int | None = None
    expected: int | None = Field(default=None, description="calls that the present stage will make, where known")
    before_stage: int = Field(default=0, description="calls that were made before the present stage")
    again: int = Field(default=0, description="calls of the present stage that were refused and made again")
    iterations: int = 1
    iterations_done: int = 0
    waiting: WaitingInfo | None = None
    problem: ProgressProblem | None = None
    snapshot_id: int | None = None
    tiles: list[Tile] = []


def _told(problem: Problem | None) -> ProgressProblem | None:
    return None if problem is None else ProgressProblem(**problem.as_dict())


def ended_progress(run: Run) -> RunProgress:
    """The progress of a run that ended, as it is written down."""
    return RunProgress(
        run_id=run.id,
        query_id=run.query_id,
        state=run.state,
        calls=run.calls,
        rows=run.rows,
        stated_total=run.stated_total,
        iterations=len(run.iterations),
        iterations_done=len(run.iterations),
        problem=_told(run.problem),
        snapshot_id=run.snapshot_id,
    )


@dataclass(slots=True)
class Progress:
    """What a run has done so far. It belongs to the event loop."""

    run_id: int
    query_id: int
    state: str = "running"
    stage: str = "pages"
    rows: int = 0
    stated_total: int | None = None
    expected: int | None = None
    before_stage: int = 0
    again: int = 0
    iterations: int = 1
    iterations_done: int = 0
    waiting: Waiting | None = None
    problem: Problem | None = None
    snapshot_id: int | None = None
    tiles: list[Tile] = field(default_factory=list)
    _changed: asyncio.Event = field(default_factory=asyncio.Event)
    _ended: asyncio.Event = field(default_factory=asyncio.Event)

    def tell(self) -> None:
        """Wake everyone who listens."""
        self._changed.set()
        self._changed = asyncio.Event()
        if self.state != "running":
            self._ended.set()

    def summary(self, since: int) -> RunProgress:
        """The state of the run, with the tiles from number `since` on."""
        waiting = self.waiting
        return RunProgress(
            run_id=self.run_id,
            query_id=self.query_id,
            state=self.state,
            stage=self.stage,
            calls=len(self.tiles),
            rows=self.rows,
            stated_total=self.stated_total,
            expected=self.expected,
            before_stage=self.before_stage,
            again=self.again,
            iterations=self.iterations,
            iterations_done=self.iterations_done,
            waiting=WaitingInfo(
                what=waiting.what,
                service_id=waiting.service_id,
                problem=_told(waiting.problem),
                until=waiting.until,
                why=waiting.why,
            )
            if waiting
            else None,
            problem=_told(self.problem),
            snapshot_id=self.snapshot_id,
            tiles=self.tiles[since:],
        )

    async def listen(self, pause: float = 0.1) -> AsyncIterator[RunProgress]:
        """Summaries until the run ends: at once, then on each change, at most one in `pause` seconds; the last one as
        soon as it ends."""
        sent = 0
        while True:
            changed = self._changed
            summary = self.summary(sent)
            sent = len(self.tiles)
            yield summary
            if summary.state != "running":
                return
            await changed.wait()
            with suppress(TimeoutError):
                await asyncio.wait_for(self._ended.wait(), pause)
