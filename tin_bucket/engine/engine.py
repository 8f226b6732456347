"""The engine: asks once, refreshes, cancels, reports progress."""

from __future__ import annotations

import asyncio
import json
import logging
from collections.abc import Awaitable, Callable, Iterable, Mapping
from contextlib import suppress
from datetime import datetime, timedelta

from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.document.report import RunReport
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.registry import first_calls
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.fan_out import FanOutColumn
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.rebuild import SavedPage
from tin_bucket.core.table.table import Table
from tin_bucket.core.traffic.address_policy import Reach
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.network.sender import Sender
from tin_bucket.engine.preview.preview import Preview
from tin_bucket.engine.run.calls import Saved
from tin_bucket.engine.run.chain import asked_for, refresh_chain
from tin_bucket.engine.run.context import run_context
from tin_bucket.engine.run.plan import RunPlan, make_plan
from tin_bucket.engine.run.progress import Progress, Waiting
from tin_bucket.engine.run.refresh import refresh
from tin_bucket.engine.workspace.sources import sheet_answers
from tin_bucket.gc_pause import collect_rarely
from tin_bucket.store.queries import Query
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .clock import Clock
from .due import superseded
from .parts import Parts
from .tuning import USUAL, EngineTuning

log = logging.getLogger("tin_bucket.engine")
_GOES_ON = timedelta(days=7)  # Answers that are older are asked for again.
_MOST_RESUMED = 3
KEPT_PROGRESS = 100  # Ended runs whose progress can still be read from memory.


class Engine(Parts):
    """Does a workspace's work."""

    def __init__(
        self,
        workspace: Workspace,
        clock: Clock | None = None,
        reach: Reach = "own machine",
        tuning: EngineTuning = USUAL,
    ) -> None:
        """
        Args:
            reach: which network addresses may be called.
        """
        collect_rarely()
        super().__init__(workspace, clock, reach, tuning)
        self._tasks: dict[int, asyncio.Task[None]] = {}
        self._progress: dict[int, Progress] = {}
        self._busy: set[int] = set()
        # Queries that are refreshed behind others: the run of the other one, and what waits for it.
        self._pending: dict[int, int] = {}
        self._following: dict[int, asyncio.Task[None]] = {}
        self._ending = False

    async def close(self, goes_on: bool = False) -> None:
        """Stop what is running and close the connections.

        Args:
            goes_on: whether the runs go on when the program begins again; else they were stopped.
        """
        self._ending = goes_on
        for task in [*self._following.values(), *self._tasks.values()]:
            task.cancel()
        await asyncio.gather(*self._tasks.values(), return_exceptions=True)
        if "deliveries" in self.__dict__:
            await self.deliveries.idle()  # Files that are being written are finished.
        if "telling" in self.__dict__:
            await self.telling.idle()
        if "row_counting" in self.__dict__:
            await asyncio.to_thread(self.row_counting.close)
        for write in (self.pacer.save, self.workspace.runs.write_ends):
            with suppress(ProblemError):  # What cannot be written now is seen by the runs themselves.
                await asyncio.to_thread(write)
        await self.fetcher.close()

    # Refreshing ------------------------------------------------------------------------------------------------

    def moment(self, query_id: int | None = None) -> Moment:
        """What relative dates count from now; of a query also when it was refreshed last."""
        last = self.workspace.runs.last_refresh(query_id) if query_id is not None else None
        return Moment(self.clock.here(), last)

    async def start(
        self,
        query_id: int,
        given: Mapping[str, Given],
        cause: str,
        patient: bool = True,
        takes: Callable[[Table], None] | None = None,
    ) -> int:
        """Begin a refresh of a saved query; returns the number of the run.

        Args:
            patient: whether it waits for a new key when its key is refused; else it fails.
            takes: takes the table, in a thread, where no snapshot is to be kept of it.

        Raises:
            ProblemError: a parameter without a value, a sheet that cannot be read, or ``already-running``. Everything
                that goes wrong later is in the run's report.
        """
        query = await asyncio.to_thread(self.workspace.queries.get, query_id)

        async def begin() -> int:
            return await self._begin(
                query, lambda: self._plan(query.brief, given, query_id), cause, patient, takes=takes
            )

        before = [one.query for one in query.brief.each if isinstance(one, FanOutColumn) and one.first]
        return await self._after(query, before, begin, cause) if before else await begin()

    async def _after(self, query: Query, names: list[str], begin: Callable[[], Awaitable[int]], cause: str) -> int:
        """Refresh other queries first, whose values this one is asked for; returns the run of the first of them."""
        if query.id in self._busy or query.id in self._pending:
            raise _busy(query)
        others = [await asyncio.to_thread(self.workspace.queries.find, name) for name in dict.fromkeys(names)]
        first = await self.start(others[0].id, {}, cause, patient=False)
        self._pending[query.id] = first

        async def rest() -> None:
            try:
                await self.wait(first)
                for one in others[1:]:
                    self._pending[query.id] = await self.start(one.id, {}, cause, patient=False)
                    await self.wait(self._pending[query.id])
                await begin()
            except ProblemError as error:
                log.warning("“%s” is not refreshed: %s", query.name, error.problem.sentence())
            finally:
                self._pending.pop(query.id, None)

        self._following[query.id] = asyncio.create_task(rest())
        self._following[query.id].add_done_callback(lambda _: self._following.pop(query.id, None))
        return first

    async def resume(self, run_id: int, cause: str = "by hand", patient: bool = True) -> int:
        """Go on from the saved answers of a run that stopped, or lacks some; returns the number of the new run.

        It asks with the values that the old run asked with, and makes only the calls whose answers are not saved.

        Raises:
            ProblemError: ``run-complete``, ``question-changed``, or as :meth:`start`.
        """
        old = await asyncio.to_thread(self.workspace.runs.get, run_id)
        query = await asyncio.to_thread(self.workspace.queries.get, old.query_id)
        if old.state in ("complete", "unverified", "running"):
            raise fail(
                "run-complete",
                "This run lacks nothing that could be asked for.",
                where=f"run {run_id}",
                do="Refresh it to fetch everything again.",
            )
        before = load_brief(json.loads(await asyncio.to_thread(self.workspace.runs.brief_of, run_id)))
        if _question(before) != _question(query.brief):
            raise fail(
                "question-changed",
                f"“{query.name}” asks another question now than this run did.",
                where=f"run {run_id}",
                do="Refresh it to ask the new question.",
            )
        saved = await asyncio.to_thread(Saved, self.workspace, run_id)

        def plan() -> RunPlan:
            services = {service_id: self.workspace.services.get(service_id) for service_id in query.brief.services()}
            return RunPlan(query.brief, services, old.bindings, old.iterations, self.clock.zone())

        if old.state == "interrupted":
            # Calls that were under way then were not noted, and the service may have seen them.
            for service_id in query.brief.services():
                service = await asyncio.to_thread(self.workspace.services.get, service_id)
                lane = self.pacer.lane(service, self.credentials.version(service_id))
                lane.pace.add([lane.now()] * service.at_once)
        return await self._begin(query, plan, cause, patient, saved, run_id)

    def stopped_run(self, query: Query, given: Mapping[str, Given]) -> Run | None:
        """The last run of a query, where it stopped before it had a table and asked just what would be asked now; its
        answers are not older than some days.

        Raises:
            ProblemError: as :meth:`start`.
        """
        if query.brief.ask is None:
            return None
        last = next(iter(self.workspace.runs.latest(query.id, most=1)), None)
        if last is None or last.state not in ("interrupted", "cancelled", "failed"):
            return None
        first = last
        while first.resumed_from is not None:
            first = self.workspace.runs.get(first.resumed_from)
        if datetime.fromisoformat(first.started) < self.clock.now() - _GOES_ON:
            return None
        if not any(call.can_be_taken for call in self.workspace.runs.calls(last.id)):
            return None
        before = load_brief(json.loads(self.workspace.runs.brief_of(last.id)))
        if _question(before) != _question(query.brief):
            return None
        plan = self._plan(query.brief, given, query.id)
        return last if (plan.bindings, plan.iterations) == (last.bindings, last.iterations) else None

    async def resume_all(self) -> list[int]:
        """Resume the runs that were interrupted when the program ended, where that is safe; returns the new runs.

        Safe is what only reads (RFC 9110 §9.2.1), was begun within a day, has not been interrupted three times, and
        where it is due again asks what would be asked now: yesterday's would stand in the place of today's.
        """
        begun = []
        for old in await asyncio.to_thread(self._interrupted):
            try:
                begun.append(await self.resume(old.id, old.cause))
            except ProblemError as error:
                log.info("run %s does not resume by itself: %s", old.id, error.problem.sentence())
        return begun

    def _interrupted(self) -> list[Run]:
        found = []
        since = self.clock.now() - timedelta(days=1)
        scheduled = {one.id: one for one in self.workspace.queries.scheduled()}
        for query in self.workspace.queries.all():
            run = next(iter(self.workspace.runs.latest(query.id, most=1)), None)
            if run is None or run.state != "interrupted" or datetime.fromisoformat(run.started) < since:
                continue
            ask = query.brief.ask
            tried, before = 0, run
            while before.resumed_from is not None and tried < _MOST_RESUMED:
                tried, before = tried + 1, self.workspace.runs.get(before.resumed_from)
            if (ask is not None and not ask.only_reads) or tried >= _MOST_RESUMED:
                continue
            one = scheduled.get(query.id)
            if one is None or not superseded(one, run, self.clock) or self.stopped_run(query, {}) is not None:
                found.append(run)
        return found

    async def _begin(
        self,
        query: Query,
        make: Callable[[], RunPlan],
        cause: str,
        patient: bool,
        saved: Saved | None = None,
        resumed_from: int | None = None,
        report: RunReport | None = None,
        takes: Callable[[Table], None] | None = None,
    ) -> int:
        query_id = query.id
        if query_id in self._busy:
            raise _busy(query)
        self._busy.add(query_id)
        try:
            plan = await asyncio.to_thread(make)
            chain: list[Query] = []
            if plan.brief.start is not None:
                chain = await asyncio.to_thread(asked_for, self.workspace, query)
            now = self.clock.now()
            document = query.brief.model_dump_json(by_alias=True)
            run_id = await asyncio.to_thread(
                self.workspace.runs.begin, query_id, document, plan.bindings, cause, now, plan.iterations, resumed_from
            )
        except BaseException:
            self._busy.discard(query_id)
            raise
        run = Run(
            run_id, query_id, cause, "running", now.isoformat(), bindings=plan.bindings, iterations=plan.iterations,
            query_name=query.name, resumed_from=resumed_from, report=report or RunReport(),
        )  # fmt: skip
        progress = Progress(run_id, query_id)
        self._remember(progress)
        for service in plan.services.values():
            self.credentials.reopen(service.id)
            self.pacer.reload(service)  # Here and not in a thread: the lane belongs to the event loop.
        context = run_context(self.workspace, self.clock, self.connections, plan, run, progress, patient, saved, takes)
        context.ending = lambda: self._ending
        if plan.brief.start is None:
            task = asyncio.create_task(refresh(context))
        else:
            task = asyncio.create_task(refresh_chain(context, chain, lambda one: self._refreshed(one, cause)))
        self._tasks[run_id] = task
        task.add_done_callback(lambda _: self._ended(run_id, query_id))
        if takes is None:
            task.add_done_callback(lambda _: self._follow(run))
        return run_id

    async def begin_from(self, query: Query, plan: RunPlan, saved: Saved, source: Run) -> int:
        """Begin the first refresh of a query with the saved answers of another one's run; returns its number. Only
        calls whose answers are not saved are made, and the run says when the saved ones were made."""
        report = RunReport(from_saved=source.started)
        return await self._begin(query, lambda: plan, "by hand", False, saved, report=report)

    def _plan(self, brief: Brief, given: Mapping[str, Given], query_id: int | None) -> RunPlan:
        plan = make_plan(self.workspace, brief, given, self.moment(query_id))
        if brief.ask is not None:
            for at in {0, len(plan.iterations) - 1}:
                first_calls(plan.paginator(at))  # What cannot be asked is said before the run begins.
        return plan

    def _remember(self, progress: Progress) -> None:
        self._progress[progress.run_id] = progress
        over = [run_id for run_id, old in self._progress.items() if old.state != "running"][:-KEPT_PROGRESS]
        for run_id in over:
            del self._progress[run_id]

    def _follow(self, run: Run) -> None:
        """What follows a refresh: feeds and notices."""
        if self._ending:
            return
        self.deliveries.after(run)
        if run.state in ("complete", "unverified", "incomplete") and self.workspace.reports.any():
            self.deliveries.also(lambda: self.report_files.after(run.query_id))
        if self.workspace.notices.any():
            self.telling.after(run)

    def _ended(self, run_id: int, query_id: int) -> None:
        self._tasks.pop(run_id, None)
        self._busy.discard(query_id)

    async def refresh(self, query_id: int, given: Mapping[str, Given], cause: str) -> Run:
        """Refresh a query and wait until it is done; a refused key fails it."""
        return await self.ended(query_id, await self.start(query_id, given, cause, patient=False))

    async def ended(self, query_id: int, run_id: int) -> Run:
        """Wait until a query is refreshed; its run, where others were refreshed first."""
        await self.wait(run_id)
        run = await asyncio.to_thread(self.workspace.runs.get, run_id)
        following = self._following.get(query_id)
        if following is not None:
            await asyncio.wait([following])
        if run.query_id == query_id:
            return run
        own = self.running().get(query_id)
        if own is not None:
            await self.wait(own)
        latest = await asyncio.to_thread(self.workspace.runs.latest, query_id, 1)
        return latest[0] if latest else run

    async def _refreshed(self, query_id: int, cause: str) -> Run:
        """Refresh a query of a chain; where it is being refreshed already, that refresh is waited for."""
        own = self.running().get(query_id)
        if own is None:
            return await self.refresh(query_id, {}, cause)
        await self.wait(own)
        return await asyncio.to_thread(self.workspace.runs.get, own)

    async def wait(self, run_id: int) -> None:
        """Wait until a run has ended."""
        task = self._tasks.get(run_id)
        if task is not None:
            await asyncio.wait([task])

    def cancel(self, run_id: int) -> bool:
        """Stop a run; says whether it was running."""
        task = self._tasks.get(run_id)
        return task.cancel() if task is not None else False

    def progress(self, run_id: int) -> Progress | None:
        """The live progress of a run that this process made."""
        return self._progress.get(run_id)

    def running(self) -> dict[int, int]:
        """Query → run, for the running refreshes."""
        return {**self._pending, **{p.query_id: p.run_id for p in self._progress.values() if p.state == "running"}}

    def waiting(self) -> dict[int, Waiting]:
        """Query → what its run waits for, for the runs that wait for a key."""
        running = [one for one in self._progress.values() if one.state == "running"]
        return {one.query_id: one.waiting for one in running if one.waiting and one.waiting.what == "key"}

    def pausing(self) -> set[int]:
        """The queries whose runs wait for a key, or for a limit."""
        running = [one for one in self._progress.values() if one.state == "running"]
        return {one.query_id for one in running if one.waiting}

    def lanes(self, services: Iterable[Service]) -> dict[str, LaneView]:
        """Id of a service → what its lane is like now. On the event loop alone."""
        return {one.id: self.pacer.lane(one, self.credentials.version(one.id)).view() for one in services}

    # Trying ----------------------------------------------------------------------------------------------------

    def first_call(self, brief: Brief, given: Mapping[str, Given], query_id: int | None = None) -> tuple[RunPlan, Call]:
        """The first call that a brief would make, without its key, and the whole plan.

        Raises:
            ProblemError: an unknown service, a parameter without a value, an unreadable template.
        """
        plan = make_plan(self.workspace, brief, given, self.moment(query_id))
        return plan, first_calls(plan.paginator())[0]

    async def ask_once(self, brief: Brief, given: Mapping[str, Given], query_id: int | None = None) -> int:
        """Make one call and read its answer; returns the number of the preview. A sheet is read whole.

        Raises:
            ProblemError: where no call could be made. What is wrong with the answer is in the preview.
        """
        if brief.sheet is not None:
            plan = await asyncio.to_thread(make_plan, self.workspace, brief, given, self.moment(query_id))
            made = await asyncio.to_thread(sheet_answers, self.workspace, brief.sheet)
            calls, answers = [call for call, _ in made], [SavedPage(answer) for _, answer in made]
        else:
            plan, call = await asyncio.to_thread(self.first_call, brief, given, query_id)
            service = plan.services[plan.service_id]
            self.credentials.reopen(service.id)
            calls, answers = [call], [SavedPage(await Sender(self.connections, service, tries=1).send(call))]
            if service.key is not None:
                await asyncio.to_thread(self.workspace.vault.used, service.id, self.clock.now())
        asked = self.clock.now().isoformat()
        preview = Preview(brief, plan.bindings, calls, answers, {}, None, None, asked, iterations=plan.iterations[:1])
        await asyncio.to_thread(self.rereader.read, preview)
        return self.previews.add(preview)

    def reread(
        self, query_id: int, brief: Brief, preview_number: int | None = None, most: int | None = None
    ) -> int | None:
        """As :meth:`Rereader.reread`."""
        return self.rereader.reread(query_id, brief, preview_number, most)


def _busy(query: Query) -> ProblemError:
    return fail(
        "already-running",
        f"“{query.name}” is being refreshed now.",
        where=f"query “{query.name}”",
        do="Wait until it is done, or stop it.",
    )


def _question(brief: Brief) -> object:
    """The parts of a brief that decide which calls are made."""
    return brief.ask, brief.sheet, brief.each, brief.pages, brief.take.records, brief.parameters, brief.look_up
