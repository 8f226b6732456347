"""An amount: a count, sum, mean and the like of the rows that count."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.fields import OF_COLUMN, figure_field
from tin_bucket.core.choice import FormField
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told, column_of, odd_cells
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureName, FigureReader


class AmountFigure(ReportFigure):
    """A figure of all rows that count."""

    tells: Literal["amount"] = "amount"
    figure: FigureName = "rows"
    column: str = Field(default="", max_length=500)


def told(one: AmountFigure, rows: FigureRows) -> Told:
    """The figure.

    Raises:
        ProblemError: ``column-unknown``.
    """
    if one.figure == "rows":
        return Told(rows.count(one.where), counts=True, where=one.where)
    heading, values = column_of(rows, one.column, one.where)
    if one.figure in COUNTS:
        found = FigureReader(values, one.figure).of(np.arange(len(values)))
        return Told(found, counts=True, where=one.where)
    numbers, odd = rows.numbers(one.column, one.where)
    found = FigureReader(numbers, one.figure).of(np.arange(len(numbers)))
    why = "" if found is not None else f"No row has a number in {one.column}."
    return Told(found, unit=heading.unit, where=one.where, notes=odd_cells(odd, one.column), why=why)


KIND = ReportFigureKind(
    key="amount", model=AmountFigure, label="A count, sum or mean", phrase="{figure} {column}", told=told,
    fields=(
        figure_field("It is"),
        FormField("column", "Of", "column", with_field="figure", with_values=OF_COLUMN),
    ),
)  # fmt: skip
