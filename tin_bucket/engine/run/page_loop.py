"""Asks a run's question: iteration by iteration, page by page. Calls that are known in advance are made at once."""

from __future__ import annotations

import asyncio
from collections import deque
from dataclasses import dataclass, replace
from typing import Any

from tin_bucket.core.document.extraction import row_shape
from tin_bucket.core.formats.json import doubled_keys
from tin_bucket.core.formats.json_stream import outside_of_records, streamed_records
from tin_bucket.core.formats.jsonpath import Picked, pick
from tin_bucket.core.pagination.protocol import (
    LISTING,
    InPlace,
    Page,
    PaginationEnd,
    Paginator,
    first_rows_end,
    make_page,
    stated_number,
)
from tin_bucket.core.pagination.registry import way_of
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.fan_out import iterations_words
from tin_bucket.core.request.iterations import iteration_label
from tin_bucket.core.response.classify import Verdict, classify, odd_words
from tin_bucket.core.response.response import Answer, LargeBody
from tin_bucket.core.response.too_long import longer_than
from tin_bucket.core.table.reader import no_rows_problem
from tin_bucket.core.table.select import has_items
from tin_bucket.engine.workspace.sources import sheet_answers
from tin_bucket.gc_pause import collector_paused

from .calls import Got, placed, short_words
from .collector import MANY, PageCollector
from .context import FOR_ALL, RunContext

_BIG = 200_000  # Bytes from which an answer is parsed beside the event loop.


@dataclass(frozen=True, slots=True)
class IterationDone:
    """Why an iteration ended, or why it failed; `missing` where the service says that there is no such thing."""

    end: PaginationEnd | None
    problem: Problem | None = None
    missing: bool = False


@dataclass(frozen=True, slots=True)
class Fetched:
    """A page with what was picked from it, and the number of its call. Of one that is too large to hold the records
    are in `body`, and `count` is their number."""

    page: Page
    picked: Picked
    number: int
    body: LargeBody | None = None
    count: int = 0


class PageLoop:
    """The pages of one run."""

    def __init__(self, context: RunContext, collector: PageCollector) -> None:
        self._context = context
        self._collector = collector
        self._several = len(context.plan.iterations) > 1
        self.failed_pages: list[tuple[str, Problem]] = []
        self._rows = 0  # Of the pages that are in the table.
        self._odd = 0  # Values that are no number.

    async def ask(self) -> list[IterationDone]:
        """Ask for everything; gives the end of each iteration.

        Raises:
            ProblemError: why there is no table: what fails every iteration alike, or all of them did.
        """
        done = await self._ask()
        if self._odd:
            self._context.report.note(odd_words(self._odd))
        return done

    async def _ask(self) -> list[IterationDone]:
        if self._context.brief.ask is None:
            return [await self._read_sheet()]
        if not self._several:
            return [IterationDone(await self._iterate(0))]
        return await self._ask_iterations()

    async def _read_sheet(self) -> IterationDone:
        context = self._context
        assert context.brief.sheet is not None
        for call, answer in await asyncio.to_thread(sheet_answers, context.workspace, context.brief.sheet):
            document = (await self._classify(answer)).document
            found = pick(document, context.brief.take.records)
            context.journal.made(call, answer, context.runner.now(), len(found.values), None)
            context.progress.rows += len(found.values)
            await self._collector.add(0, found, document)
        context.progress.tell()
        return IterationDone(PaginationEnd("single", "the whole sheet was read", True))

    async def _ask_iterations(self) -> list[IterationDone]:
        """Ask for each of the values; one that fails does not lose the others."""
        context = self._context
        count = len(context.plan.iterations)
        context.stage("pages", None)
        context.progress.iterations = count
        most = context.brief.take.most_rows
        # Which values the first rows come from is known only where one is asked for after the other.
        gate = asyncio.Semaphore(1 if most is not None else context.at_once(context.plan.service_id))

        async def one(at: int) -> IterationDone:
            async with gate:
                if most is not None and self._rows >= most:
                    await self._collector.end(at)
                    return IterationDone(first_rows_end(most, None))
                # What an iteration gave before it failed is true, and stays.
                try:
                    done = IterationDone(await self._iterate(at))
                except ProblemError as error:
                    if error.problem.kind in FOR_ALL:
                        raise
                    # A value that is not there is no failure, as in lookups: asking again brings nothing else.
                    gone = error.problem.kind == "not-found" and not self._collector.pages[at]
                    done = IterationDone(None, error.problem, gone)
                await self._collector.end(at)
                context.progress.iterations_done += 1
                return done

        async with asyncio.TaskGroup() as group:
            tasks = [group.create_task(one(at)) for at in range(count)]
        done = [task.result() for task in tasks]
        if all(one.problem is not None for one in done) and not any(self._collector.pages):
            first = done[0].problem
            assert first is not None
            words = iterations_words(context.brief.each, count)
            raise ProblemError(replace(first, what=f"All {words} failed; the first: {first.what}"))
        return done

    async def _iterate(self, at: int) -> PaginationEnd:
        """Ask for the pages of one iteration, collect what they hold, and say why it ended.

        Calls that the paginator knows in advance are made together; their pages go back to it in order.
        """
        context = self._context
        paginator = context.plan.paginator(at)
        known = deque(next(paginator))
        lost: list[Problem] = []
        fetching: deque[tuple[Call, asyncio.Task[Fetched]]] = deque()
        # Twice as many, so that a slow page does not keep those behind it waiting; the lane says how many go.
        most = 2 * context.at_once(context.plan.service_id)
        first_rows = context.brief.take.most_rows
        turn = size = 0
        wanted_no_more = False
        try:
            while True:
                # No page is asked for that lies behind the first rows, where those are all that is wanted.
                wanted = most if first_rows is None else min(most, max(1, -(-self._left(first_rows) // max(1, size))))
                while known and len(fetching) < wanted:
                    call = self._labelled(known.popleft(), at, turn)
                    fetching.append((call, asyncio.create_task(self._fetch(call, first=not turn))))
                    turn += 1
                call, task = fetching.popleft()
                got = await self._page(call, task)
                page = got.page if isinstance(got, Fetched) else got
                following = await _following(paginator, page)
                if isinstance(got, Fetched):
                    if call.stage != LISTING:
                        await self._collect(at, got, following)
                    self._show(got, turn + len(known) if known or fetching else 0)
                    size = max(size, got.count or len(got.page.records))
                await context.journal.flush_if_due()
                ended_well = isinstance(following, PaginationEnd) and following.complete
                if page.failed is not None and not ended_well and not isinstance(following, InPlace):
                    lost.append(page.failed)
                    self.failed_pages.append((call.label, page.failed))
                if isinstance(following, PaginationEnd):
                    wanted_no_more = True
                    if lost and not self._collector.pages[at]:
                        # An empty table would pass for an answer.
                        many = f"All {len(lost):,} calls for rows" if len(lost) > 1 else "The only call for rows"
                        raise ProblemError(replace(lost[0], what=f"{many} failed; the first: {lost[0].what}"))
                    return following
                if first_rows is not None and not self._left(first_rows):
                    wanted_no_more = True
                    total = stated_number(page, context.brief.pages.total)
                    return first_rows_end(first_rows, total, len(lost))
                known.extend(following)
        finally:
            await self._drop([task for _, task in fetching], wanted_no_more)

    def _left(self, first_rows: int) -> int:
        """How many of the first rows are not here yet. A record is one row at least."""
        return max(0, first_rows - self._rows)

    def _rows_of(self, fetched: Fetched) -> int:
        """How many rows a page gives at least."""
        take = self._context.brief.take
        if take.without_items == "keep" or not take.rows_for:
            return fetched.count or len(fetched.page.records)
        # Of one that is too large to hold the records are not here.
        return sum(has_items(take, record) for record in fetched.picked.values)

    def _labelled(self, call: Call, at: int, turn: int) -> Call:
        """The call with its place; whatever the paginator calls it, a call of one of many iterations says which."""
        iteration = iteration_label(self._context.plan.iterations[at]) if self._several else ""
        return replace(call, iteration=at, turn=turn, label=", ".join(filter(None, (iteration, call.label))))

    async def _page(self, call: Call, task: asyncio.Task[Fetched]) -> Fetched | Page:
        """What was fetched; or a page that says why it could not be fetched, where the others can.

        Raises:
            ProblemError: the paginator cannot continue without it.
        """
        try:
            return await task
        except ProblemError as error:
            way = way_of(self._context.brief.pages)
            behind = way.asks_behind and error.problem.kind in ("not-found", "call-refused")
            if error.problem.kind in FOR_ALL or not call.turn or not (way.can_skip or behind):
                raise
            return Page(None, [], failed=error.problem)

    async def _collect(self, at: int, fetched: Fetched, following: list[Call] | PaginationEnd) -> None:
        repeated = isinstance(following, PaginationEnd) and following.reason == "repeated-page"
        hollow = not fetched.page.size and bool(fetched.number > 1 and fetched.picked.values)
        if repeated or hollow:
            # Its rows are here already, or its lists side by side have none.
            self._context.journal.unused([fetched.number])
            if fetched.body is not None:
                fetched.body.close()
            return
        self._rows += self._rows_of(fetched)
        if fetched.body is None:
            await self._collector.add(at, fetched.picked, fetched.page.document)
            return
        try:
            batches = streamed_records(fetched.body.parts(), self._context.brief.take.records)
            await self._collector.add_batches(at, batches, fetched.page.document)
        finally:
            fetched.body.close()

    async def _fetch(self, call: Call, first: bool) -> Fetched:
        """One page: its call is made, classified and noted.

        Raises:
            ProblemError: why there is none; the call is noted.
        """
        context, brief = self._context, self._context.brief
        most = context.runner.sender(context.plan.service_id).lane.most_address
        divisible = call.stage != LISTING and way_of(brief.pages).makes_smaller
        if divisible and most is not None and len(call.address) > most:
            raise ProblemError(placed(longer_than(len(call.address), most), call))
        got = await context.runner.send(call, context.plan.service_id, spools=True)
        answer = got.answer
        if answer.spool is not None:
            return await self._streamed(call, got, answer.spool)
        verdict = await self._classify(answer)
        if verdict.problem is not None:
            problem = placed(verdict.problem, call)
            way = way_of(brief.pages)
            skipped = self._several or ((way.can_skip or way.asks_behind) and not first)
            context.journal.made(
                call, answer, got.sent, 0, problem, used=not skipped, saved=got.saved, unchanged=got.unchanged
            )
            raise ProblemError(problem)
        context.runner.answered = True
        page, found = make_page(brief.pages, row_shape(brief.take), call, verdict.document, answer.headers)
        lost = None
        if first and not page.records and not verdict.nothing and call.stage != LISTING:
            lost = no_rows_problem(verdict.document, brief.take.records)
            if lost is not None and verdict.warnings:
                lost = replace(lost, words=lost.words or verdict.warnings[0])
        context.report.warn(verdict.warnings)
        self._note_oddities(answer, verdict, first)
        used = lost is None or not self._several
        number = context.journal.made(
            call, answer, got.sent, len(found.values), None, used=used, saved=got.saved, unchanged=got.unchanged
        )
        if lost is not None:
            raise ProblemError(replace(lost, where=f"{short_words(call)}, {lost.where}"))
        return Fetched(page, found, number)

    async def _streamed(self, call: Call, got: Got, body: LargeBody) -> Fetched:
        """A page that is too large to hold: its records are counted now and read when it is their turn.

        Raises:
            ProblemError: it cannot be read so; the call is noted.
        """
        answer, context = got.answer, self._context
        try:
            count, last, document = await asyncio.to_thread(_look, body, context.brief.take.records, answer.length)
        except ProblemError as error:
            body.close()
            problem = placed(error.problem, call)
            context.journal.made(call, answer, got.sent, 0, problem, used=False)
            raise ProblemError(problem) from error
        context.runner.answered = True
        note = "It is too large to hold; it was read piece by piece, and is not kept."
        number = context.journal.made(call, replace(answer, note=note), got.sent, count)
        return Fetched(Page(document, last, answer.headers, count), Picked([], []), number, body, count)

    async def _drop(self, tasks: list[asyncio.Task[Fetched]], wanted_no_more: bool) -> None:
        """Give up calls that are under way.

        Args:
            wanted_no_more: whether they turned out not to be wanted. What was answered before a run broke off is
                taken by the run that goes on.
        """
        for task in tasks:
            task.cancel()
        done = await asyncio.gather(*tasks, return_exceptions=True)
        if wanted_no_more:
            self._context.journal.unused([one.number for one in done if isinstance(one, Fetched)])

    def _show(self, fetched: Fetched, expected: int) -> None:
        progress = self._context.progress
        progress.rows += len(fetched.picked.values) + fetched.count
        if not self._several:
            progress.stated_total = stated_number(fetched.page, self._context.brief.pages.total)
            progress.expected = max(expected, progress.expected or 0) if expected > 1 else None
        progress.tell()

    def _note_oddities(self, answer: Answer, verdict: Verdict, first: bool) -> None:
        """What is strange in an answer, and does no harm."""
        self._odd += verdict.odd
        for note in filter(None, (verdict.note, answer.note)):
            self._context.report.note(note)
        # Looking for these takes longer than reading the answer: the first one tells.
        doubled = doubled_keys(answer.body) if first else ()
        if doubled:
            names = ", ".join(f"“{name[:40]}”" for name in doubled[:3])
            self._context.report.note(f"Some objects contain {names} more than once; the last value is used.")

    async def _classify(self, answer: Answer) -> Verdict:
        def classified() -> Verdict:
            with collector_paused():
                return classify(answer, self._context.error_rules)

        return await asyncio.to_thread(classified) if len(answer.body) > _BIG else classified()


async def _following(paginator: Paginator, page: Page) -> list[Call] | PaginationEnd:
    """The calls that follow a page, or why none does; of a large page found out beside the event loop."""
    if len(page.records) >= MANY:
        return await asyncio.to_thread(_sent, paginator, page)
    return _sent(paginator, page)


def _sent(paginator: Paginator, page: Page) -> list[Call] | PaginationEnd:
    try:
        return paginator.send(page)
    except StopIteration as stopped:
        end: PaginationEnd = stopped.value
        return end


def _look(body: LargeBody, path: str, length: int) -> tuple[int, list[Any], Any]:
    """How many records a large body has, its last one, and the document without them."""
    count, last = 0, []
    for batch in streamed_records(body.parts(), path):
        count, last = count + len(batch), batch[-1:]
    if not count:
        # An empty list is no reason for so large an answer: the rows are elsewhere.
        raise fail(
            "no-rows-there",
            f"There is nothing at {path} in an answer of {length // 2**20:,} MB.",
            do="Correct the place of the records; with fewer rows a page, asking once shows where they are.",
        )
    return count, last, outside_of_records(body.parts(), path)
