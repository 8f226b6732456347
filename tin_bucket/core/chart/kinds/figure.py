"""One big figure."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.chart.cells import Cells
from tin_bucket.core.chart.drawing import Axis, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, OF_COLUMN, figure_field
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ChartModel
from tin_bucket.core.chart.parts import figure_unit, figure_words, panels_of, reader_of
from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.figure_reader import FigureName


class FigureChart(ChartModel):
    """A figure of all rows; with small charts, one for each value."""

    draw: Literal["figure"] = "figure"
    figure: FigureName = "rows"
    y: str = Field(default="", max_length=MOST_NAME, description="the column that it is of")

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        return list(dict.fromkeys(filter(None, (self.y if self.figure != "rows" else "", self.each))))


def drawn(chart: FigureChart, cells: Cells, canvas: Canvas) -> Drawing:
    """The figure of a table.

    Raises:
        ProblemError: ``column-unknown``.
    """
    notes: list[str] = []
    column = None if chart.figure == "rows" else cells.column(chart.y)
    reader = reader_of(chart.figure, chart.y, cells, notes)
    panels = []
    for label, rows in panels_of(cells, chart.each, notes):
        panels.append(Panel([Series("", [reader.of(rows)], points=len(rows))], label))
    unit = figure_unit(chart.figure, column.unit if column is not None else "")
    value = Axis(figure_words(chart.figure, chart.y), "number", unit)
    return Drawing("figure", Axis("", "category"), [value], panels, cells.height, list(dict.fromkeys(notes)))


KIND = ChartKind(
    key="figure", model=FigureChart, label="Figure", phrase="one figure: {figure} {y}", drawn=drawn,
    fields=(
        figure_field("The figure is"),
        FormField("y", "Of", "column", with_field="figure", with_values=OF_COLUMN),
        EACH,
    ),
)  # fmt: skip
