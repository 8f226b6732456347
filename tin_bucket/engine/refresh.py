"""One refresh: turn the pages, look up, read the table, keep the snapshot."""

from __future__ import annotations

import asyncio
import logging
import time
from dataclasses import replace
from typing import Any

from tin_bucket.core.brief import Brief
from tin_bucket.core.calls import Call, build_call
from tin_bucket.core.lookup import LookUpPlan, is_missing, join_lookup, plan_lookup
from tin_bucket.core.paging import Page, Stop, turn_pages
from tin_bucket.core.picking import Picked, pick, pick_number
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.quiet import collector_paused
from tin_bucket.core.reading import no_rows_problem, read_table
from tin_bucket.core.replay import lookup_notes, reading_notes
from tin_bucket.core.service import Service
from tin_bucket.core.table import Table
from tin_bucket.core.verdict import Answer, Verdict, judge
from tin_bucket.core.wholeness import missing_words
from tin_bucket.store.runs import MadeCall, Run
from tin_bucket.store.workspace import Workspace

from .clock import Clock
from .progress import Progress, Tile
from .sender import Sender

log = logging.getLogger("tin_bucket.refresh")
AT_ONCE = 8  # Lookups that are under way at the same time.
_BIG = 200_000  # Bytes from which an answer is parsed beside the event loop.
_FLUSH_CALLS, _FLUSH_SECONDS = 64, 0.5


class Refresh:
    """A refresh of one query, from its first call to its snapshot."""

    def __init__(
        self,
        workspace: Workspace,
        clock: Clock,
        sender: Sender,
        service: Service,
        brief: Brief,
        run: Run,
        progress: Progress,
    ) -> None:
        self._workspace = workspace
        self._clock = clock
        self._sender = sender
        self._service = service
        self._brief = brief
        self._run = run
        self._progress = progress
        self._pending: list[MadeCall] = []
        self._flushed = time.monotonic()
        self._flushing: asyncio.Future[None] | None = None

    async def go(self) -> None:
        """Do it all. However it ends, the run's end is written; a snapshot only when the table was read."""
        run = self._run
        try:
            table, stop = await self._ask_everything()
            await self._flush()
            lacks = self._lacks(stop)
            run.state = "short" if lacks else "whole"
            if lacks:
                run.notes["lacks"] = lacks
            self._stage("keeping", None)
            # From here on it is too late to stop: the snapshot is there, or it is not.
            await _finished(asyncio.ensure_future(asyncio.to_thread(self._keep, table)))
        except Exception as error:
            # A fault of the program itself must not leave a run that seems to go on for ever.
            inner = error.exceptions[0] if isinstance(error, ExceptionGroup) else error
            if not isinstance(inner, ProblemError):
                log.error("run %s: %s", run.id, type(inner).__name__, exc_info=inner)
            await self._give_up("failed", inner.problem if isinstance(inner, ProblemError) else _fault(inner))
        except asyncio.CancelledError:
            problem = Problem("cancelled", "The run was stopped.", "", "Refresh again when you like.")
            await asyncio.shield(self._give_up("cancelled", problem))
        finally:
            progress = self._progress
            progress.state, progress.problem, progress.snapshot_id = run.state, run.problem, run.snapshot_id
            progress.rows = run.rows or progress.rows
            progress.tell()

    def _stage(self, name: str, expected: int | None) -> None:
        """Tell that a new stage begins, and how many calls it will make where that is known."""
        progress = self._progress
        progress.stage, progress.expected, progress.before_stage = name, expected, len(progress.tiles)
        progress.tell()

    def _lacks(self, stop: Stop) -> list[str]:
        failed = sum(note["failed"] for note in self._run.notes.get("lookups", {}).values())
        return missing_words(self._run.records, stop.stated_total, failed, stop)

    # Asking ----------------------------------------------------------------------------------------------------

    async def _ask_everything(self) -> tuple[Table, Stop]:
        run = self._run
        picked, stop = await self._turn_pages()
        run.stop, run.stated_total = stop.evidence, stop.stated_total
        self._stage("reading", None)
        reading = await asyncio.to_thread(read_table, self._brief.take, picked)
        run.records = reading.records
        run.notes.update(reading_notes(reading))
        table = await self._look_up(reading.table)
        run.rows = table.height
        return table, stop

    async def _turn_pages(self) -> tuple[list[Picked], Stop]:
        brief, progress = self._brief, self._progress
        first = build_call(self._service.base, brief.ask, self._run.bindings, self._service.fixed_headers())
        turner = turn_pages(first, brief.pages)
        call = next(turner)
        picked: list[Picked] = []
        while True:
            answer, sent = await self._send(call)
            verdict = await self._judge(answer)
            if verdict.problem is not None:
                problem = placed(verdict.problem, call)
                self._made(call, answer, sent, 0, problem)
                raise ProblemError(problem)
            found = pick(verdict.document, brief.take.records)
            self._made(call, answer, sent, len(found.values), None)
            if not found.values and not picked:
                lost = no_rows_problem(verdict.document, brief.take.records)
                if lost is not None:
                    raise ProblemError(replace(lost, where=f"{_short(call)}, {lost.where}"))
            picked.append(found)
            progress.rows += len(found.values)
            progress.stated_total = pick_number(verdict.document, brief.pages.total)
            if brief.pages.by == "number":
                progress.expected = pick_number(verdict.document, brief.pages.last_page)
            progress.tell()
            await self._flush_if_due()
            try:
                call = turner.send(Page(verdict.document, found.values))
            except StopIteration as stopped:
                return picked, stopped.value

    async def _look_up(self, table: Table) -> Table:
        plans: dict[str, LookUpPlan] = {}
        got: dict[str, list[Answer]] = {}
        for look_up in self._brief.look_up:
            plan = plan_lookup(look_up, table, self._run.bindings, self._service.base, self._service.fixed_headers())
            self._stage(f"look up {look_up.name}", len(plan.calls))
            gate = asyncio.Semaphore(AT_ONCE)

            async def one(call: Call, gate: asyncio.Semaphore = gate, look_up: Any = look_up) -> Answer:
                async with gate:
                    answer, sent = await self._send(call)
                missing = is_missing(look_up, answer)
                problem = None if missing else judge(answer).problem
                state = "missing" if missing else "answered" if problem is None else "failed"
                self._made(call, answer, sent, 0, placed(problem, call) if problem else None, state)
                self._progress.tell()
                await self._flush_if_due()
                return answer

            async with asyncio.TaskGroup() as group:
                tasks = [group.create_task(one(call)) for call in plan.calls]
            plans[look_up.name], got[look_up.name] = plan, [task.result() for task in tasks]
            table = join_lookup(look_up, table, plan, got[look_up.name])
        if plans:
            self._run.notes["lookups"] = lookup_notes(plans, got, self._brief)
        return table

    async def _send(self, call: Call) -> tuple[Answer, str]:
        sent = self._clock.now().isoformat(timespec="milliseconds")
        return await self._sender.send(call), sent

    async def _judge(self, answer: Answer) -> Verdict:
        if len(answer.body) > _BIG:
            return await asyncio.to_thread(judge, answer)
        return judge(answer)

    # Keeping ---------------------------------------------------------------------------------------------------

    def _made(
        self, call: Call, answer: Answer, sent: str, records: int, problem: Problem | None, state: str = ""
    ) -> None:
        self._run.calls += 1
        number = self._run.calls
        self._pending.append(MadeCall(number, call, answer, sent, records, problem))
        shown = state or ("failed" if problem else "answered")
        tile = Tile(number, call.stage, call.label, shown, answer.status, round(answer.seconds * 1000), records)
        self._progress.tiles.append(tile)

    async def _flush_if_due(self) -> None:
        """Store the calls so far while the next ones are made; never two such batches at once."""
        if len(self._pending) >= _FLUSH_CALLS or time.monotonic() - self._flushed > _FLUSH_SECONDS:
            if self._flushing is not None and await _finished(self._flushing):
                raise asyncio.CancelledError
            pending, self._pending = self._pending, []
            self._flushed = time.monotonic()
            if pending:
                store = asyncio.to_thread(self._workspace.runs.add_calls, self._run.id, pending)
                self._flushing = asyncio.ensure_future(store)

    async def _flush(self) -> None:
        """Store all calls that are not stored yet."""
        flushing, self._flushing = self._flushing, None
        stopped = flushing is not None and await _finished(flushing)
        pending, self._pending = self._pending, []
        if pending:
            store = asyncio.to_thread(self._workspace.runs.add_calls, self._run.id, pending)
            stopped = await _finished(asyncio.ensure_future(store)) or stopped
        if stopped:
            raise asyncio.CancelledError

    def _keep(self, table: Table) -> None:
        """The snapshot and the run's end in one transaction: both, or neither."""
        workspace, run, now = self._workspace, self._run, self._clock.now()
        with workspace.write() as db, collector_paused():
            run.snapshot_id = workspace.snapshots.add(
                db,
                run.query_id,
                run.id,
                table,
                match=self._brief.keep.match,
                whole=run.state == "whole",
                stated_total=run.stated_total,
                now=now,
            )
            workspace.runs.end(db, run, now)
        try:
            workspace.archive.prune(run.query_id)
        except ProblemError as error:
            # The snapshot is kept; old answers are let go after the next run.
            log.warning("run %s: %s", run.id, error.problem.sentence())

    async def _give_up(self, state: str, problem: Problem) -> None:
        # A snapshot whose transaction was given up is none.
        self._run.state, self._run.problem, self._run.snapshot_id = state, problem, None
        self._run.records = self._run.records or self._progress.rows
        try:
            await self._flush()
            await asyncio.to_thread(self._write_end)
        except ProblemError as error:
            # The end could not be written; the next start marks the run as broken off.
            log.error("run %s: %s", self._run.id, error.problem.sentence())

    def _write_end(self) -> None:
        with self._workspace.write() as db:
            self._workspace.runs.end(db, self._run, self._clock.now())


async def _finished(write: asyncio.Future[None]) -> bool:
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


def _fault(error: Exception) -> Problem:
    return Problem(
        "program-fault",
        f"The program itself failed ({type(error).__name__}).",
        "",
        "Earlier snapshots are as they were. Please report this, with what the program's log says.",
    )


def _short(call: Call) -> str:
    return f"{call.method} {call.address.split('?')[0]}" + (f", {call.label}" if call.label else "")


def placed(problem: Problem, call: Call) -> Problem:
    """The problem with the call that it belongs to, without the call's parameters."""
    return replace(problem, where=_short(call))
