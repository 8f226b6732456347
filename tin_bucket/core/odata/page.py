"""The rows that an OData request wants, in their order: one step of a table, so one statement."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.work_out.expression.compile import compile_expression
from tin_bucket.core.work_out.line import LineModel, Word
from tin_bucket.core.work_out.lines.order import By
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, sql
from tin_bucket.core.work_out.steps import Rows, Step


class PageRows(LineModel):
    """Rows for which an expression holds, in an order in which nothing stands before everything."""

    do: Literal["odata page"] = "odata page"
    expression: str = ""
    by: list[By] = []

    def words(self) -> list[Word]:
        """It is no line of a brief."""
        return []

    def plan(self, shape: Shape) -> Step:
        """The rows, in their order."""
        order = [_term(shape.column(one.column).name, one.down) for one in self.by]
        if not self.expression:
            return Rows(order=order)
        made = compile_expression(self.expression, shape)
        return Rows(where=made.sql, order=order, numbers=made.numbers)


def _term(name: str, down: bool) -> Sql:
    # Nothing is the least (Protocol 4.01, §11.2.6.2).
    return sql(Col(name), " DESC NULLS LAST" if down else " NULLS FIRST")
