"""Refreshes at their times. What is due follows from the clock, the saved briefs and the last refreshes."""

from __future__ import annotations

import asyncio
import logging
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from tin_bucket.core.problem import ProblemError
from tin_bucket.core.schedule.due import LATE, due_since, next_due, upcoming
from tin_bucket.store.queries import Scheduled

from .due import PAUSED, Due, counts_from, due, paused_until
from .engine import Engine

log = logging.getLogger("tin_bucket.schedule")
TICK = 20.0  # Seconds between two looks at the clock: a machine may sleep, and a clock be set.
_TOGETHER = 8  # Refreshes on schedule that run at once; the others begin when one of them ends.


_MOST_PLANNED = 3_000  # Refreshes of a query in a week, one every few minutes.


@dataclass(frozen=True, slots=True)
class Planned:
    """A refresh that will be due, and how many calls it is likely to make."""

    query_id: int
    query_name: str
    at: datetime
    calls: int | None


class Schedule:
    """Minds the time for an engine. It belongs to the event loop; :meth:`renew` and :meth:`next_times` are for threads
    too."""

    def __init__(self, engine: Engine, tick: float = TICK) -> None:
        self._engine = engine
        self._tick = tick
        self._wake = asyncio.Event()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._task: asyncio.Task[None] | None = None
        self._own: dict[int, asyncio.Task[None]] = {}
        # What could not be begun is not tried again before it is due the next time.
        self._given_up: dict[int, datetime] = {}

    def start(self) -> None:
        """Begin; must be called where an event loop runs."""
        self._loop = asyncio.get_running_loop()
        self._task = self._loop.create_task(self._mind())

    def stop(self) -> None:
        """End; no refresh starts any longer."""
        if self._task is not None:
            self._task.cancel()

    def renew(self) -> None:
        """Look at once: a brief was saved."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._wake.set)

    def next_times(self, query_id: int | None = None) -> dict[int, datetime]:
        """Query → when it is refreshed next, for those on the schedule; of one query when it is named."""
        scheduled = self._engine.workspace.queries.scheduled(query_id)
        times = {one.id: self.next_time(one) for one in scheduled}
        return {query: moment for query, moment in times.items() if moment is not None}

    def next_time(self, one: Scheduled) -> datetime | None:
        """When a query is refreshed next; ``None`` while all are paused for good."""
        until = self.paused_until()
        if until is True:
            return None
        now = self._engine.clock.now()
        since = self._since(one, now)
        return next_due(one.schedule, since, max(now, since) if one.resumes or until else now)

    def _since(self, one: Scheduled, now: datetime) -> datetime:
        here = self._engine.clock.zone()
        return counts_from(one, due_since(one.schedule, one.saved, one.last, now), here, self.paused_until())

    def paused_until(self) -> date | bool:
        """The day until which all schedules are paused; ``True`` for good, ``False`` for not at all."""
        return paused_until(self._engine.workspace)

    def pause_all(self, until: date | bool) -> None:
        """Pause all schedules until a day, for good, or not any more."""
        text = "on" if until is True else until.isoformat() if isinstance(until, date) else ""
        self._engine.workspace.settings.put(PAUSED, text)
        self.renew()

    def week(self, days: int = 7) -> list[Planned]:
        """The refreshes of the next days, in order."""
        now = self._engine.clock.now()
        end = now + timedelta(days=days)
        names = self._engine.workspace.queries.names()
        out: list[Planned] = []
        if self.paused_until() is True:
            return out
        for one in self._engine.workspace.queries.scheduled():
            since = self._since(one, now)
            calls = self._calls(one.id)
            for number, moment in enumerate(upcoming(one.schedule, since, max(now, since))):
                if moment > end or number >= _MOST_PLANNED:
                    break
                out.append(Planned(one.id, names.get(one.id, ""), moment, calls))
        return sorted(out, key=lambda planned: (planned.at, planned.query_id))

    def _calls(self, query_id: int) -> int | None:
        """How many calls the last whole refresh made, where there was one."""
        runs = self._engine.workspace.runs.latest(query_id, 5)
        return next((run.calls for run in runs if run.state in ("complete", "unverified")), None)

    async def _mind(self) -> None:
        while True:
            try:
                await asyncio.to_thread(self._engine.workspace.runs.write_ends)
                await self.look()
                await self._engine.deliveries.look()
                await asyncio.to_thread(self._engine.report_files.look)
                self._engine.telling.look()
            except ProblemError as error:
                log.warning("the schedule could not be looked at: %s", error.problem.sentence())
            self._wake.clear()
            try:
                await asyncio.wait_for(self._wake.wait(), self._tick)
            except TimeoutError:
                continue

    async def look(self) -> None:
        """Begin every refresh that is due now, as far as there is room."""
        workspace, now = self._engine.workspace, self._engine.clock.now()
        for one in await asyncio.to_thread(workspace.queries.scheduled):
            if one.id in self._own:
                continue
            found = await asyncio.to_thread(due, workspace, one, self._engine.clock)
            if found is None or self._given_up.get(one.id) == found.moment:
                continue
            if one.schedule.missed != "catch up" and now - found.moment >= LATE:
                continue
            # One that waits for a key or for a limit takes no room: it keeps nobody from beginning.
            if len(self._own) - len(self._engine.pausing() & self._own.keys()) >= _TOGETHER:
                return
            await self._refresh(one.id, found)

    async def _refresh(self, query_id: int, why: Due) -> None:
        try:
            run_id = await self._begin(query_id, why)
        except ProblemError as error:
            if error.problem.kind == "already-running":
                return  # It goes on from where it broke off, or a person began it.
            # A full disk or a locked file passes: the next look tries again.
            if error.problem.kind not in ("workspace-unreadable", "workspace-locked"):
                self._given_up[query_id] = why.moment
            log.warning("scheduled refresh of query %s did not start: %s", query_id, error.problem.sentence())
            return
        self._own[query_id] = asyncio.create_task(self._until_ended(query_id, run_id))

    async def _begin(self, query_id: int, why: Due) -> int:
        """Begin a refresh; where one stopped since it was due, go on from its saved answers."""
        if why.stopped is not None:
            query = await asyncio.to_thread(self._engine.workspace.queries.get, query_id)
            stopped = await asyncio.to_thread(self._engine.stopped_run, query, {})
            if stopped is not None and stopped.id == why.stopped.id:
                return await self._engine.resume(stopped.id, "schedule")
        return await self._engine.start(query_id, {}, "schedule")

    async def _until_ended(self, query_id: int, run_id: int) -> None:
        try:
            await self._engine.wait(run_id)
        finally:
            self._own.pop(query_id, None)
            self._wake.set()
