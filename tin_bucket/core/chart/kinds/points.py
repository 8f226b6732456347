"""Points of two numbers, with a third as their size."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.cells import Cells
from tin_bucket.core.chart.drawing import Axis, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, SCALE, SERIES
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ScaledChart
from tin_bucket.core.chart.parts import left_out, odd_values, panels_of, split_by
from tin_bucket.core.choice import FormField
from tin_bucket.core.columns.readings import Floats, Ints

_MANY = 5_000  # Points from which those that would lie on each other are drawn once.
_APART = (2, 3, 4, 6, 8, 12)  # Pixels; as many as leave no more points than are drawn at once.


class PointsChart(ScaledChart):
    """A point for each row."""

    draw: Literal["points"] = "points"
    x: str = Field(default="", max_length=MOST_NAME, description="the column of numbers along which they stand")
    y: str = Field(default="", max_length=MOST_NAME, description="the column of numbers that says how high")
    size: str = Field(default="", max_length=MOST_NAME, description="the column of numbers that says how large")
    series: str = Field(default="", max_length=MOST_NAME, description="a column, each of whose values has a colour")

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        return list(dict.fromkeys(filter(None, (self.x, self.y, self.size, self.series, self.each))))


def drawn(chart: PointsChart, cells: Cells, canvas: Canvas) -> Drawing:
    """The points of a table.

    Raises:
        ProblemError: ``column-unknown``.
    """
    notes: list[str] = []
    x, odd = cells.numbers(chart.x)
    odd_values(odd, chart.x, "number", notes)
    y, odd = cells.numbers(chart.y)
    odd_values(odd, chart.y, "number", notes)
    size: Floats | None = None
    if chart.size:
        size, odd = cells.numbers(chart.size)
        odd_values(odd, chart.size, "number", notes)
    there = ~np.isnan(x) & ~np.isnan(y)
    if size is not None:
        there &= ~np.isnan(size)
    if canvas.within is not None:
        there &= (x >= canvas.within[0]) & (x <= canvas.within[1])
    split = split_by(cells, chart.series)
    left_out(split.others, chart.series, notes)
    panels: list[Panel] = []
    hidden = 0
    for label, rows in panels_of(cells, chart.each, notes):
        rows = rows[there[rows]]
        series = []
        for name, own in split.of(rows):
            kept = _apart(x[own], y[own], canvas.width) if len(rows) > _MANY else np.arange(len(own))
            hidden += len(own) - len(kept)
            own_rows = own[kept]
            sizes = None if size is None else size[own_rows].tolist()
            series.append(
                Series(
                    name, y[own_rows].tolist(), x[own_rows].tolist(), cells.rows[own_rows].tolist(), sizes, 0, len(own)
                )
            )
        panels.append(Panel(series, label))
    if hidden:
        notes.append(f"{hidden:,} points lie on others, and are drawn with them.")
    axes = [Axis(chart.y, "number", cells.column(chart.y).unit)]
    along = Axis(chart.x, "number", cells.column(chart.x).unit)
    return Drawing("points", along, axes, panels, cells.height, list(dict.fromkeys(notes)))


def _apart(x: Floats, y: Floats, pixels: int) -> Ints:
    """One point for each place that a screen tells apart; no place loses its only one. Shape (kept,)."""
    if not len(x):
        return np.zeros(0, dtype=np.int64)
    first = np.zeros(0, dtype=np.int64)
    for apart in _APART:
        first = _first_of_each(x, y, max(1, pixels // apart))
        if len(first) <= _MANY:
            break
    return np.sort(first).astype(np.int64)


def _first_of_each(x: Floats, y: Floats, cells: int) -> Ints:
    def places(values: Floats) -> Ints:
        span = float(values.max() - values.min()) or 1.0
        found: Ints = ((values - values.min()) / span * cells).astype(np.int64)
        return found

    _, first = np.unique(places(x) * (cells + 1) + places(y), return_index=True)
    found: Ints = first.astype(np.int64)
    return found


KIND = ChartKind(
    key="points", model=PointsChart, label="Points", phrase="points of {y} against {x}", drawn=drawn,
    fields=(
        FormField("y", "Of", "number column", required=True), FormField("x", "Along", "number column", required=True),
        FormField("size", "Size", "number column", placeholder="all alike"),
        SERIES, EACH, *SCALE,
    ),
)  # fmt: skip
