"""The name that has the highest or the lowest figure."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.analysis.view import OneOf
from tin_bucket.core.chart.fields import OF_COLUMN, figure_field
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.columns.readings import group_codes
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told, column_of, odd_cells
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureName, FigureReader


class LeadingFigure(ReportFigure):
    """The value of a column whose rows have the highest or the lowest figure."""

    tells: Literal["leading"] = "leading"
    by: str = Field(default="", max_length=500, description="the column of the names")
    most: Literal["highest", "lowest"] = "highest"
    figure: FigureName = "rows"
    column: str = Field(default="", max_length=500)
    least: int = Field(default=1, ge=1, le=1_000_000, description="names with fewer rows are passed over")


def told(one: LeadingFigure, rows: FigureRows) -> Told:
    """The name, and its figure.

    Raises:
        ProblemError: ``column-unknown``.
    """
    codes, names = group_codes(column_of(rows, one.by, one.where)[1])
    unit, notes = "", []
    reader = FigureReader([], "rows")
    if one.figure != "rows":
        heading, cells = column_of(rows, one.column, one.where)
        if one.figure in COUNTS:
            reader = FigureReader(cells, one.figure)
        else:
            numbers, odd = rows.numbers(one.column, one.where)
            unit, notes = heading.unit, odd_cells(odd, one.column)
            reader = FigureReader(numbers, one.figure)
    order = np.argsort(codes, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(codes[order]) > 0]) if len(codes) else order
    counts = np.diff(np.r_[starts, len(codes)])
    sign = 1 if one.most == "highest" else -1
    best: tuple[float, str] | None = None
    for name, count, value in zip(names, counts.tolist(), reader.of_groups(order, starts), strict=True):
        # Of equal ones the first by name: the same one each time.
        if name and value is not None and count >= one.least:
            found = (sign * value, name)
            if best is None or found[0] > best[0] or (found[0] == best[0] and name < best[1]):
                best = found
    if best is None:
        return Told(None, unit=unit, where=one.where, notes=notes, why=f"No row has a name in {one.by}.")
    where = [*one.where, OneOf(column=one.by, values=[best[1]])]
    return Told(best[1], sign * best[0], unit, one.figure in COUNTS, where, notes)


KIND = ReportFigureKind(
    key="leading", model=LeadingFigure, label="The name with the highest or lowest", phrase="{most} {by}", told=told,
    parts=("amount", "change", "moved", "then"),
    fields=(
        FormField("by", "The name is of", "column", required=True),
        FormField("most", "It has the", "code",
                  options=(Option("highest", "highest"), Option("lowest", "lowest"))),
        figure_field("Figure"),
        FormField("column", "Of", "column", with_field="figure", with_values=OF_COLUMN),
        FormField("least", "With at least so many rows", "number", required=True, least=1, more=True),
    ),
)  # fmt: skip
