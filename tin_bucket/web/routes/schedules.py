"""The schedule: what is due in the next days, with its calls against the limits, and pausing all of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import date, timedelta
from itertools import islice

from fastapi import APIRouter
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.schedule.due import clock_changes, upcoming
from tin_bucket.core.schedule.models import AnySchedule
from tin_bucket.core.schedule.models import Schedule as ScheduleModel
from tin_bucket.engine.schedule import Planned
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.schedule import LoadInfo, PauseIn, PlannedInfo, ScheduleIn, ScheduleWords, WeekInfo

router = APIRouter(prefix="/api")
_SCHEDULE: TypeAdapter[AnySchedule] = TypeAdapter(ScheduleModel)
_LONG = 3_600  # Seconds of a window that refreshes fill together; shorter ones empty by themselves.
_SHOWN = 4


@router.get("/schedule")
def week(here: Here) -> WeekInfo:
    """The refreshes of the next seven days."""
    planned = here.schedule.week()
    paused = here.schedule.paused_until()
    until = paused.isoformat() if isinstance(paused, date) else None
    return WeekInfo(
        planned=_by_day(here, planned), loads=_loads(here, planned), paused=bool(paused), paused_until=until
    )


@router.put("/schedule")
def pause(here: Here, body: PauseIn) -> WeekInfo:
    """Pause all schedules, until a day or for good, or resume them."""
    here.schedule.pause_all((body.until or True) if body.paused else False)
    return week(here)


@router.post("/schedule/words")
def words(here: Here, body: ScheduleIn) -> ScheduleWords:
    """When a schedule is due next, and what becomes of it when the clock changes."""
    try:
        schedule = _SCHEDULE.validate_python(body.schedule)
    except ValidationError as error:
        raise ProblemError(validation_problem(error, "the schedule", body.schedule)) from error
    now = here.engine.clock.now()
    moments = islice(upcoming(schedule, now, now), _SHOWN)
    return ScheduleWords(next=[moment.isoformat() for moment in moments], clock_changes=clock_changes(schedule, now))


def _by_day(here: Context, planned: Sequence[Planned]) -> list[PlannedInfo]:
    zone = here.engine.clock.zone()
    groups: dict[tuple[str, int], list[Planned]] = defaultdict(list)
    for one in planned:
        groups[one.at.astimezone(zone).date().isoformat(), one.query_id].append(one)
    return [
        PlannedInfo(
            query_id=query_id,
            query_name=some[0].query_name,
            day=day,
            first=some[0].at.isoformat(),
            last=some[-1].at.isoformat(),
            times=len(some),
            calls=None if some[0].calls is None else some[0].calls * len(some),
        )
        for (day, query_id), some in sorted(groups.items(), key=lambda item: (item[0][0], item[1][0].at))
    ]


def _loads(here: Context, planned: Sequence[Planned]) -> list[LoadInfo]:
    """The busiest stretch of each long limit, where refreshes are planned."""
    of_service: dict[str, list[Planned]] = defaultdict(list)
    asked = {query.id: query.brief.services() for query in here.workspace.queries.all()}
    for one in planned:
        for service_id in asked.get(one.query_id, [])[:1]:
            of_service[service_id].append(one)
    out = []
    for service in here.workspace.services.all():
        for window in service.limits:
            if window.seconds >= _LONG and of_service[service.id]:
                calls, begins = _busiest(of_service[service.id], timedelta(seconds=window.seconds))
                out.append(
                    LoadInfo(
                        service=service.name, limit=window.words(), planned=calls, allowed=window.calls,
                        begins=begins.at.isoformat(),
                    )
                )  # fmt: skip
    return out


def _busiest(planned: Sequence[Planned], span: timedelta) -> tuple[int, Planned]:
    """The most calls that fall into one stretch of time, and the refresh with which it begins."""
    best, first, begin, calls = 0, planned[0], 0, 0
    for one in planned:
        calls += one.calls or 0
        while one.at - planned[begin].at >= span:
            calls -= planned[begin].calls or 0
            begin += 1
        if calls > best:
            best, first = calls, planned[begin]
    return best, first
