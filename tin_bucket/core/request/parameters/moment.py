"""What relative dates count from, and the dates that they are at a moment."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from zoneinfo import ZoneInfo

from tin_bucket.core.formats.durations import anchor_date, parse_duration, shift_date

from .models import RelativeDate, RelativeMoment


@dataclass(frozen=True, slots=True)
class Moment:
    """What relative dates count from.

    Attributes:
        now: this moment, in the time zone of this machine.
        last_refresh: when the query was refreshed last, if it ever was.
    """

    now: datetime
    last_refresh: datetime | None = None

    def zone(self, name: str) -> tzinfo:
        """A parameter's time zone; this machine's when the name is empty."""
        return ZoneInfo(name) if name else (self.now.tzinfo or UTC)

    def today(self, zone: str = "") -> date:
        """The date that it is now in a zone."""
        return self.now.astimezone(self.zone(zone)).date()


def anchored_day(relative: RelativeDate, moment: Moment, zone: str) -> date | None:
    """The date that a relative date is now; ``None`` while there has been no refresh to count from."""
    if relative.anchor == "last refresh":
        if moment.last_refresh is None:
            return relative.first
        anchor = moment.last_refresh.astimezone(moment.zone(zone)).date()
    else:
        anchor = anchor_date(relative.anchor, moment.today(zone))
    return shift_date(anchor, parse_duration(relative.offset))


def anchored_moment(relative: RelativeMoment, moment: Moment, zone: str) -> datetime | None:
    """As :func:`anchored_day`, of a moment."""
    where = moment.zone(zone)
    if relative.anchor == "now":
        start = moment.now.astimezone(where).replace(microsecond=0)
    elif relative.anchor == "last refresh":
        if moment.last_refresh is None:
            first = relative.first
            return first if first is None or first.tzinfo else first.replace(tzinfo=where)
        start = moment.last_refresh.astimezone(where)
    else:
        start = datetime.combine(anchor_date(relative.anchor, moment.today(zone)), time(), where)
    return shift_moment(start, relative.offset)


def shift_moment(start: datetime, offset: str) -> datetime:
    """Move a moment by an ISO 8601 duration: days by the calendar of its zone, hours by the clock.

    Raises:
        ValueError: the result lies outside the years 1 to 9999.
    """
    span = parse_duration(offset)
    day = shift_date(start.date(), type(span)(span.months, span.days, 0))
    local = datetime.combine(day, start.timetz())
    try:
        return (local.astimezone(UTC) + timedelta(seconds=span.seconds)).astimezone(start.tzinfo)
    except OverflowError as error:
        raise ValueError("the moment lies outside the years 1 to 9999") from error


def moment_text(value: datetime) -> str:
    """A moment in its plain form."""
    return value.isoformat(timespec="seconds")
