"""Durations of ISO 8601 (``P7D``, ``-P1M``, ``PT10M``) and relative dates."""

from __future__ import annotations

import calendar
import re
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache

_DURATION = re.compile(
    r"(?P<sign>[+-]?)P(?:(?P<years>\d+)Y)?(?:(?P<months>\d+)M)?(?:(?P<weeks>\d+)W)?(?:(?P<days>\d+)D)?"
    r"(?:T(?:(?P<hours>\d+)H)?(?:(?P<minutes>\d+)M)?(?:(?P<seconds>\d+)S)?)?\Z"
)


@dataclass(frozen=True, slots=True)
class Duration:
    """A span of calendar months, days and seconds, kept apart because a month has no fixed number of days."""

    months: int
    days: int
    seconds: int


@lru_cache(maxsize=1000)
def parse_duration(text: str) -> Duration:
    """Read an ISO 8601 duration (ISO 8601-1 §5.5.2.2), with a leading sign for the past.

    Raises:
        ValueError: the text is not a duration, or names no unit.
    """
    match = _DURATION.match(text.strip())
    if match is None or text.strip().endswith(("P", "T")):
        raise ValueError(f"“{text}” is not a duration such as P7D, -P1M or PT10M")
    part = {name: int(value or 0) for name, value in match.groupdict().items() if name != "sign"}
    sign = -1 if match["sign"] == "-" else 1
    return Duration(
        sign * (part["years"] * 12 + part["months"]),
        sign * (part["weeks"] * 7 + part["days"]),
        sign * (part["hours"] * 3600 + part["minutes"] * 60 + part["seconds"]),
    )


def span_of(duration: Duration) -> timedelta:
    """A duration as a span of time, in which a month counts as 30 days."""
    return timedelta(days=duration.months * 30 + duration.days, seconds=duration.seconds)


def shift_date(day: date, duration: Duration) -> date:
    """Move a date by a duration; a day that the target month lacks becomes that month's last day.

    Raises:
        ValueError: the result lies outside the years 1 to 9999, or the duration has hours.
    """
    if duration.seconds:
        raise ValueError("a date moves by days, weeks, months or years, not by hours")
    months = day.year * 12 + day.month - 1 + duration.months
    year, month = divmod(months, 12)
    if not 1 <= year <= 9999:
        raise ValueError("the date lies outside the years 1 to 9999")
    last = calendar.monthrange(year, month + 1)[1]
    try:
        return date(year, month + 1, min(day.day, last)) + timedelta(days=duration.days)
    except OverflowError as error:
        raise ValueError("the date lies outside the years 1 to 9999") from error


def anchor_date(anchor: str, today: date) -> date:
    """The date of an anchor: ``today``, ``start of week`` (its Monday), ``start of month``, ``start of quarter``
    or ``start of year``."""
    if anchor == "start of week":
        return today - timedelta(days=today.weekday())
    if anchor == "start of month":
        return today.replace(day=1)
    if anchor == "start of quarter":
        return today.replace(month=today.month - (today.month - 1) % 3, day=1)
    if anchor == "start of year":
        return today.replace(month=1, day=1)
    return today
