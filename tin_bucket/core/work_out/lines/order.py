"""The order of rows."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word
from tin_bucket.core.work_out.shape import ColumnShape, Shape
from tin_bucket.core.work_out.sql import Col, Sql, sql
from tin_bucket.core.work_out.steps import Rows, Step


class By(Part):
    """A column to order by."""

    column: ColumnName
    down: bool = Field(default=False, description="the highest first; blanks stand at the end in any case")


class Order(LineModel):
    """Rows in an order; those that are alike keep the order they have."""

    do: Literal["order"] = "order"
    by: list[By] = Field(min_length=1, max_length=20)

    def words(self) -> list[Word]:
        """order by departs, highest first."""
        return ["order by ", *order_words(self.by, "by")]

    def plan(self, shape: Shape) -> Step:
        """The rows in another order."""
        return Rows(order=order_sql(self.by, shape))


def order_words(by: list[By], field: str) -> list[Word]:
    """What rows are ordered by, in words."""
    out: list[Word] = []
    for at, one in enumerate(by):
        out += [", " if at else "", Chip(f"{one.column}, highest first" if one.down else one.column, field)]
    return out


def order_sql(by: list[By], shape: Shape) -> list[Sql]:
    """The terms of ORDER BY."""
    return [_term(shape.column(one.column), one.down) for one in by]


def _term(column: ColumnShape, down: bool) -> Sql:
    # Texts are ordered as people look them up: A beside a.
    case = " COLLATE NOCASE" if column.texts and not column.numeric and not column.temporal else ""
    return sql(Col(column.name), f"{case}{' DESC' if down else ''} NULLS LAST")


LINE = LineKind(
    key="order",
    model=Order,
    label="rows in an order",
    hint="By one column or several.",
    finds=("sort", "order by", "highest first", "lowest", "newest", "alphabetical"),
    heading="Order by this",
    starts="by",
    fields=(FormField("by", "Order by", "order", required=True, wide=True),),
)
