"""Rows that repeat others."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, Word, chips
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import ROW, Col, joined, sql
from tin_bucket.core.work_out.steps import Rows, Step


class DropRepeats(LineModel):
    """One row of those that are alike."""

    do: Literal["repeats"] = "repeats"
    by: list[str] = Field(default=[], max_length=2_000, description="the columns that are alike; all when empty")
    stays: Literal["first", "last"] = "first"

    def words(self) -> list[Word]:
        """drop repeats by sailing_id, keep the first."""
        by = [" by ", *chips(self.by, "by")] if self.by else []
        return ["drop repeats", *by, ", keep the ", Chip(self.stays, "stays")]

    def plan(self, shape: Shape) -> Step:
        """The rows that stay, in their order."""
        names = self.by or shape.names
        groups = joined(", ", [sql(Col(shape.column(name).name)) for name in names])
        down = " DESC" if self.stays == "last" else ""
        return Rows(rank=sql("row_number() OVER (PARTITION BY ", groups, " ORDER BY ", Col(ROW), f"{down})"), most=1)


LINE = LineKind(
    key="repeats",
    model=DropRepeats,
    label="rows without repeats",
    hint="One row of those that are alike in some columns.",
    finds=("duplicates", "distinct", "unique", "dedupe", "repeats", "once"),
    heading="Drop repeats by this",
    starts="by",
    fields=(
        FormField("by", "Alike in", "columns", wide=True, placeholder="all columns"),
        FormField("stays", "Which stays", "text", options=(Option("first", "the first"), Option("last", "the last"))),
    ),
)
