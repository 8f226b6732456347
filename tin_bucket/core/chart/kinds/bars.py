"""Bars by category: beside each other, stacked, or as shares of the whole."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.cells import NO_VALUE, Cells, spoken
from tin_bucket.core.chart.drawing import Axis, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, OF_COLUMN, SCALE, SERIES, figure_field
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ScaledChart
from tin_bucket.core.chart.parts import (
    MOST_SERIES,
    Split,
    figure_unit,
    figure_words,
    largest,
    panels_of,
    reader_of,
    series_name,
    split_by,
    unfit,
)
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.columns.readings import Floats, Ints
from tin_bucket.core.work_out.figure_reader import FigureName, FigureReader

OTHERS = "others"


class BarsChart(ScaledChart):
    """A bar for each value of a column."""

    draw: Literal["bars"] = "bars"
    x: str = Field(default="", max_length=MOST_NAME, description="the column whose values have a bar each")
    y: list[str] = Field(default=[], max_length=MOST_SERIES, description="the columns whose figures are drawn")
    figure: FigureName = Field(default="rows", description="which figure of the rows of a value")
    series: str = Field(default="", max_length=MOST_NAME, description="a column whose values share a bar")
    how: Literal["beside", "stacked", "shares"] = "beside"
    order: Literal["value", "name", "table"] = Field(
        default="value", description="the largest first, by name, or as the table has them"
    )
    most: int = Field(default=12, ge=1, le=200, description="so many bars; what is left is “others”")

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        return list(dict.fromkeys(filter(None, (self.x, *self._drawn(), self.series, self.each))))

    def _drawn(self) -> list[str]:
        return [] if self.figure == "rows" else self.y


def drawn(chart: BarsChart, cells: Cells, canvas: Canvas) -> Drawing:
    """The bars of a table.

    Raises:
        ProblemError: ``column-unknown``, ``chart-unfit``.
    """
    notes: list[str] = []
    columns = [""] if chart.figure == "rows" else chart.y
    if not columns:
        raise unfit("No column is chosen whose figures are drawn.", "Choose a column, or count rows.")
    units = ["" if not name else figure_unit(chart.figure, cells.column(name).unit) for name in columns]
    readers = [reader_of(chart.figure, name, cells, notes) for name in columns]
    codes, names = cells.groups(chart.x) if chart.x else (np.zeros(cells.height, dtype=np.int64), ["all rows"])
    split = split_by(cells, chart.series, gathers=True)
    if split.others:
        notes.append(f"“{OTHERS}” are {split.others:,} values of {chart.series}.")
    bars = _Bars(chart, cells, codes, names, columns, readers, split)
    panels = [bars.panel(label, rows, notes) for label, rows in panels_of(cells, chart.each, notes)]
    unit = units[0] if len(set(units)) == 1 else ""
    if len(set(units)) > 1:
        notes.append(f"{', '.join(dict.fromkeys(filter(None, units)))} stand on one scale.")
    words = [figure_words(chart.figure, name) for name in columns]
    value = Axis(words[0] if len(words) == 1 else "", "number", "%" if chart.how == "shares" else unit)
    made = Drawing("bars", Axis(chart.x, "category"), [value], panels, cells.height, list(dict.fromkeys(notes)))
    made.stacked = chart.how != "beside"
    return made


@dataclass(frozen=True, slots=True)
class _Bars:
    """What the bars of all small charts are made of.

    Attributes:
        codes, names: for each row the number of its category, and what these are called.
        columns, readers: the columns whose figures are drawn, and what reads them.
        split: what shares a bar.
    """

    chart: BarsChart
    cells: Cells
    codes: Ints
    names: list[str]
    columns: list[str]
    readers: list[FigureReader]
    split: Split

    def panel(self, label: str, rows: Ints, notes: list[str]) -> Panel:
        """The bars of some rows. Categories beyond those that are drawn are one more, whose rows are none."""
        there, first = np.unique(self.codes[rows], return_index=True)
        parts = self._parts(rows)
        wholes = [self._figures(self.readers[at], own, there) for at, _, own in parts]
        sizes = np.nansum(np.array([[np.nan if v is None else abs(v) for v in one] for one in wholes]), axis=0)
        kept = _order(self.chart, sizes, [self.names[code] for code in there.tolist()])
        rest: list[int] = []
        if len(kept) > self.chart.most:
            drawn_ones = set(largest(sizes, self.chart.most - 1))
            rest = [at for at in kept if at not in drawn_ones]
            kept = [at for at in kept if at in drawn_ones]
        kind = self.cells.column(self.chart.x).kind if self.chart.x else "text"
        categories = spoken([self.names[there[at]] for at in kept], kind)
        places = self.cells.rows[rows[first[kept]]].tolist() if kept else []
        if rest:
            categories.append(OTHERS if OTHERS not in categories else f"{OTHERS} ({len(rest):,})")
            places.append(-1)
            of = f", of {label}" if label else ""
            notes.append(f"“{categories[-1]}”{of} are {len(rest):,} values of {self.chart.x}.")
        series = []
        for (at, name, own), whole in zip(parts, wholes, strict=True):
            values = [whole[place] for place in kept]
            if rest:
                values.append(self.readers[at].of(own[np.isin(self.codes[own], there[rest])]))
            series.append(Series(name, values, rows=places, points=sum(value is not None for value in values)))
        if self.chart.how == "shares":
            _share(series)
        return Panel(series, label, categories)

    def _parts(self, rows: Ints) -> list[tuple[int, str, Ints]]:
        """What shares a bar: which column, what it is called, and its rows."""
        parts = self.split.of(rows)
        rest = self.split.rest(rows)
        if len(rest):
            parts.append((OTHERS, rest))
        return [
            (at, series_name(name, self.chart.figure, column, len(self.columns)), own)
            for at, column in enumerate(self.columns)
            for name, own in parts
        ]

    def _figures(self, reader: FigureReader, rows: Ints, there: Ints) -> list[float | None]:
        """The figure of the rows of each category; nothing where it has none."""
        own = self.codes[rows]
        order = np.argsort(own, kind="stable")
        codes = own[order]
        starts = np.flatnonzero(np.r_[True, codes[1:] != codes[:-1]]).astype(np.int64) if len(codes) else order
        found = dict(zip(codes[starts].tolist(), reader.of_groups(rows[order], starts), strict=True))
        return [found.get(code) for code in there.tolist()]


def _order(chart: BarsChart, sizes: Floats, names: list[str]) -> list[int]:
    """The indices of the categories in the order in which they stand; what has no value stands last by name."""
    places = list(range(len(names)))
    if chart.order == "value":
        return sorted(places, key=lambda at: -sizes[at])
    if chart.order == "name":
        return sorted(places, key=lambda at: (names[at] == NO_VALUE, names[at].casefold(), names[at]))
    return places


def _share(series: list[Series]) -> None:
    """Put shares in percent of each category in the place of the values; together they are 100."""
    for at in range(len(series[0].y) if series else 0):
        values = [one.y[at] for one in series]
        if any(value is not None and value < 0 for value in values):
            raise unfit("Shares are of values that are not below 0, and some of these are.", "Stack them instead.")
        whole = sum(value for value in values if value is not None)
        for one, value in zip(series, values, strict=True):
            one.y[at] = None if value is None or not whole else 100 * value / whole


KIND = ChartKind(
    key="bars", model=BarsChart, label="Bars", phrase="bars of {figure} by {x}", drawn=drawn,
    fields=(
        figure_field("The bars are"),
        FormField("y", "Of", "columns", with_field="figure", with_values=OF_COLUMN),
        FormField("x", "A bar for each", "column", required=True),
        SERIES,
        FormField("how", "Colours stand", "code", with_field="series", with_values=("*",),
                  options=(Option("beside", "beside each other"), Option("stacked", "on each other"),
                           Option("shares", "on each other, as shares in %"))),
        FormField("order", "Order", "code",
                  options=(Option("value", "largest first"), Option("name", "by name"),
                           Option("table", "as the table has them"))),
        FormField("most", "Bars; the rest are others", "number", required=True, least=1, more=True),
        EACH, *SCALE,
    ),
)  # fmt: skip
