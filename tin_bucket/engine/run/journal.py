"""Notes the calls of a run: on its strip at once, in the workspace a moment later."""

from __future__ import annotations

import asyncio
import time

from tin_bucket.core.document.report import Tally
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.network.pacer import Pacer
from tin_bucket.store.runs import MadeCall, Run
from tin_bucket.store.workspace import Workspace

from .progress import Progress, Tile, TileState

_FLUSH_SECONDS = 0.02  # What a killed program may lose.


class CallJournal:
    """The calls of one run."""

    def __init__(self, workspace: Workspace, run: Run, progress: Progress, pacer: Pacer, stores: bool = True) -> None:
        """
        Args:
            stores: whether they are stored; else they are shown and counted alone.
        """
        self._stores = stores
        self._workspace = workspace
        self._run = run
        self._progress = progress
        self._pacer = pacer
        self._pending: list[MadeCall] = []
        self._unused: list[int] = []
        self._flushed = time.monotonic()
        self._flushing: asyncio.Future[None] | None = None
        self._reminder: asyncio.TimerHandle | None = None
        self._count = 0
        self.tally = Tally()

    def made(
        self,
        call: Call,
        answer: Answer,
        sent: str,
        records: int = 0,
        problem: Problem | None = None,
        state: TileState | None = None,
        used: bool = True,
        saved: bool = False,
        unchanged: bool = False,
    ) -> int:
        """Note a call; returns its number.

        Args:
            state: ``answered``, ``missing``, ``failed`` or ``again``; by the problem where None.
            used: whether the answer is part of the table.
            saved: whether the answer is one of an earlier run.
            unchanged: whether the service said that the answer of an earlier run is up to date.
        """
        self._count += 1
        state = state or ("failed" if problem else "answered")
        if unchanged and state == "answered":
            state = "unchanged"
        if saved:
            self.tally.saved += 1
        else:
            self._run.calls += 1
            self.tally.unchanged += unchanged
            self.tally.bytes += 0 if unchanged else answer.length
        if state == "again":
            self.tally.retries += 1
            self._progress.again += 1
        if self._stores:
            self._pending.append(MadeCall(self._count, call, answer, sent, records, problem, used, state, saved))
        tile = Tile(
            number=self._count,
            stage=call.stage,
            label=call.label,
            state="saved" if saved else state,
            status=304 if state == "unchanged" else answer.status,
            ms=round(answer.seconds * 1000),
            records=records,
        )
        self._progress.tiles.append(tile)
        self._progress.tell()
        return self._count

    def unused(self, numbers: list[int]) -> None:
        """Note that calls were made whose answers are no part of the table after all."""
        wanted = set(numbers)
        for at, one in enumerate(self._pending):
            if one.number in wanted:
                self._pending[at] = one.without_use()
                wanted.discard(one.number)
        self._unused.extend(wanted)

    async def flush_if_due(self) -> None:
        """Store the calls so far while the next ones are made; never two such batches at once.

        Raises:
            ProblemError: the batch before could not be stored.
        """
        if not self._stores:
            return
        storing = self._flushing is not None and not self._flushing.done()
        if storing or time.monotonic() - self._flushed < _FLUSH_SECONDS:
            # The next call may be hours away, where what comes now waits.
            if self._reminder is None:
                self._reminder = asyncio.get_running_loop().call_later(_FLUSH_SECONDS, self._reminded)
            return
        if self._flushing is not None:
            self._flushing.result()
        self._begin()

    def _reminded(self) -> None:
        self._reminder = None
        self.flush_soon()

    def _begin(self) -> None:
        pending, self._pending = self._pending, []
        unused, self._unused = self._unused, []
        self._flushed = time.monotonic()
        self._flushing = asyncio.ensure_future(asyncio.to_thread(self._store, pending, unused))

    def _store(self, pending: list[MadeCall], unused: list[int]) -> None:
        with self._workspace.write():
            if pending:
                self._workspace.runs.add_calls(self._run.id, pending)
            if unused:
                self._workspace.runs.mark_unused(self._run.id, unused)
            self._pacer.save()

    async def flush(self) -> None:
        """Store all calls that are not stored yet.

        Raises:
            ProblemError: they could not be stored.
            CancelledError: the run was stopped meanwhile; what is stored is stored.
        """
        if self._reminder is not None:
            self._reminder.cancel()
            self._reminder = None
        flushing, self._flushing = self._flushing, None
        stopped = flushing is not None and await finished(flushing)
        pending, self._pending = self._pending, []
        unused, self._unused = self._unused, []
        store = asyncio.to_thread(self._store, pending, unused)
        stopped = await finished(asyncio.ensure_future(store)) or stopped
        if stopped:
            raise asyncio.CancelledError

    def flush_soon(self) -> None:
        """Begin to store what is not stored, because a wait begins; after the batch that is being stored, if one is."""
        if not self._pending:
            return
        if self._flushing is None:
            self._begin()
        elif not self._flushing.done():
            self._flushing.add_done_callback(self._go_on)
        elif self._stored(self._flushing):
            self._begin()

    def _go_on(self, flushed: asyncio.Future[None]) -> None:
        if flushed is self._flushing and self._pending and self._stored(flushed):
            self._begin()

    @staticmethod
    def _stored(flushed: asyncio.Future[None]) -> bool:
        """Whether a batch is stored; where it is not, the next flush that is waited for says so."""
        return not flushed.cancelled() and flushed.exception() is None


async def finished(write: asyncio.Future[None]) -> bool:
    """Wait until a write has ended, even when the run is being stopped: a thread cannot be called back.

    Returns:
        Whether the run was stopped meanwhile.

    Raises:
        ProblemError: what the write could not do.
    """
    stopped = False
    while not write.done():
        try:
            await asyncio.wait([write])
        except asyncio.CancelledError:
            stopped = True
    write.result()
    return stopped
