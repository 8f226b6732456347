"""When a schedule is due: worked out from the clock and the last refresh, never remembered.

So nothing is lost while the program is off, the machine sleeps or its clock is corrected.
"""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from zoneinfo import ZoneInfo

from tin_bucket.core.formats.durations import parse_duration

from .models import AnySchedule, DailySchedule, EverySchedule, Hours, MonthlySchedule

LATE = timedelta(hours=1)  # What is due no longer than that is begun in any case.
_WEEK = 8  # Days that hold every weekday, and both ends.
_MONTHS = 70  # Days that hold a day of every month that has one, 31 of two months in a row aside.
_ASTRAY = timedelta(days=1)  # A refresh that began so much later than now was noted by a clock that went wrong.
_YEAR = 400


def due_since(schedule: AnySchedule, saved: datetime, last: datetime | None, now: datetime) -> datetime:
    """The moment from which a schedule counts.

    Args:
        saved: when the schedule was set, or its brief was saved since. What was due before that is not caught up.
        last: when the newest refresh began, if there was one.
    """
    if last is None or last > now + _ASTRAY:
        return saved
    if isinstance(schedule, EverySchedule) and schedule.between is None:
        return saved if last + _span(schedule) <= saved else last
    return max(last, saved)


def resumed(since: datetime, resumes: date | None, here: tzinfo) -> datetime:
    """The moment from which a schedule counts that was paused until a day: what was due before is not caught up.

    Args:
        here: the time zone of this machine, in which that day begins.
    """
    if resumes is None:
        return since
    return max(since, datetime.combine(resumes, time(), here).astimezone(UTC) - timedelta(seconds=1))


def newest_due(schedule: AnySchedule, since: datetime, now: datetime) -> datetime | None:
    """The newest moment after `since`, up to now, at which a refresh was due; ``None`` when there was none."""
    zone = _zone(schedule)
    if zone is None:
        assert isinstance(schedule, EverySchedule)
        steps = (now - since) // _span(schedule)
        return since + steps * _span(schedule) if steps > 0 else None
    today = now.astimezone(zone).date()
    for back in range(_reach(schedule)):
        for moment in reversed(list(_of_day(schedule, today - timedelta(days=back), zone))):
            if moment <= now:
                return moment if moment > since else None
    return None


def next_due(schedule: AnySchedule, since: datetime, now: datetime) -> datetime | None:
    """The next moment after now at which a refresh is due."""
    return next(upcoming(schedule, since, now), None)


def upcoming(schedule: AnySchedule, since: datetime, now: datetime) -> Iterator[datetime]:
    """The moments after now at which refreshes are due, one after the other."""
    zone = _zone(schedule)
    if zone is None:
        assert isinstance(schedule, EverySchedule)
        span = _span(schedule)
        moment = since + max(1, (now - since) // span + 1) * span
        while True:
            yield moment
            moment += span
    today = now.astimezone(zone).date()
    for ahead in range(_YEAR):
        yield from (moment for moment in _of_day(schedule, today + timedelta(days=ahead), zone) if moment > now)


def clock_changes(schedule: AnySchedule, now: datetime) -> list[str]:
    """What becomes of times that the clock leaps over, or shows twice, within a year: sentences."""
    zone = _zone(schedule)
    if zone is None:
        return []
    told = []
    first = now.astimezone(zone).date()
    for ahead in range(_YEAR - 30):
        day = first + timedelta(days=ahead)
        noon, before = datetime.combine(day, time(12), zone), datetime.combine(day - timedelta(days=1), time(12), zone)
        if noon.utcoffset() == before.utcoffset():
            continue
        for hour, minute in _slots(schedule, day):
            local = datetime.combine(day, time(hour, minute), zone)
            written = f"{hour:02}:{minute:02}"
            when = f"{day.day} {day:%B %Y}"
            moment = _moment(zone, day, hour, minute)
            real = moment.astimezone(zone) if moment is not None else None
            if real is not None and (real.hour, real.minute) != (hour, minute):
                told.append(f"{written} does not exist on {when}; it is refreshed at {real:%H:%M} instead.")
            elif local.replace(fold=1).utcoffset() != local.utcoffset():
                told.append(f"{written} comes twice on {when}; it is refreshed the first time.")
    return told[:4]


def _span(schedule: EverySchedule) -> timedelta:
    span = parse_duration(schedule.every)
    return timedelta(days=span.days, seconds=span.seconds)


def _zone(schedule: AnySchedule) -> ZoneInfo | None:
    """The zone of a schedule by the clock; ``None`` for an interval that knows no clock."""
    if isinstance(schedule, EverySchedule):
        return ZoneInfo(schedule.between.zone) if schedule.between is not None else None
    return ZoneInfo(schedule.zone)


def _reach(schedule: AnySchedule) -> int:
    return _MONTHS if isinstance(schedule, MonthlySchedule) else _WEEK


def _of_day(schedule: AnySchedule, day: date, zone: ZoneInfo) -> Iterator[datetime]:
    """The moments of a local day, in order."""
    found = [_moment(zone, day, hour, minute) for hour, minute in _slots(schedule, day)]
    yield from sorted({moment for moment in found if moment is not None})


def _slots(schedule: AnySchedule, day: date) -> list[tuple[int, int]]:
    """The times of a day, hours and minutes, whether the clock shows them or not."""
    if isinstance(schedule, DailySchedule):
        times = sorted({schedule.at, *schedule.also}) if day.isoweekday() in schedule.days else []
        return [_clock(one) for one in times]
    if isinstance(schedule, MonthlySchedule):
        return [_clock(schedule.at)] if day == _day_of_month(schedule, day) else []
    hours = schedule.between
    return _within(hours, _span(schedule), day) if hours is not None else []


def _within(hours: Hours, span: timedelta, day: date) -> list[tuple[int, int]]:
    if day.isoweekday() not in hours.days:
        return []
    start, end = (hour * 60 + minute for hour, minute in map(_clock, (hours.start, hours.end)))
    step = max(1, int(span.total_seconds() // 60))
    return [divmod(minutes, 60) for minutes in range(start, end + 1, step)]


def _day_of_month(schedule: MonthlySchedule, day: date) -> date | None:
    """The day of a day's month on which a schedule is due; ``None`` for a month that has no such day."""
    last = monthrange(day.year, day.month)[1]
    if isinstance(schedule.on, int):
        return day.replace(day=schedule.on) if schedule.on <= last else None
    if schedule.on == "last":
        return day.replace(day=last)
    days = range(1, 8) if schedule.on == "first working" else range(last, last - 7, -1)
    return next(found for at in days if (found := day.replace(day=at)).isoweekday() <= 5)


def _clock(text: str) -> tuple[int, int]:
    hour, minute = text.split(":")
    return int(hour), int(minute)


def _moment(zone: ZoneInfo, day: date, hour: int, minute: int) -> datetime | None:
    """The moment of a local time. A time that the clock leaps over is the one that it leaps to; of a time that comes
    twice it is the first. ``None`` for a day that does not exist in the zone."""
    moment = datetime.combine(day, time(hour, minute), zone).astimezone(UTC)
    if moment.astimezone(zone).date() == day:
        return moment
    # The clock leaps into the next day: the last minute of this one, if there is any.
    last = datetime.combine(day + timedelta(days=1), time(), zone).astimezone(UTC) - timedelta(minutes=1)
    return last if last.astimezone(zone).date() == day else None
