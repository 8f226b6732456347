"""One refresh: turn the pages, look up, read the table, keep the snapshot."""

from __future__ import annotations

import asyncio
import logging
from collections import deque
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import IO, Any

from tin_bucket.core.analysis.completeness import completeness_gaps
from tin_bucket.core.analysis.duplicates import duplicates_by_match
from tin_bucket.core.analysis.schema_drift import schema_drift
from tin_bucket.core.formats.json import doubled_keys
from tin_bucket.core.formats.json_stream import outside_of_records, streamed_records
from tin_bucket.core.formats.jsonpath import Picked, pick
from tin_bucket.core.pagination.protocol import (
    LISTING,
    Page,
    PaginationEnd,
    Paginator,
    join_ends,
    make_page,
    stated_number,
)
from tin_bucket.core.pagination.registry import way_of
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.iterations import iteration_label
from tin_bucket.core.response.classify import Verdict, classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.fan_out_columns import add_fan_out_columns
from tin_bucket.core.table.lookup import (
    LookUpPlan,
    is_missing,
    join_lookup,
    lookup_service,
    plan_lookup,
    with_iterations,
)
from tin_bucket.core.table.reader import no_rows_problem
from tin_bucket.core.table.rebuild import lookup_notes, reading_notes
from tin_bucket.core.table.select import Reading
from tin_bucket.core.table.table import Table
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.gc_pause import collector_paused
from tin_bucket.engine.network.sender import Connections
from tin_bucket.engine.workspace.sources import sheet_answers
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .calls import WAITED_FOR, CallRunner, Got, Saved, placed, short_words
from .collector import MANY, PageCollector
from .journal import CallJournal, finished
from .plan import RunPlan
from .progress import Progress

log = logging.getLogger("tin_bucket.refresh")
MOST_TOLD = 50  # Failed iterations and pages that a run tells one by one.
# What fails every round alike.
FOR_ALL = (*WAITED_FOR, "key-unfit", "host-unknown", "address-not-allowed", "not-secure")
_BIG = 200_000  # Bytes from which an answer is parsed beside the event loop.


@dataclass(frozen=True, slots=True)
class IterationDone:
    """Why a round stopped, or why it failed."""

    stop: PaginationEnd | None
    problem: Problem | None = None


@dataclass(frozen=True, slots=True)
class Fetched:
    """A page with what was taken from it, and the number of its call. Of one that is too large to hold the records are
    in `spool`, and `count` tells how many there are."""

    page: Page
    picked: Picked
    number: int
    spool: IO[bytes] | None = None
    count: int = 0


class Refresh:
    """A refresh of one query, from its first call to its snapshot."""

    def __init__(
        self,
        workspace: Workspace,
        clock: Clock,
        connections: Connections,
        plan: RunPlan,
        run: Run,
        progress: Progress,
        patient: bool,
        saved: Saved | None = None,
    ) -> None:
        """
        Args:
            plan: what is asked.
            patient: whether the run waits for a new key when its key is refused.
            saved: the answers of the run that this one goes on from.
        """
        self._workspace = workspace
        self._clock = clock
        self._plan = plan
        self._brief = plan.brief
        self._run = run
        self._progress = progress
        self._journal = CallJournal(workspace, run, progress, connections.pacer)
        self._runner = CallRunner(connections, clock, plan, self._journal, progress, patient, saved)
        self._collector = PageCollector(plan.brief.take, plan.iterations, plan.bindings)
        self._failed_pages: list[tuple[str, Problem]] = []
        self._error_rules = tuple(plan.services[plan.service_id].error_rules) if plan.service_id else ()

    async def go(self) -> None:
        """Do it all. However it ends, the run's end is written; a snapshot only when the table was read."""
        run = self._run
        try:
            table, stop = await self._ask_everything()
            await self._journal.flush()
            gaps = self._gaps(stop)
            run.notes["tally"] = self._journal.tally.as_dict()
            run.state = "incomplete" if gaps else "complete"
            if gaps:
                run.notes["gaps"] = gaps
            self._stage("keeping", None)
            # From here on it is too late to stop: the snapshot is there, or it is not.
            await finished(asyncio.ensure_future(asyncio.to_thread(self._keep, table)))
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
            for service_id in self._runner.used_keys:
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

    def _gaps(self, stop: PaginationEnd) -> list[str]:
        notes = self._run.notes
        failed = sum(note["failed"] for note in notes.get("lookups", {}).values())
        iterations = (notes.get("iterations_failed", 0), len(self._plan.iterations))
        twice = notes.get("duplicates", {}).get("rows", 0)
        return completeness_gaps(self._run.records, stop, failed, iterations, twice, self._brief.keep.match)

    # Asking ----------------------------------------------------------------------------------------------------

    async def _ask_everything(self) -> tuple[Table, PaginationEnd]:
        run, plan = self._run, self._plan
        iterations = await (self._read_sheet() if plan.brief.ask is None else self._ask_iterations())
        stop = join_ends([one.stop for one in iterations if one.stop is not None], len(iterations))
        run.stop, run.stated_total = stop.evidence, stop.stated_total
        self._stage("reading", None)
        of_page = self._collector.iteration_of_page
        reading = await asyncio.to_thread(self._collector.reading)
        run.records = reading.records
        run.notes["pages"] = len(of_page)
        run.notes.update(reading_notes(self._brief, reading))
        await asyncio.to_thread(self._note_drift, reading)
        failed = [(at, one.problem) for at, one in enumerate(iterations) if one.problem is not None]
        if failed:
            run.notes["failed_iterations"] = [
                {"label": iteration_label(plan.iterations[at]), **problem.as_dict()}
                for at, problem in failed[:MOST_TOLD]
            ]
            run.notes["iterations_failed"] = len(failed)
        if self._failed_pages:
            run.notes["failed_pages"] = [
                {"label": label, **problem.as_dict()} for label, problem in self._failed_pages[:MOST_TOLD]
            ]
        if stop.page_size is not None:
            run.notes["page_size"] = {"asked": stop.page_size[0], "got": stop.page_size[1]}
        if stop.moved:
            run.notes["total_moved"] = {"from": stop.first_total, "to": stop.stated_total}
        table = add_fan_out_columns(self._brief, reading.table, plan.iterations, of_page)
        twice = duplicates_by_match(table, self._brief.keep.match, of_page)
        if twice:
            run.notes["duplicates"] = {"rows": twice, "by": self._brief.keep.match}
        table = await self._look_up(table)
        run.rows = table.height
        return table, stop

    async def _read_sheet(self) -> list[IterationDone]:
        assert self._brief.sheet is not None
        for call, answer in await asyncio.to_thread(sheet_answers, self._workspace, self._brief.sheet):
            document = (await self._classify(answer)).document
            found = pick(document, self._brief.take.records)
            self._journal.made(call, answer, self._runner.now(), len(found.values), None)
            self._progress.rows += len(found.values)
            await self._collector.add(0, found, document)
        self._progress.tell()
        return [IterationDone(PaginationEnd("single", "the whole sheet was read", True))]

    def _at_once(self, service_id: str) -> int:
        """How many calls of a service are prepared together; its lane says how many go."""
        return self._plan.services[service_id].at_once

    async def _ask_iterations(self) -> list[IterationDone]:
        """Ask for each of the values; one that fails does not lose the others."""
        iterations = self._plan.iterations
        if len(iterations) == 1:
            return [IterationDone(await self._paginate(0))]
        self._stage("pages", None)
        self._progress.iterations = len(iterations)
        gate = asyncio.Semaphore(self._at_once(self._plan.service_id))

        async def one(at: int) -> IterationDone:
            async with gate:
                # What a round gave before it failed is true, and stays.
                try:
                    done = IterationDone(await self._paginate(at))
                except ProblemError as error:
                    if error.problem.kind in FOR_ALL:
                        raise
                    done = IterationDone(None, error.problem)
                await self._collector.end(at)
                self._progress.iterations_done += 1
                return done

        async with asyncio.TaskGroup() as group:
            tasks = [group.create_task(one(at)) for at in range(len(iterations))]
        done = [task.result() for task in tasks]
        if all(one.problem is not None for one in done) and not any(self._collector.pages):
            first = done[0].problem
            assert first is not None
            raise ProblemError(replace(first, what=f"All {len(done):,} iterations failed; the first: {first.what}"))
        return done

    async def _paginate(self, at: int) -> PaginationEnd:
        """Ask for the pages of one round, gather what they hold, and say why it ended.

        Calls that the paginator knows beforehand are made together; their pages go back to it in order.
        """
        plan, pages = self._plan, self._brief.pages
        several = len(plan.iterations) > 1
        paginator = plan.paginator(at)
        known = deque(next(paginator))
        fetching: deque[tuple[Call, asyncio.Task[Fetched]]] = deque()
        # Twice as many, so that a slow page does not keep those behind it waiting; the lane says how many go.
        most = 2 * self._at_once(plan.service_id)
        turn = 0
        try:
            while True:
                while known and len(fetching) < most:
                    # Whatever the paginator calls it, a call of one of many iterations says which.
                    call = known.popleft()
                    label = ", ".join(
                        filter(None, (iteration_label(plan.iterations[at]) if several else "", call.label))
                    )
                    call = replace(call, iteration=at, turn=turn, label=label)
                    fetching.append((call, asyncio.create_task(self._page(call, several, not turn))))
                    turn += 1
                call, task = fetching.popleft()
                try:
                    fetched = await task
                    page = fetched.page
                    if call.stage != LISTING:
                        await self._gather(at, fetched)
                    self._show(fetched, several, turn + len(known) if known or fetching else 0)
                except ProblemError as error:
                    if error.problem.kind in FOR_ALL or not way_of(pages).can_skip or not call.turn:
                        raise
                    page = Page(None, [], failed=error.problem)
                await self._journal.flush_if_due()
                if len(page.records) >= MANY:
                    following = await asyncio.to_thread(_following, paginator, page)
                else:
                    following = _following(paginator, page)
                if isinstance(following, PaginationEnd):
                    if page.failed is not None and not following.complete:
                        self._failed_pages.append((call.label, page.failed))
                    return following
                known.extend(following)
                if page.failed is not None:
                    self._failed_pages.append((call.label, page.failed))
        finally:
            await self._drop([task for _, task in fetching])

    async def _gather(self, at: int, fetched: Fetched) -> None:
        if fetched.spool is None:
            await self._collector.add(at, fetched.picked, fetched.page.document)
            return
        with fetched.spool as spool:
            spool.seek(0)
            batches = streamed_records(spool, self._brief.take.records)
            await self._collector.add_streamed(at, batches, fetched.page.document)

    async def _streamed(self, call: Call, got: Got) -> Fetched:
        """A page that is too large to hold: its records are counted now and read when it is their turn.

        Raises:
            ProblemError: it cannot be read so; the call is noted.
        """
        answer, path = got.answer, self._brief.take.records
        spool = answer.spool
        assert spool is not None

        def look() -> tuple[int, list[Any], Any]:
            count, last = 0, []
            for batch in streamed_records(spool, path):
                count, last = count + len(batch), batch[-1:]
            if not count:
                # An empty list is no reason for so large an answer: the rows are elsewhere.
                raise fail(
                    "no-rows-there",
                    f"There is nothing at {path} in an answer of {answer.length // 2**20:,} MB.",
                    do="Correct the place of the records; with fewer rows a page, asking once shows where they are.",
                )
            spool.seek(0)
            return count, last, outside_of_records(spool, path)

        try:
            count, last, document = await asyncio.to_thread(look)
        except ProblemError as error:
            spool.close()
            problem = placed(error.problem, call)
            self._journal.made(call, answer, got.sent, 0, problem, used=False)
            raise ProblemError(problem) from error
        self._runner.answered = True
        note = "It is too large to hold; it was read piece by piece, and is not kept."
        number = self._journal.made(call, replace(answer, note=note), got.sent, count)
        page = Page(document, last, answer.headers, count)
        return Fetched(page, Picked([], []), number, spool, count)

    async def _drop(self, tasks: list[asyncio.Task[Fetched]]) -> None:
        """Give up calls that turned out not to be wanted."""
        for task in tasks:
            task.cancel()
        if tasks:
            done = await asyncio.gather(*tasks, return_exceptions=True)
            self._journal.unused([one.number for one in done if isinstance(one, Fetched)])

    async def _page(self, call: Call, several: bool, first: bool) -> Fetched:
        """One page: its call is made, classified and noted.

        Raises:
            ProblemError: why there is none; the call is noted.
        """
        got = await self._runner.send(call, self._plan.service_id, spools=True)
        answer = got.answer
        if answer.spool is not None:
            return await self._streamed(call, got)
        verdict = await self._classify(answer)
        if verdict.problem is not None:
            problem = placed(verdict.problem, call)
            skipped = several or (way_of(self._brief.pages).can_skip and not first)
            self._journal.made(call, answer, got.sent, 0, problem, used=not skipped, saved=got.saved)
            raise ProblemError(problem)
        self._runner.answered = True
        page, found = make_page(self._brief.pages, self._brief.take.records, call, verdict.document, answer.headers)
        lost = None
        if first and not page.records and not verdict.nothing and call.stage != LISTING:
            lost = no_rows_problem(verdict.document, self._brief.take.records)
        if first:
            self._note_oddities(answer, verdict)
        number = self._journal.made(
            call, answer, got.sent, len(found.values), None, used=lost is None or not several, saved=got.saved
        )
        if lost is not None:
            raise ProblemError(replace(lost, where=f"{short_words(call)}, {lost.where}"))
        return Fetched(page, found, number)

    def _show(self, fetched: Fetched, several: bool, expected: int) -> None:
        progress = self._progress
        progress.rows += len(fetched.picked.values) + fetched.count
        if not several:
            progress.stated_total = stated_number(fetched.page, self._brief.pages.total)
            progress.expected = max(expected, progress.expected or 0) if expected > 1 else None
        progress.tell()

    def _note_oddities(self, answer: Answer, verdict: Verdict) -> None:
        """What is strange in the first answer, and does no harm."""
        notes = [verdict.note] if verdict.note else []
        doubled = doubled_keys(answer.body)
        if doubled:
            names = ", ".join(f"“{name[:40]}”" for name in doubled[:3])
            notes.append(f"In some objects {names} stands more than once; the last of them is read.")
        for note in notes:
            if note not in self._run.notes.setdefault("oddities", []):
                self._run.notes["oddities"].append(note)

    async def _look_up(self, table: Table) -> Table:
        plans: dict[str, LookUpPlan] = {}
        got: dict[str, list[Answer]] = {}
        for look_up in self._brief.look_up:
            service_id = lookup_service(self._brief, look_up)
            service = self._plan.services[service_id]
            effective = with_iterations(self._brief, look_up, table)
            plan = plan_lookup(effective, table, self._plan.scope(), service.base, service.fixed_headers())
            self._stage(f"look up {look_up.name}", len(plan.calls))
            gate = asyncio.Semaphore(self._at_once(service_id))

            async def one(
                call: Call,
                gate: asyncio.Semaphore = gate,
                look_up: Any = look_up,
                service_id: str = service_id,
                error_rules: Any = service.error_rules,
            ) -> Answer:
                async with gate:
                    found = await self._runner.send(call, service_id)
                answer = found.answer
                missing = is_missing(look_up, answer)
                problem = None if missing else classify(answer, error_rules).problem
                state = "missing" if missing else "answered" if problem is None else "failed"
                told = placed(problem, call) if problem else None
                self._journal.made(call, answer, found.sent, 0, told, state, saved=found.saved)
                await self._journal.flush_if_due()
                return answer

            async with asyncio.TaskGroup() as group:
                tasks = [group.create_task(one(replace(call, turn=turn))) for turn, call in enumerate(plan.calls)]
            plans[look_up.name], got[look_up.name] = plan, [task.result() for task in tasks]
            table = join_lookup(look_up, table, plan, got[look_up.name], service.error_rules)
        if plans:
            self._run.notes["lookups"] = lookup_notes(plans, got, self._brief, self._plan.services)
        return table

    async def _classify(self, answer: Answer) -> Verdict:
        if len(answer.body) > _BIG:
            return await asyncio.to_thread(classify, answer, self._error_rules)
        return classify(answer, self._error_rules)

    def _note_drift(self, reading: Reading) -> None:
        """What the API sends otherwise than at the last refresh."""
        run = self._run
        if not reading.records:
            return
        found = schema_drift(self._workspace.runs.fields_before(run.query_id, run.id), reading.fields, self._brief.take)
        if found:
            run.notes["drift"] = found
        run.fields = reading.fields

    # Keeping ---------------------------------------------------------------------------------------------------

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
                complete=run.state == "complete",
                stated_total=run.stated_total,
                now=now,
            )
            same = workspace.snapshots.same_content(db, run.snapshot_id, table.page)
            if same and not self._brief.keep.match:
                # Without match columns nothing tells whether these are one row or several that are alike.
                rows = "1 row is" if same == 1 else f"{same:,} rows are"
                run.notes.setdefault("oddities", []).append(
                    f"{rows} the same as a row on an earlier page. Say by which columns rows match, and it is told "
                    "whether they came twice."
                )
            workspace.runs.end(db, run, now)
        try:
            kept = self._brief.keep.answers
            before = "" if kept.days is None else (now - timedelta(days=kept.days)).isoformat()
            workspace.archive.prune(run.query_id, kept.runs, before)
        except ProblemError as error:
            # The snapshot is kept; old answers are let go after the next run.
            log.warning("run %s: %s", run.id, error.problem.sentence())

    async def _give_up(self, state: str, problem: Problem) -> None:
        # A snapshot whose transaction was given up is none.
        self._run.state, self._run.problem, self._run.snapshot_id = state, problem, None
        self._run.records = self._run.records or self._progress.rows
        self._run.notes["tally"] = self._journal.tally.as_dict()
        try:
            await self._journal.flush()
            await asyncio.to_thread(self._write_end)
        except ProblemError as error:
            # The end could not be written; the next start marks the run as broken off.
            log.error("run %s: %s", self._run.id, error.problem.sentence())

    def _write_end(self) -> None:
        with self._workspace.write() as db:
            self._workspace.runs.end(db, self._run, self._clock.now())


def _following(paginator: Paginator, page: Page) -> list[Call] | PaginationEnd:
    """The calls that follow a page, or why none does."""
    try:
        return paginator.send(page)
    except StopIteration as stopped:
        stop: PaginationEnd = stopped.value
        return stop


def _fault(error: Exception) -> Problem:
    return Problem(
        "program-fault",
        f"The program itself failed ({type(error).__name__}).",
        "",
        "Earlier snapshots are as they were. Please report this, with what the program's log says.",
    )
