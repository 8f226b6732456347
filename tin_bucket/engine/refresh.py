"""One refresh: turn the pages, look up, read the table, keep the snapshot."""

from __future__ import annotations

import asyncio
import logging
import time
from dataclasses import dataclass, replace
from typing import Any

from tin_bucket.core.calls import Call
from tin_bucket.core.each import round_label
from tin_bucket.core.lookup import LookUpPlan, is_missing, join_lookup, lookup_service, plan_lookup, with_rounds
from tin_bucket.core.paging import Page, Stop, join_stops, turn_pages
from tin_bucket.core.picking import Picked, pick, pick_number
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.quiet import collector_paused
from tin_bucket.core.reading import no_rows_problem, read_table
from tin_bucket.core.replay import lookup_notes, reading_notes
from tin_bucket.core.rounds import add_round_columns
from tin_bucket.core.table import Table
from tin_bucket.core.verdict import Answer, Verdict, judge
from tin_bucket.core.wholeness import missing_words
from tin_bucket.store.runs import MadeCall, Run
from tin_bucket.store.workspace import Workspace

from .clock import Clock
from .http import Fetcher
from .keeper import Keeper
from .plan import Plan
from .progress import Progress, Tile, Waiting
from .sender import Sender
from .sources import sheet_answers

log = logging.getLogger("tin_bucket.refresh")
AT_ONCE = 8  # Lookups that are under way at the same time.
ROUNDS_AT_ONCE = 4
MOST_TOLD = 50  # Failed rounds that a run tells one by one.
# What a run waits for when it may: a new key, or a token.
WAITED_FOR = ("key-refused", "key-missing", "key-bound-elsewhere", "token-wanted", "vault-closed")
# What fails every round alike.
FOR_ALL = (*WAITED_FOR, "key-unfit", "host-unknown", "address-not-allowed", "not-secure")
_BIG = 200_000  # Bytes from which an answer is parsed beside the event loop.
_FLUSH_CALLS, _FLUSH_SECONDS = 64, 0.5


@dataclass(frozen=True, slots=True)
class RoundDone:
    """What one round gave: its pages and why it stopped, or why it failed."""

    picked: list[Picked]
    stop: Stop | None
    problem: Problem | None = None


class Refresh:
    """A refresh of one query, from its first call to its snapshot."""

    def __init__(
        self,
        workspace: Workspace,
        clock: Clock,
        keeper: Keeper,
        fetcher: Fetcher,
        plan: Plan,
        run: Run,
        progress: Progress,
        patient: bool,
    ) -> None:
        """
        Args:
            plan: what is asked.
            patient: whether the run waits for a new key when its key is refused.
        """
        self._workspace = workspace
        self._clock = clock
        self._keeper = keeper
        self._fetcher = fetcher
        self._plan = plan
        self._brief = plan.brief
        self._run = run
        self._progress = progress
        self._patient = patient
        self._senders: dict[str, Sender] = {}
        self._pending: list[MadeCall] = []
        self._flushed = time.monotonic()
        self._flushing: asyncio.Future[None] | None = None
        self._answered = False
        self._used_keys: set[str] = set()

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
            try:
                await asyncio.shield(self._note_keys())
            finally:
                progress = self._progress
                progress.state, progress.problem, progress.snapshot_id = run.state, run.problem, run.snapshot_id
                progress.rows = run.rows or progress.rows
                progress.tell()

    async def _note_keys(self) -> None:
        try:
            for service_id in self._used_keys:
                if self._plan.services[service_id].key is not None:
                    await asyncio.to_thread(self._workspace.vault.used, service_id, self._clock.now())
        except ProblemError as error:
            # When a key was used last is no reason to lose a table.
            log.warning("run %s: %s", self._run.id, error.problem.sentence())

    def _stage(self, name: str, expected: int | None) -> None:
        """Tell that a new stage begins, and how many calls it will make where that is known."""
        progress = self._progress
        progress.stage, progress.expected, progress.before_stage = name, expected, len(progress.tiles)
        progress.tell()

    def _lacks(self, stop: Stop) -> list[str]:
        notes = self._run.notes
        failed = sum(note["failed"] for note in notes.get("lookups", {}).values())
        rounds = (notes.get("rounds_failed", 0), len(self._plan.rounds))
        return missing_words(self._run.records, stop.stated_total, failed, stop, rounds)

    # Asking ----------------------------------------------------------------------------------------------------

    async def _ask_everything(self) -> tuple[Table, Stop]:
        run, plan = self._run, self._plan
        rounds = await (self._read_sheet() if plan.brief.ask is None else self._ask_rounds())
        stop = join_stops([one.stop for one in rounds if one.stop is not None], len(rounds))
        run.stop, run.stated_total = stop.evidence, stop.stated_total
        self._stage("reading", None)
        picked = [page for one in rounds for page in one.picked]
        of_page = [at for at, one in enumerate(rounds) for _ in one.picked]
        reading = await asyncio.to_thread(read_table, self._brief.take, picked)
        run.records = reading.records
        run.notes.update(reading_notes(reading))
        failed = [(at, one.problem) for at, one in enumerate(rounds) if one.problem is not None]
        if failed:
            run.notes["failed_rounds"] = [
                {"label": round_label(plan.rounds[at]), **problem.as_dict()} for at, problem in failed[:MOST_TOLD]
            ]
            run.notes["rounds_failed"] = len(failed)
        table = add_round_columns(self._brief, reading.table, plan.rounds, of_page)
        table = await self._look_up(table)
        run.rows = table.height
        return table, stop

    async def _read_sheet(self) -> list[RoundDone]:
        assert self._brief.sheet is not None
        picked = []
        for call, answer in await asyncio.to_thread(sheet_answers, self._workspace, self._brief.sheet):
            found = pick((await self._judge(answer)).document, self._brief.take.records)
            self._made(call, answer, self._now(), len(found.values), None)
            self._progress.rows += len(found.values)
            picked.append(found)
        self._progress.tell()
        return [RoundDone(picked, Stop("single", "the whole sheet was read", True))]

    async def _ask_rounds(self) -> list[RoundDone]:
        """Ask for each of the values; one that fails does not lose the others."""
        rounds = self._plan.rounds
        if len(rounds) == 1:
            picked: list[Picked] = []
            return [RoundDone(picked, await self._turn_pages(0, picked))]
        self._stage("pages", None)
        self._progress.rounds = len(rounds)
        gate = asyncio.Semaphore(ROUNDS_AT_ONCE)

        async def one(at: int) -> RoundDone:
            async with gate:
                # What a round gave before it failed is true, and stays.
                picked: list[Picked] = []
                try:
                    done = RoundDone(picked, await self._turn_pages(at, picked))
                except ProblemError as error:
                    if error.problem.kind in FOR_ALL:
                        raise
                    done = RoundDone(picked, None, error.problem)
                self._progress.rounds_done += 1
                return done

        async with asyncio.TaskGroup() as group:
            tasks = [group.create_task(one(at)) for at in range(len(rounds))]
        done = [task.result() for task in tasks]
        if all(one.problem is not None and not one.picked for one in done):
            first = done[0].problem
            assert first is not None
            raise ProblemError(replace(first, what=f"All {len(done):,} rounds failed; the first: {first.what}"))
        return done

    async def _turn_pages(self, at: int, picked: list[Picked]) -> Stop:
        """Ask for the pages of one round, add what they hold to `picked`, and say why it ended."""
        brief, progress, plan = self._brief, self._progress, self._plan
        turner = turn_pages(plan.call(at), brief.pages)
        call = next(turner)
        several = len(plan.rounds) > 1
        prefix = round_label(plan.rounds[at]) if several else ""
        while True:
            # Whatever the turner calls it, a call of one of many rounds says which.
            call = replace(call, round=at, label=", ".join(filter(None, (prefix, call.label))))
            answer, sent = await self._send(call, plan.service_id, first=not self._answered)
            verdict = await self._judge(answer)
            if verdict.problem is not None:
                problem = placed(verdict.problem, call)
                self._made(call, answer, sent, 0, problem, used=not several)
                await self._flush_if_due()
                raise ProblemError(problem)
            self._answered = True
            found = pick(verdict.document, brief.take.records)
            lost = None if found.values or picked else no_rows_problem(verdict.document, brief.take.records)
            self._made(call, answer, sent, len(found.values), None, used=lost is None or not several)
            if lost is not None:
                raise ProblemError(replace(lost, where=f"{_short(call)}, {lost.where}"))
            picked.append(found)
            progress.rows += len(found.values)
            if not several:
                progress.stated_total = pick_number(verdict.document, brief.pages.total)
                if brief.pages.by == "number":
                    progress.expected = pick_number(verdict.document, brief.pages.last_page)
            progress.tell()
            await self._flush_if_due()
            try:
                call = turner.send(Page(verdict.document, found.values))
            except StopIteration as stopped:
                stop: Stop = stopped.value
                return stop

    async def _look_up(self, table: Table) -> Table:
        plans: dict[str, LookUpPlan] = {}
        got: dict[str, list[Answer]] = {}
        for look_up in self._brief.look_up:
            service_id = lookup_service(self._brief, look_up)
            service = self._plan.services[service_id]
            effective = with_rounds(self._brief, look_up, table)
            plan = plan_lookup(effective, table, self._plan.scope(), service.base, service.fixed_headers())
            self._stage(f"look up {look_up.name}", len(plan.calls))
            gate = asyncio.Semaphore(AT_ONCE)

            async def one(
                call: Call, gate: asyncio.Semaphore = gate, look_up: Any = look_up, service_id: str = service_id
            ) -> Answer:
                async with gate:
                    answer, sent = await self._send(call, service_id)
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

    # Sending ---------------------------------------------------------------------------------------------------

    def _sender(self, service_id: str) -> Sender:
        sender = self._senders.get(service_id)
        if sender is None:
            service = self._plan.services[service_id]
            sender = self._senders[service_id] = Sender(self._fetcher, self._keeper, service, self._signed_in)
        return sender

    def _signed_in(self, call: Call, answer: Answer, sent: str) -> None:
        """Note a sign-in call among the others; its answer, which holds the token, is not kept."""
        problem = judge(answer).problem
        self._made(call, answer, sent, 0, placed(problem, call) if problem else None, used=False)

    async def _send(self, call: Call, service_id: str, first: bool = False) -> tuple[Answer, str]:
        """Make a call. When its key is refused, wait for a new one, then make it again."""
        while True:
            sent, version = self._now(), self._keeper.version(service_id)
            problem: Problem | None = None
            answer: Answer | None = None
            try:
                answer = await self._sender(service_id).send(call)
                self._used_keys.add(service_id)
                if answer.status == 401 or (answer.status == 403 and first):
                    problem = judge(answer).problem
            except ProblemError as error:
                if error.problem.kind not in WAITED_FOR:
                    raise
                problem = error.problem
            keyed = self._plan.services[service_id].key is not None
            if problem is None or problem.kind not in WAITED_FOR or not keyed or not self._patient:
                if answer is None:
                    assert problem is not None
                    raise ProblemError(problem)
                return answer, sent
            if answer is not None:
                self._made(call, answer, sent, 0, placed(problem, call), used=False)
            await self._wait_for_key(service_id, version, placed(problem, call) if answer is not None else problem)

    async def _wait_for_key(self, service_id: str, version: int, problem: Problem) -> None:
        progress = self._progress
        await self._flush_if_due()
        progress.waiting = Waiting("key", service_id, problem)
        progress.tell()
        try:
            await self._keeper.changed(service_id, version)
        finally:
            progress.waiting = None
            progress.tell()

    def _now(self) -> str:
        return self._clock.now().isoformat(timespec="milliseconds")

    async def _judge(self, answer: Answer) -> Verdict:
        if len(answer.body) > _BIG:
            return await asyncio.to_thread(judge, answer)
        return judge(answer)

    # Keeping ---------------------------------------------------------------------------------------------------

    def _made(
        self,
        call: Call,
        answer: Answer,
        sent: str,
        records: int,
        problem: Problem | None,
        state: str = "",
        used: bool = True,
    ) -> None:
        self._run.calls += 1
        number = self._run.calls
        self._pending.append(MadeCall(number, call, answer, sent, records, problem, used))
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
