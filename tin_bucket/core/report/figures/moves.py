"""What moved since the date that the report is read against: rows that are new or gone, numbers that rose and fell."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told


class MovesFigure(ReportFigure):
    """How many rows are new, gone or changed; or in how many a column rose and fell."""

    tells: Literal["moves"] = "moves"
    what: Literal["new", "gone", "changed", "rose and fell"] = "new"
    column: str = Field(default="", max_length=500, description="of what rose and fell; else any")


def told(one: MovesFigure, rows: FigureRows) -> Told:
    """The figure, over the whole table."""
    moves = rows.moves()
    if moves is None:
        return Told(None, counts=True, where=None, why="There is no other date to hold it against.")
    if one.what == "rose and fell":
        found = moves.columns.get(one.column)
        rose, fell = (found.rose, found.fell) if found is not None else (0, 0)
        words = f"rose on {rose:,} and fell on {fell:,}" if rose or fell else "did not move"
        return Told(words, where=None)
    if one.what == "changed" and one.column:
        changed = moves.columns.get(one.column)
        return Told(changed.cells if changed is not None else 0, counts=True, where=None)
    return Told(moves.counts.get(one.what, 0), counts=True, where=None)


KIND = ReportFigureKind(
    key="moves", model=MovesFigure, label="What is new, gone or changed", phrase="{what} {column}", told=told,
    parts=(),
    fields=(
        FormField("what", "It is", "code",
                  options=(Option("new", "rows that are new"), Option("gone", "rows that are gone"),
                           Option("changed", "rows that changed"),
                           Option("rose and fell", "on how many rows a column rose and fell"))),
        FormField("column", "Of", "column", with_field="what", with_values=("changed", "rose and fell")),
    ),
)  # fmt: skip
