"""The periods that points of a line are put together by: a day, a week, a month, as a date is written."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import UTC, date, datetime, timedelta
from typing import Any, Literal

import numpy as np

from tin_bucket.core.choice import Option
from tin_bucket.core.columns.iso_texts import days_alike
from tin_bucket.core.columns.readings import Floats

from .cells import read_moments

PeriodName = Literal["", "day", "week", "month", "quarter", "year"]
PERIODS = (
    Option("", "as they are"),
    Option("day", "by day"),
    Option("week", "by week"),
    Option("month", "by month"),
    Option("quarter", "by quarter"),
    Option("year", "by year"),
)
_START: dict[str, Callable[[date], date]] = {
    "day": lambda day: day,
    "week": lambda day: day - timedelta(days=day.weekday()),
    "month": lambda day: day.replace(day=1),
    "quarter": lambda day: day.replace(month=(day.month - 1) // 3 * 3 + 1, day=1),
    "year": lambda day: day.replace(month=1, day=1),
}


def period_starts(values: Sequence[Any], period: PeriodName) -> tuple[Floats, int]:
    """When the period of each value begins, in milliseconds since 1970 as if it were in UTC, NaN where a cell has none;
    and how many cells have another value. A date is in the time zone that it is written in, and weeks begin on Monday
    (ISO 8601). Shape (values,)."""
    quick = _of_one_form(values, period)
    if quick is not None:
        return quick, 0
    out = np.full(len(values), np.nan)
    start = _START[period]
    known: dict[date, float] = {}
    found, odd = read_moments(values)
    for at, moment in found:
        day = moment.date()
        if day not in known:
            first = start(day)
            known[day] = datetime(first.year, first.month, first.day, tzinfo=UTC).timestamp() * 1000
        out[at] = known[day]
    return out, odd


def _of_one_form(values: Sequence[Any], period: PeriodName) -> Floats | None:
    """As :func:`period_starts`, of texts that all begin with a day and are all alike behind it; nothing for others."""
    days = days_alike(values)
    if days is None:
        return None
    if period == "week":
        # Day 0, 1970-01-01, was a Thursday.
        first = days - ((days.astype(np.int64) + 3) % 7).astype("timedelta64[D]")
    elif period == "quarter":
        months = days.astype("datetime64[M]").astype(np.int64)
        first = (months - months % 3).astype("datetime64[M]")
    else:
        first = days.astype(_NUMPY[period])
    milliseconds: Floats = first.astype("datetime64[ms]").astype(np.float64)
    return milliseconds


_NUMPY = {"day": "datetime64[D]", "month": "datetime64[M]", "year": "datetime64[Y]"}
