"""Charts that suit the columns of a table, the likeliest first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tin_bucket.core.columns.readings import is_empty

from .cells import ChartColumn, are_months, moments_of, name_of
from .kinds.bars import BarsChart
from .kinds.figure import FigureChart
from .kinds.line import LineChart
from .kinds.points import PointsChart
from .kinds.spread import SpreadChart
from .model import ChartModel
from .periods import PeriodName

_DAY = 86_400_000  # Milliseconds.
_FEW = 12  # Values of a column that may have a line or a colour each.
_READABLE = 60  # Times that may each have a point.
_SHORT = 3  # Days that may be told by the hour.
_BARS = 60  # Values that may have a bar each, the smallest together.


LOOKED = 5_000  # Rows that are looked at.


@dataclass(frozen=True, slots=True)
class Offered:
    """What is known of a column.

    Attributes:
        is_number, is_time: what its values are.
        unit: what its numbers count.
        different: how many values it has, among some thousand rows.
        days: how many days there are from its first time to its last.
        is_key: whether it says which row is which.
    """

    name: str
    is_number: bool
    is_time: bool
    unit: str
    different: int
    days: float = 0.0
    is_key: bool = False


def offered(column: ChartColumn, is_key: bool) -> Offered:
    """What the first rows tell of a column."""
    some = column.values[:LOOKED]
    is_time = column.is_time or are_months(some)
    days = 0.0
    if is_time:
        times = moments_of(some)[0]
        times = times[~np.isnan(times)]
        days = float(times.max() - times.min()) / _DAY if len(times) else 0.0
    different = len({name_of(value) for value in some if not is_empty(value)})
    return Offered(column.name, column.is_number, is_time, column.unit, different, days, is_key)


def propose(columns: Sequence[Offered], rows: int) -> list[ChartModel]:
    """Charts of a table: a line over its times, bars of its names, points of its numbers, the spread of one.

    Args:
        columns: those that are seen, in their order.
        rows: how many were looked at.
    """
    times = [one for one in columns if one.is_time and one.different > 1]
    numbers = sorted(
        (one for one in columns if one.is_number and not one.is_key and one.different > 1),
        key=lambda one: (not one.unit, seems_a_code(one)),
    )
    names = [one for one in columns if not one.is_number and not one.is_time and not one.is_key and one.different > 1]
    few = [one for one in names if one.different <= _FEW]
    out: list[ChartModel] = []
    for time in times[:1]:
        repeats = time.different < rows
        period = _period(time)
        if numbers:
            split = next((one.name for one in few if repeats), "")
            figure = "mean" if repeats or period else ""
            out.append(LineChart(x=time.name, y=[numbers[0].name], series=split, figure=figure, period=period))
        elif repeats or period:
            out.append(LineChart(x=time.name, figure="rows", period=period))
    fit = [one for one in names if one.different <= _BARS] or [one for one in names if one.different < rows]
    for name in fit[:1]:
        if numbers:
            # Of one row the mean is its number.
            out.append(BarsChart(x=name.name, y=[numbers[0].name], figure="mean"))
        other = next((one.name for one in few if one is not name), "")
        out.append(BarsChart(x=name.name, series=other, how="stacked" if other else "beside"))
    if len(numbers) > 1:
        colour = few[0].name if few else ""
        out.append(PointsChart(x=numbers[0].name, y=numbers[1].name, series=colour))
    if numbers:
        out.append(SpreadChart(x=numbers[0].name))
        out.append(FigureChart(figure="mean", y=numbers[0].name))
    if not out:
        out.append(FigureChart(figure="rows"))
    return out


def _period(time: Offered) -> PeriodName:
    """The period that makes a line of many times readable; none where there are few."""
    if time.different <= _READABLE or time.days <= _SHORT:
        return ""
    return "day" if time.days <= 120 else "week" if time.days <= 800 else "month"


def seems_a_code(column: Offered) -> bool:
    """Whether numbers are more likely names than amounts."""
    name = column.name.casefold().replace("_", " ")
    return any(name == word or name.endswith(f" {word}") for word in ("id", "code", "number", "no", "nr", "key"))
