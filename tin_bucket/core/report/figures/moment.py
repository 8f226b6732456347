"""A date: the first or the last of a column, or as of when the table is."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.cells import moments_of
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told, column_of


class MomentFigure(ReportFigure):
    """A date."""

    tells: Literal["date"] = "date"
    which: Literal["as of", "first", "last"] = "as of"
    column: str = Field(default="", max_length=500)


def told(one: MomentFigure, rows: FigureRows) -> Told:
    """The date.

    Raises:
        ProblemError: ``column-unknown``.
    """
    if one.which == "as of":
        return Told(rows.taken, where=None)
    values = column_of(rows, one.column, one.where)[1]
    moments = moments_of(values)[0]
    there = np.flatnonzero(~np.isnan(moments))
    if not len(there):
        return Told(None, where=one.where, why=f"No row has a date in {one.column}.")
    at = there[np.argmin(moments[there]) if one.which == "first" else np.argmax(moments[there])]
    return Told(str(values[int(at)]), where=one.where)


KIND = ReportFigureKind(
    key="date", model=MomentFigure, label="A date", phrase="{which} {column}", told=told, parts=("then",),
    fields=(
        FormField("which", "It is", "code",
                  options=(Option("as of", "when the table was made"), Option("first", "the first of"),
                           Option("last", "the last of"))),
        FormField("column", "Of", "column", with_field="which", with_values=("first", "last")),
    ),
)  # fmt: skip
