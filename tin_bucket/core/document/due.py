"""When a schedule is due: worked out from the clock and the last refresh, never remembered.

So nothing is lost while the program is off, the machine sleeps or its clock is corrected.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from tin_bucket.core.formats.durations import parse_duration

from .query import DailySchedule, EverySchedule

LATE = timedelta(hours=1)  # What is due no longer than that is begun in any case.
_WEEK = 8  # Days that hold every weekday, and both ends.
_ASTRAY = timedelta(days=1)  # A refresh that began so much later than now was noted by a clock that went wrong.


def due_since(
    schedule: EverySchedule | DailySchedule, saved: datetime, last: datetime | None, now: datetime
) -> datetime:
    """The moment from which a schedule counts.

    Args:
        saved: when the schedule was set, or its brief was saved since. What was due before that is not caught up.
        last: when the newest refresh began, if there was one.
    """
    if last is None or last > now + _ASTRAY:
        return saved
    if isinstance(schedule, EverySchedule):
        return saved if last + _span(schedule) <= saved else last
    return max(last, saved)


def newest_due(schedule: EverySchedule | DailySchedule, since: datetime, now: datetime) -> datetime | None:
    """The newest moment after `since`, up to now, at which a refresh was due; ``None`` when there was none."""
    if isinstance(schedule, EverySchedule):
        steps = (now - since) // _span(schedule)
        return since + steps * _span(schedule) if steps > 0 else None
    today = now.astimezone(ZoneInfo(schedule.zone)).date()
    for back in range(_WEEK):
        moment = _moment(schedule, today - timedelta(days=back))
        if moment is not None and moment <= now:
            return moment if moment > since else None
    return None


def next_due(schedule: EverySchedule | DailySchedule, since: datetime, now: datetime) -> datetime | None:
    """The next moment after now at which a refresh is due."""
    if isinstance(schedule, EverySchedule):
        return since + max(1, (now - since) // _span(schedule) + 1) * _span(schedule)
    today = now.astimezone(ZoneInfo(schedule.zone)).date()
    moments = (_moment(schedule, today + timedelta(days=ahead)) for ahead in range(2 * _WEEK))
    return next((moment for moment in moments if moment is not None and moment > now), None)


def _span(schedule: EverySchedule) -> timedelta:
    span = parse_duration(schedule.every)
    return timedelta(days=span.days, seconds=span.seconds)


def _moment(schedule: DailySchedule, day: date) -> datetime | None:
    """The moment of a local day. A time that the clock leaps over is the one that it leaps to; of a time that comes
    twice it is the first. ``None`` for a day that is not on the schedule, or does not exist in the zone."""
    if day.isoweekday() not in schedule.days:
        return None
    hour, minute = map(int, schedule.at.split(":"))
    zone = ZoneInfo(schedule.zone)
    moment = datetime.combine(day, time(hour, minute), zone).astimezone(UTC)
    if moment.astimezone(zone).date() == day:
        return moment
    # The clock leaps into the next day: the last minute of this one, if there is any.
    last = datetime.combine(day + timedelta(days=1), time(), zone).astimezone(UTC) - timedelta(minutes=1)
    return last if last.astimezone(zone).date() == day else None
