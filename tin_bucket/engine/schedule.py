"""Refreshes at their times (APScheduler). Jobs are rebuilt from the saved briefs, at start and at each save."""

from __future__ import annotations

import logging
from datetime import datetime

from apscheduler.schedulers.asyncio import AsyncIOScheduler
from apscheduler.triggers.base import BaseTrigger
from apscheduler.triggers.cron import CronTrigger
from apscheduler.triggers.interval import IntervalTrigger

from tin_bucket.core.document.query import DailySchedule, EverySchedule
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.problem import ProblemError

from .engine import Engine

log = logging.getLogger("tin_bucket.schedule")


def trigger_of(schedule: EverySchedule | DailySchedule, since: datetime | None = None) -> BaseTrigger:
    """The trigger of a schedule; cron fields as in POSIX, with weekdays counted from Monday.

    Args:
        since: from when an interval counts, such as the last refresh; from now on when absent.
    """
    if isinstance(schedule, EverySchedule):
        span = parse_duration(schedule.every)
        return IntervalTrigger(seconds=span.days * 86_400 + span.seconds, start_date=since, timezone="UTC")
    hour, minute = schedule.at.split(":")
    days = ",".join(str(day - 1) for day in sorted(set(schedule.days)))
    return CronTrigger(hour=int(hour), minute=int(minute), day_of_week=days, timezone=schedule.zone)


class Schedule:
    """Minds the time for an engine."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._scheduler = AsyncIOScheduler(timezone="UTC")

    def start(self) -> None:
        """Begin; must be called where an event loop runs."""
        self._scheduler.start()
        self.renew()

    def stop(self) -> None:
        """End; no refresh starts any longer."""
        if self._scheduler.running:
            self._scheduler.shutdown(wait=False)

    def renew(self) -> None:
        """Make the jobs what the saved briefs say; a job whose schedule is unchanged keeps its next time."""
        wanted = {
            f"query-{query.id}": (query.id, query.brief.keep.schedule)
            for query in self._engine.workspace.queries.all()
            if query.brief.keep.schedule is not None and not query.brief.keep.paused
        }
        for job in self._scheduler.get_jobs():
            if job.id not in wanted:
                job.remove()
        for job_id, (query_id, schedule) in wanted.items():
            assert schedule is not None
            job = self._scheduler.get_job(job_id)
            text = schedule.model_dump_json()
            if job is None or job.name != text:
                self._scheduler.add_job(
                    self._refresh,
                    trigger_of(schedule, self._last_start(query_id)),
                    args=[query_id],
                    id=job_id,
                    name=text,
                    replace_existing=True,
                    coalesce=True,
                    misfire_grace_time=3600,
                )

    def _last_start(self, query_id: int) -> datetime | None:
        runs = self._engine.workspace.runs.latest(query_id, most=1)
        return datetime.fromisoformat(runs[0].started) if runs else None

    def next_time(self, query_id: int) -> datetime | None:
        """When a query is refreshed next, if it is on the schedule."""
        job = self._scheduler.get_job(f"query-{query_id}")
        return job.next_run_time if job is not None else None

    async def _refresh(self, query_id: int) -> None:
        try:
            await self._engine.start(query_id, {}, "schedule")
        except ProblemError as error:
            log.warning("scheduled refresh of query %s did not start: %s", query_id, error.problem.sentence())
