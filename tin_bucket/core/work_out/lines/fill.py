"""Values where there is none."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.conditions import fitting
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Value, Word, said
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import ROW, Col, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

STRETCH = '"#stretch"'


class Fill(LineModel):
    """Values where there is none: one value, that of another column, or that of the row before."""

    do: Literal["fill"] = "fill"
    column: ColumnName
    by: Literal["value", "column", "row before"] = "value"
    value: Value = None
    other: str | None = Field(default=None, description="the column whose value is taken, for “column”")

    @model_validator(mode="after")
    def _has_what_it_takes(self) -> Fill:
        if self.by == "value" and self.value in (None, ""):
            raise ValueError("say the value that blanks are filled with")
        if self.by == "column" and not self.other:
            raise ValueError("say the column whose value blanks are filled with")
        return self

    def words(self) -> list[Word]:
        """fill blanks of zone with “none”."""
        out: list[Word] = ["fill blanks of ", Chip(self.column, "column"), " with "]
        if self.by == "value":
            return [*out, Chip(said(self.value), "value")]
        return [*out, Chip(self.other or "", "other") if self.by == "column" else Chip("the row before", "by")]

    def plan(self, shape: Shape) -> Step:
        """The column, with fewer blanks."""
        column = shape.column(self.column)
        cell = sql("nullif(", Col(column.name), ", '')")
        if self.by == "column":
            made = sql("coalesce(", cell, ", ", Col(shape.column(self.other or "").name), ")")
            return Columns([Made(column.name, made, None, column.unit, chooses=True)])
        if self.by == "value":
            made = sql("coalesce(", cell, f", {literal(fitting(column, self.value))})")
            return Columns([Made(column.name, made, None, column.unit, chooses=True)])
        # The last row with a value, up to each row, names the stretch that its value fills.
        stretch = sql("max(CASE WHEN ", cell, " IS NOT NULL THEN ", Col(ROW), " END) OVER (ORDER BY ", Col(ROW), ")")
        made = sql("max(", cell, f") OVER (PARTITION BY {STRETCH})")
        made_column = Made(column.name, made, column.kind, column.unit, chooses=True)
        return Columns([made_column], along=True, inner=((STRETCH, stretch),))


LINE = LineKind(
    key="fill",
    model=Fill,
    label="values for blanks",
    hint="Fill blanks with a value, another column, or the row before.",
    finds=("blank", "empty", "missing", "fill down", "default", "null", "coalesce"),
    heading="Fill blanks…",
    starts="column",
    fields=(
        FormField("column", "Blanks of", "column", required=True),
        FormField("by", "Filled with", "text", options=(
            Option("value", "a value"), Option("column", "another column"), Option("row before", "the row before"))),
        FormField("value", "Value", "value", with_field="by", with_values=("value",)),
        FormField("other", "Other column", "column", with_field="by", with_values=("column",)),
    ),
)  # fmt: skip
