"""The engine: asks once, refreshes, cancels, tells how runs go."""

from __future__ import annotations

import asyncio
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import replace

from tin_bucket.core.brief import Brief
from tin_bucket.core.calls import Call, build_call
from tin_bucket.core.paging import guess_pages, turn_pages
from tin_bucket.core.picking import guess_rows, pick
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.replay import replay
from tin_bucket.core.service import Service
from tin_bucket.core.values import bind
from tin_bucket.core.verdict import judge
from tin_bucket.store.archive import KEPT_RUNS
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .clock import Clock
from .http import Fetcher
from .progress import Progress
from .refresh import Refresh, placed
from .sender import Sender
from .trial import Trial, Trials

KEPT_PROGRESS = 100  # Ended runs whose progress can still be read from memory.
KEPT_UNPACKED = 2  # Runs whose answers stay unpacked while their brief is edited.


class Engine:
    """Does a workspace's work."""

    def __init__(self, workspace: Workspace, clock: Clock | None = None) -> None:
        self.workspace = workspace
        self.clock = clock or Clock()
        self.trials = Trials()
        self._fetcher = Fetcher()
        self._tasks: dict[int, asyncio.Task[None]] = {}
        self._progress: dict[int, Progress] = {}
        self._busy: set[int] = set()
        self._unpacked: OrderedDict[int, Trial] = OrderedDict()

    async def close(self) -> None:
        """Stop what is running and close the connections."""
        for task in list(self._tasks.values()):
            task.cancel()
        await asyncio.gather(*self._tasks.values(), return_exceptions=True)
        await self._fetcher.close()

    # Refreshing ------------------------------------------------------------------------------------------------

    async def start(self, query_id: int, given: Mapping[str, str | None], cause: str) -> int:
        """Begin a refresh of a saved query; returns the number of the run.

        Raises:
            ProblemError: a parameter without a value, or ``already-running``. Everything that goes wrong later is
                told by the run.
        """
        query = await asyncio.to_thread(self.workspace.queries.get, query_id)
        if query_id in self._busy:
            raise fail(
                "already-running",
                f"“{query.name}” is being refreshed now.",
                where=f"query “{query.name}”",
                do="Wait until it is done, or stop it.",
            )
        self._busy.add(query_id)
        try:
            bindings = bind(query.brief.parameters, given, self.clock.today())
            now = self.clock.now()
            document = query.brief.model_dump_json(by_alias=True)
            run_id = await asyncio.to_thread(self.workspace.runs.begin, query_id, document, bindings, cause, now)
        except BaseException:
            self._busy.discard(query_id)
            raise
        run = Run(run_id, query_id, cause, "running", now.isoformat(), bindings=bindings, query_name=query.name)
        progress = Progress(run_id, query_id)
        self._remember(progress)
        task = asyncio.create_task(self._refresh(query.brief, run, progress))
        self._tasks[run_id] = task
        task.add_done_callback(lambda _: self._ended(run_id, query_id))
        return run_id

    def _remember(self, progress: Progress) -> None:
        self._progress[progress.run_id] = progress
        over = [run_id for run_id, old in self._progress.items() if old.state != "running"][:-KEPT_PROGRESS]
        for run_id in over:
            del self._progress[run_id]

    def _ended(self, run_id: int, query_id: int) -> None:
        self._tasks.pop(run_id, None)
        self._busy.discard(query_id)

    async def _refresh(self, brief: Brief, run: Run, progress: Progress) -> None:
        try:
            service, sender = await self._sender(brief.ask.service)
        except ProblemError as error:
            run.state, run.problem = "failed", error.problem
            await asyncio.to_thread(self._write_end, run)
            progress.state, progress.problem = run.state, run.problem
            progress.tell()
            return
        await Refresh(self.workspace, self.clock, sender, service, brief, run, progress).go()
        if run.calls and service.key is not None:
            await asyncio.to_thread(self.workspace.vault.used, service.id, self.clock.now())

    def _write_end(self, run: Run) -> None:
        with self.workspace.write() as db:
            self.workspace.runs.end(db, run, self.clock.now())

    async def refresh(self, query_id: int, given: Mapping[str, str | None], cause: str) -> Run:
        """Refresh a query and wait until it is done."""
        run_id = await self.start(query_id, given, cause)
        await self.wait(run_id)
        return await asyncio.to_thread(self.workspace.runs.get, run_id)

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
        """Query → run, for the refreshes that go on now."""
        return {p.query_id: p.run_id for p in self._progress.values() if p.state == "running"}

    async def _sender(self, service_id: str) -> tuple[Service, Sender]:
        service = await asyncio.to_thread(self.workspace.services.get, service_id)
        return service, await self.sender_of(service)

    async def sender_of(self, service: Service) -> Sender:
        """What makes calls to a service, with its key.

        Raises:
            ProblemError: ``key-missing``, or ``vault-closed``.
        """
        key = await asyncio.to_thread(self.workspace.vault.open, service.id) if service.key is not None else None
        return Sender(self._fetcher, service, key)

    # Trying ----------------------------------------------------------------------------------------------------

    def first_call(self, brief: Brief, given: Mapping[str, str | None]) -> tuple[Service, dict[str, str | None], Call]:
        """The first call that a brief would make, without its key.

        Raises:
            ProblemError: an unknown service, a parameter without a value, an unreadable template.
        """
        service = self.workspace.services.get(brief.ask.service)
        bindings = bind(brief.parameters, given, self.clock.today())
        call = build_call(service.base, brief.ask, bindings, service.fixed_headers())
        return service, bindings, next(turn_pages(call, brief.pages))

    async def ask_once(self, brief: Brief, given: Mapping[str, str | None]) -> int:
        """Make one call and read its answer; returns the number of the trial.

        Raises:
            ProblemError: where no call could be made. What is wrong with the answer is told by the trial.
        """
        service, bindings, call = await asyncio.to_thread(self.first_call, brief, given)
        _, sender = await self._sender(service.id)
        answer = await sender.send(call)
        if service.key is not None:
            await asyncio.to_thread(self.workspace.vault.used, service.id, self.clock.now())
        trial = Trial(brief, bindings, [call], [answer], {}, None, None, self.clock.now().isoformat())
        await asyncio.to_thread(self._read, trial, service)
        return self.trials.add(trial)

    def reread(
        self, query_id: int, brief: Brief, trial_number: int | None = None, most: int | None = None
    ) -> int | None:
        """Read answers that are here already as a brief says, at no call.

        Args:
            trial_number: the trial whose answers are read; without one, the newest run of the query that kept some.
            most: read only so many pages, for a table that is in sight at once.

        Returns:
            The number of the new trial, or ``None`` when no answers are kept.
        """
        old = self.trials.get(trial_number) if trial_number is not None else None
        if old is not None:
            trial = Trial(brief, old.bindings, old.calls, old.answers, old.looked_up, None, None, old.asked, old.run_id)
        else:
            kept = self._kept_answers(query_id, brief)
            if kept is None:
                return None
            trial = kept
        service = self.workspace.services.get(brief.ask.service)
        self._read(trial, service, most)
        return self.trials.add(trial)

    def _kept_answers(self, query_id: int, brief: Brief) -> Trial | None:
        """A trial without a reading, with the answers of the newest run that kept some.

        A run that made a snapshot goes before one that failed: its answers can be read.
        """
        newest = [run for run in self.workspace.runs.latest(query_id, most=KEPT_RUNS) if run.state != "running"]
        for run in sorted(newest, key=lambda run: run.snapshot_id is None):
            kept = self._unpacked.get(run.id) or self._unpack(run, brief)
            if kept is not None:
                self._unpacked[run.id] = kept
                while len(self._unpacked) > KEPT_UNPACKED:
                    self._unpacked.popitem(last=False)
                return replace(kept, brief=brief)
        return None

    def _unpack(self, run: Run, brief: Brief) -> Trial | None:
        workspace = self.workspace
        pages = workspace.archive.answers(run.id, "pages")
        if not pages:
            return None
        calls = workspace.runs.calls(run.id)
        looked_up = {}
        for stage in dict.fromkeys(call.stage for call in calls if call.stage != "pages"):
            addresses = [call.address for call in calls if call.stage == stage]
            looked_up.update(zip(addresses, workspace.archive.answers(run.id, stage) or [], strict=False))
        made = [
            Call(call.method, call.address, tuple((name, value) for name, value in call.headers), "pages", call.label)
            for call in calls
            if call.stage == "pages"
        ]
        return Trial(brief, run.bindings, made, pages, looked_up, None, None, run.started, run.id)

    def _read(self, trial: Trial, service: Service, most: int | None = None) -> None:
        trial.pages_read = len(trial.answers) if most is None else min(most, len(trial.answers))
        first = judge(trial.answers[0])
        if first.problem is not None:
            trial.problem = placed(first.problem, trial.calls[0])
            return
        trial.rows = guess_rows(first.document)
        try:
            found = pick(first.document, trial.brief.take.records)
            # Before the place of the records is known, the likeliest list tells how many rows are here.
            unplaced = trial.brief.take.records == "$" and trial.rows
            here = trial.rows[0].count if unplaced else len(found.values)
            trial.pages = guess_pages(first.document, trial.calls[0], here)
            trial.replay = replay(
                trial.brief, service, trial.bindings, trial.answers[: trial.pages_read], trial.looked_up
            )
            trial.problem = trial.replay.problem
        except ProblemError as error:
            trial.problem = error.problem
