"""Bars by category: beside each other, stacked, or as shares of the whole."""

from __future__ import annotations

from typing import Literal

import numpy as np
import numpy.typing as npt
from pydantic import Field

from tin_bucket.core.chart.cells import NO_VALUE, Cells, Floats, Ints
from tin_bucket.core.chart.drawing import Axis, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, LOGARITHMIC, REFERENCES, SERIES, figure_field
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ChartModel, Reference
from tin_bucket.core.chart.parts import (
    MOST_SERIES,
    figure_unit,
    figure_words,
    largest,
    panels_of,
    reader_of,
    unfit,
)
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.figure_reader import FigureName, FigureReader

OTHERS = "others"
Mask = npt.NDArray[np.bool_]


class BarsChart(ChartModel):
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
    logarithmic: bool = False
    references: list[Reference] = Field(default=[], max_length=5)

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
    panels: list[Panel] = []
    for label, rows in panels_of(cells, chart.each, notes):
        panels.append(_panel(chart, cells, rows, codes, names, columns, readers, label, notes if not panels else []))
    unit = units[0] if len(set(units)) == 1 else ""
    if len(set(units)) > 1:
        notes.append(f"{', '.join(dict.fromkeys(filter(None, units)))} stand on one scale.")
    words = [figure_words(chart.figure, name) for name in columns]
    value = Axis(words[0] if len(words) == 1 else "", "number", "%" if chart.how == "shares" else unit)
    made = Drawing("bars", Axis(chart.x, "category"), [value], panels, cells.height, list(dict.fromkeys(notes)))
    made.stacked = chart.how != "beside"
    return made


def _panel(
    chart: BarsChart,
    cells: Cells,
    rows: Ints,
    codes: Ints,
    names: list[str],
    columns: list[str],
    readers: list[FigureReader],
    label: str,
    notes: list[str],
) -> Panel:
    """The bars of one small chart."""
    own = codes[rows]
    there = np.unique(own)
    parts = _series(chart, cells, rows, columns, notes)
    wholes = [_figures(readers[at], rows[mask], own[mask], there) for at, _, mask in parts]
    sizes = np.nansum(np.array([[np.nan if v is None else abs(v) for v in one] for one in wholes]), axis=0)
    order = _order(chart, sizes, [names[code] for code in there.tolist()])
    kept = order
    rest: list[int] = []
    if len(order) > chart.most:
        by_size = largest(sizes, chart.most - 1) if chart.most > 1 else []
        kept = [at for at in order if at in set(by_size)]
        rest = [at for at in order if at not in set(by_size)]
    categories = [names[there[at]] for at in kept]
    others = np.isin(own, there[rest])
    if rest:
        categories.append(OTHERS if OTHERS not in categories else f"{OTHERS} ({len(rest):,})")
        notes.append(f"“{categories[-1]}” are {len(rest):,} values of {chart.x}.")
    series = []
    first_rows = _first_rows(cells, rows, own, there)
    for (at, name, mask), whole in zip(parts, wholes, strict=True):
        values = [whole[place] for place in kept]
        if rest:
            values.append(readers[at].of(rows[mask & others]))
        places = [first_rows[place] for place in kept] + ([-1] if rest else [])
        series.append(Series(name, values, rows=places, points=sum(value is not None for value in values)))
    if chart.how == "shares":
        _share(series)
    return Panel(series, label, categories)


def _series(
    chart: BarsChart, cells: Cells, rows: Ints, columns: list[str], notes: list[str]
) -> list[tuple[int, str, Mask]]:
    """What shares a bar: which column, what it is called, and the mask of its rows."""
    everything = np.ones(len(rows), dtype=bool)
    if not chart.series:
        several = len(columns) > 1
        return [
            (at, figure_words(chart.figure, name) if several else "", everything) for at, name in enumerate(columns)
        ]
    codes, names = cells.groups(chart.series)
    own = codes[rows]
    counts = np.bincount(own, minlength=len(names))
    kept = [code for code in largest(counts, MOST_SERIES) if counts[code]]
    if int((counts > 0).sum()) > MOST_SERIES:
        kept = [code for code in largest(counts, MOST_SERIES - 1) if counts[code]]
    out: list[tuple[int, str, Mask]] = []
    for at, column in enumerate(columns):
        words = f", {figure_words(chart.figure, column)}" if len(columns) > 1 else ""
        out += [(at, names[code] + words, own == code) for code in kept]
        rest = ~np.isin(own, kept)
        if rest.any():
            out.append((at, OTHERS + words, rest))
            notes.append(f"“{OTHERS}” are {int((counts > 0).sum()) - len(kept):,} values of {chart.series}.")
    return out


def _figures(reader: FigureReader, rows: Ints, own: Ints, there: Ints) -> list[float | None]:
    """The figure of the rows of each category; nothing where it has none."""
    order = np.argsort(own, kind="stable")
    sorted_codes = own[order]
    starts = np.flatnonzero(np.r_[True, sorted_codes[1:] != sorted_codes[:-1]]) if len(order) else order
    found = dict(
        zip(sorted_codes[starts].tolist(), reader.of_groups(rows[order], starts.astype(np.int64)), strict=True)
    )
    return [found.get(code) for code in there.tolist()]


def _first_rows(cells: Cells, rows: Ints, own: Ints, there: Ints) -> list[int]:
    """The first row of each category, by its number in the table."""
    _, first = np.unique(own, return_index=True)
    return cells.rows[rows[first]].tolist() if len(there) else []


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
        FormField("y", "Of", "columns", with_field="figure",
                  with_values=("sum", "mean", "median", "lowest", "highest", "filled", "different")),
        FormField("x", "A bar for each", "column", required=True),
        SERIES,
        FormField("how", "Colours stand", "code", with_field="series", with_values=("*",),
                  options=(Option("beside", "beside each other"), Option("stacked", "on each other"),
                           Option("shares", "on each other, as shares in %"))),
        FormField("order", "Order", "code",
                  options=(Option("value", "largest first"), Option("name", "by name"),
                           Option("table", "as the table has them"))),
        FormField("most", "Bars; the rest are others", "number", required=True, least=1, more=True),
        EACH, LOGARITHMIC, REFERENCES,
    ),
)  # fmt: skip
