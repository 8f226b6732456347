"""Other values in the place of some."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.conditions import fitting
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Value, Word, maybe, said
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step


class Change(Part):
    """A value, and the one that takes its place; blank where there is none."""

    old: Value
    new: Value = None


class Replace(LineModel):
    """Other values in the place of some: 0 means blank, codes become names, a part of a text goes."""

    do: Literal["replace"] = "replace"
    column: ColumnName
    changes: list[Change] = Field(min_length=1, max_length=5_000)
    what: Literal["whole", "part"] = Field(default="whole", description="whole values, or parts of texts")

    def words(self) -> list[Word]:
        """in delay, replace 0 by blank."""
        out: list[Word] = ["in ", Chip(self.column, "column"), " replace "]
        out += ["the text " if self.what == "part" else ""]
        for at, change in enumerate(self.changes[:3]):
            out += [", " if at else "", Chip(f"{said(change.old)} by {said(change.new)}", "changes")]
        return [*out, *maybe(len(self.changes) > 3, " and ", Chip(f"{len(self.changes) - 3} more", "changes"))]

    def plan(self, shape: Shape) -> Step:
        """The column, with other values."""
        column = shape.column(self.column)
        cell: Sql = sql(Col(column.name))
        if self.what == "part":
            for change in self.changes:
                old, new = literal(str(change.old)), literal("" if change.new is None else str(change.new))
                cell = sql("replace(", cell, f", {old}, {new})")
            made = sql(
                "CASE typeof(", Col(column.name), ") WHEN 'text' THEN ", cell, " ELSE ", Col(column.name), " END"
            )
            return Columns([Made(column.name, made, column.kind, column.unit, chooses=True)])
        whens = [
            sql(
                # A text among numbers is replaced as it is written.
                f"WHEN {literal(change.old if _is_odd(column.numeric, change.old) else fitting(column, change.old))}"
                f" THEN {literal(change.new if _is_odd(column.numeric, change.new) else fitting(column, change.new))} "
            )
            for change in self.changes
        ]
        made = sql("CASE ", cell, " ", *whens, "ELSE ", cell, " END")
        kind = None if any(change.new is not None for change in self.changes) else column.kind
        return Columns([Made(column.name, made, kind, column.unit, chooses=True)])


def _is_odd(numeric: bool, value: object) -> bool:
    """Whether it is a text that is no number, for a column of numbers."""
    if value is None:
        return True
    if not numeric or not isinstance(value, str):
        return False
    try:
        float(value)
    except ValueError:
        return True
    return False


LINE = LineKind(
    key="replace",
    model=Replace,
    label="other values in the place of some",
    hint="0 means blank, codes become names, a part of a text goes.",
    finds=("blank", "zero", "0", "null", "n/a", "map", "rename values", "substitute", "clean", "find and replace"),
    heading="Replace values…",
    starts="column",
    fields=(
        FormField("column", "In column", "column", required=True),
        FormField("what", "What is replaced", "text", options=(
            Option("whole", "whole values"), Option("part", "a part of the text"))),
        FormField("changes", "Values", "changes", required=True, wide=True),
    ),
)  # fmt: skip
