"""The first rows, of all or of each group."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, Word, chips, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import ROW, Col, joined, sql
from tin_bucket.core.work_out.steps import Rows, Step

from .order import By, order_sql, order_words


class FirstRows(LineModel):
    """The first rows by an order, of all or of each group."""

    do: Literal["first"] = "first"
    rows: int = Field(default=5, ge=1, le=100_000_000)
    by: list[By] = Field(default=[], max_length=20, description="the order; the one they have when there is none")
    each: list[str] = Field(default=[], max_length=20, description="so many of each group with equal values here")

    def words(self) -> list[Word]:
        """keep the first 5 by price, highest first, of each route."""
        out: list[Word] = ["keep the first ", Chip(f"{self.rows:,}", "rows")]
        out += [" by ", *order_words(self.by, "by")] if self.by else [" rows"]
        return [*out, *maybe(self.each, " of each ", *chips(self.each, "each"))]

    def plan(self, shape: Shape) -> Step:
        """The first rows, in that order."""
        groups = [sql(Col(shape.column(name).name)) for name in self.each]
        order = order_sql(self.by, shape)
        partition = sql("PARTITION BY ", joined(", ", groups), " ") if groups else sql()
        terms = joined(", ", [*order, sql(Col(ROW))])
        rank = sql("row_number() OVER (", partition, "ORDER BY ", terms, ")")
        # Of each group, the rows keep their place; of all, they are in the order that was asked for.
        return Rows(rank=rank, most=self.rows, order=[] if groups else order)


LINE = LineKind(
    key="first",
    model=FirstRows,
    label="the first rows",
    hint="The top five, of all or of each group.",
    finds=("top", "top five", "top 10", "first", "limit", "highest", "best", "cheapest", "latest of each", "head"),
    heading="Top five by this…",
    starts="by",
    fields=(
        FormField("rows", "How many", "number", required=True, least=1),
        FormField("by", "In the order of", "order", wide=True),
        FormField("each", "Of each", "columns", wide=True),
    ),
)
