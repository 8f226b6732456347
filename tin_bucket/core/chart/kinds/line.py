"""A line over time or over numbers: points in their order, gaps as gaps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.cells import Cells
from tin_bucket.core.chart.drawing import Axis, AxisKind, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, OF_COLUMN, SCALE, SERIES, figure_field
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ScaledChart
from tin_bucket.core.chart.parts import (
    MOST_SERIES,
    figure_unit,
    figure_words,
    left_out,
    odd_values,
    panels_of,
    reader_of,
    series_name,
    split_by,
    unfit,
)
from tin_bucket.core.chart.periods import PERIODS, PeriodName, period_starts
from tin_bucket.core.chart.thin import thinned
from tin_bucket.core.choice import FormField
from tin_bucket.core.columns.readings import Floats, Ints
from tin_bucket.core.work_out.figure_reader import FigureName, FigureReader

_REGULAR = 0.8  # The part of the steps that are alike where a line has a rhythm.
_MISSED = 1.6  # A step that is so many times as long as usual has missed one.


class LineChart(ScaledChart):
    """A line of each of some columns, or of one column for each value of another."""

    draw: Literal["line"] = "line"
    x: str = Field(default="", max_length=MOST_NAME, description="the column along which it goes: times or numbers")
    y: list[str] = Field(default=[], max_length=MOST_SERIES, description="the columns that are drawn")
    series: str = Field(
        default="", max_length=MOST_NAME, description="a column, for each of whose values there is a line"
    )
    period: PeriodName = Field(default="", description="times are put together by it; each stays as it is when empty")
    figure: FigureName | Literal[""] = Field(
        default="", description="what is drawn of several rows of one place; each of them when empty"
    )

    @property
    def drawn_figure(self) -> FigureName | Literal[""]:
        """What is drawn of several rows of one place: of a period always one figure."""
        return self.figure or ("mean" if self.period else "")

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        return list(dict.fromkeys(filter(None, (self.x, *self.y, self.series, self.each))))


@dataclass(frozen=True, slots=True)
class _Along:
    """The places of the rows along the first axis, NaN where a row has none."""

    at: Floats
    axis: Axis


def drawn(chart: LineChart, cells: Cells, canvas: Canvas) -> Drawing:
    """The lines of a table.

    Raises:
        ProblemError: ``column-unknown``, ``chart-unfit``.
    """
    notes: list[str] = []
    figure = chart.drawn_figure
    columns = [""] if figure == "rows" else chart.y
    if not columns:
        raise unfit("No column is chosen that is drawn.", "Choose a column of numbers.")
    along = _along(chart, cells, notes)
    units = ["" if not name else figure_unit(figure, cells.column(name).unit) for name in columns]
    axes, axis_of = _axes(chart, columns, units, notes)
    values = {name: _values(chart, cells, name, notes) for name in columns}
    split = split_by(cells, chart.series)
    left_out(split.others, chart.series, notes)
    panels: list[Panel] = []
    for name, rows in panels_of(cells, chart.each, notes):
        made = [
            _line(
                along,
                values[column],
                part,
                cells,
                canvas,
                series_name(label, figure, column, len(columns)),
                axis_of[at],
            )
            for at, column in enumerate(columns)
            for label, part in split.of(rows)
        ]
        panels.append(Panel([one for one in made if one.y], name))
    return Drawing("line", along.axis, axes, panels, cells.height, list(dict.fromkeys(notes)))


def _along(chart: LineChart, cells: Cells, notes: list[str]) -> _Along:
    name = chart.x
    column = cells.column(name)
    if column.is_number:
        at, odd = cells.numbers(name)
        odd_values(odd, name, "number", notes)
        return _Along(at, Axis(name, "number", column.unit))
    if chart.period:
        at, odd = period_starts(column.values, chart.period)
        floats = True
    else:
        at, odd, floats = cells.moments(name)
    if cells.height and bool(np.isnan(at).all()):
        raise unfit(
            f"{name} holds neither times nor numbers, along which a line could go.",
            "Choose another column for it, or draw bars.",
        )
    odd_values(odd, name, "time", notes)
    kind: AxisKind = "day" if floats else "time"
    return _Along(at, Axis(name, kind))


def _axes(chart: LineChart, columns: list[str], units: list[str], notes: list[str]) -> tuple[list[Axis], list[int]]:
    """The value axes, and which one each column belongs to. There are two where there are two units."""
    different = list(dict.fromkeys(units))
    names = [figure_words(chart.drawn_figure, column) for column in columns]
    if len(different) == 2:
        axes = []
        for unit in different:
            own = [name for name, one in zip(names, units, strict=True) if one == unit]
            axes.append(Axis(", ".join(own), "number", unit))
        notes.append(f"Two scales: {axes[0].name} at the left, {axes[1].name} at the right.")
        return axes, [different.index(unit) for unit in units]
    if len(different) > 2:
        notes.append(f"{', '.join(filter(None, different))} stand on one scale.")
    unit = different[0] if len(different) == 1 else ""
    return [Axis(names[0] if len(names) == 1 else "", "number", unit)], [0] * len(columns)


def _values(chart: LineChart, cells: Cells, name: str, notes: list[str]) -> tuple[Floats, FigureReader | None]:
    if chart.drawn_figure:
        return np.zeros(0), reader_of(chart.drawn_figure, name, cells, notes)
    numbers, odd = cells.numbers(name)
    odd_values(odd, name, "number", notes)
    return numbers, None


def _line(
    along: _Along,
    values: tuple[Floats, FigureReader | None],
    rows: Ints,
    cells: Cells,
    canvas: Canvas,
    name: str,
    axis: int,
) -> Series:
    rows = rows[~np.isnan(along.at[rows])]
    rows = rows[np.argsort(along.at[rows], kind="stable")]
    x = along.at[rows]
    numbers, reader = values
    if reader is None:
        y = numbers[rows]
    else:
        starts = np.flatnonzero(np.r_[True, x[1:] != x[:-1]]).astype(np.int64) if len(x) else rows[:0]
        made = reader.of_groups(rows, starts)
        y = np.array([np.nan if one is None else one for one in made], dtype=np.float64)
        x, rows = x[starts], rows[starts]
    points = int((~np.isnan(y)).sum())
    if points:
        # A line begins and ends with a number.
        there = np.flatnonzero(~np.isnan(y))
        part = slice(int(there[0]), int(there[-1]) + 1)
        x, y, rows = x[part], y[part], rows[part]
    x, y, rows = _with_gaps(x, y, rows)
    if canvas.within is not None:
        # A point on either side, so that the line goes on to the edge.
        first = max(0, int(np.searchsorted(x, canvas.within[0])) - 1)
        part = slice(first, int(np.searchsorted(x, canvas.within[1], side="right")) + 1)
        x, y, rows = x[part], y[part], rows[part]
    kept = thinned(x, y, canvas.width)
    numbers_of_rows = np.where(rows[kept] >= 0, cells.rows[np.maximum(rows[kept], 0)], -1) if cells.height else kept
    told = [None if np.isnan(one) else one for one in y[kept].tolist()]
    if not points:
        return Series(name, [])
    return Series(name, told, x[kept].tolist(), numbers_of_rows.tolist(), None, axis, points)


def _with_gaps(x: Floats, y: Floats, rows: Ints) -> tuple[Floats, Floats, Ints]:
    """A gap where a line with a rhythm has missed a place."""
    steps = np.diff(x)
    steps = steps[steps > 0]
    if len(steps) < 3:
        return x, y, rows
    usual = float(np.median(steps))
    if float((np.abs(steps - usual) <= usual * (_MISSED - 1)).mean()) < _REGULAR:
        return x, y, rows
    holes = np.flatnonzero(np.diff(x) > usual * _MISSED) + 1
    if not len(holes):
        return x, y, rows
    middle = (x[holes - 1] + x[holes]) / 2
    return np.insert(x, holes, middle), np.insert(y, holes, np.nan), np.insert(rows, holes, -1)


KIND = ChartKind(
    key="line", model=LineChart, label="Line", phrase="a line of {y} along {x}", drawn=drawn,
    fields=(
        FormField("y", "Of", "number columns", with_field="figure", with_values=("", *OF_COLUMN)),
        figure_field("Several rows at one place are", none="drawn each"),
        FormField("x", "Along", "column", required=True),
        FormField("period", "Times", "code", options=PERIODS),
        SERIES, EACH, *SCALE,
    ),
)  # fmt: skip
