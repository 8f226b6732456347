"""A computed column."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.expression.compile import compile_expression
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, NewName, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.steps import Columns, Made, Step


class ComputedColumn(LineModel):
    """A column that is worked out of others by an expression."""

    do: Literal["column"] = "column"
    name: NewName
    expression: str = Field(min_length=1, max_length=20_000, description="an SQL expression as SQLite reads it")
    unit: str = Field(default="", max_length=100)

    def words(self) -> list[Word]:
        """delay_h is "delay" / 60."""
        return [Chip(self.name, "name"), " is ", Chip(" ".join(self.expression.split()), "expression")]

    def plan(self, shape: Shape) -> Step:
        """One column."""
        shape.check_new(self.name)
        return Columns([made_of(self.name, self.expression, shape, self.unit)])


def made_of(name: str, expression: str, shape: Shape, unit: str = "") -> Made:
    """A column that an expression makes.

    Raises:
        ExpressionError: with the place of the mistake.
    """
    made = compile_expression(expression, shape)
    return Made(name, made.sql, "yes/no" if made.logic else None, unit, made.numbers, made.divides, made.chooses)


LINE = LineKind(
    key="column",
    model=ComputedColumn,
    label="a computed column",
    hint="Work out a value from the other cells of a row.",
    finds=("calculate", "formula", "compute", "difference", "hours", "case when", "if", "expression", "sql"),
    heading="Compute with this…",
    starts="expression",
    fields=(
        FormField("name", "Name", "text", required=True, placeholder="delay_hours"),
        FormField("expression", "Expression", "expression", required=True, wide=True),
        FormField("unit", "Unit", "text", placeholder="none"),
    ),
)
