"""Rows that stay."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.conditions import Condition
from tin_bucket.core.work_out.expression.compile import compile_expression
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import joined, sql
from tin_bucket.core.work_out.steps import Rows, Step


class KeepRows(LineModel):
    """The rows for which conditions hold."""

    do: Literal["keep"] = "keep"
    where: list[Condition] = Field(default=[], max_length=100)
    any: bool = Field(default=False, description="whether one condition is enough")
    expression: str = Field(default="", max_length=20_000, description="an SQL expression, in the place of conditions")

    @model_validator(mode="after")
    def _says_which(self) -> KeepRows:
        if not self.where and not self.expression:
            raise ValueError("say which rows are kept")
        return self

    def words(self) -> list[Word]:
        """keep rows where status is not cancelled."""
        if self.expression:
            return ["keep rows where ", Chip(" ".join(self.expression.split()), "expression")]
        out: list[Word] = ["keep rows where "]
        for at, one in enumerate(self.where):
            out += [(" or " if self.any else " and ") if at else "", Chip(f"{one.column} {one.words()}", "where")]
        return out

    def plan(self, shape: Shape) -> Step:
        """The rows that stay, in their order."""
        if self.expression:
            made = compile_expression(self.expression, shape)
            return Rows(where=made.sql, numbers=made.numbers)
        tests = [sql("(", one.sql(shape), ")") for one in self.where]
        return Rows(where=joined(" OR " if self.any else " AND ", tests))


LINE = LineKind(
    key="keep",
    model=KeepRows,
    label="rows where something holds",
    hint="The others go; they are counted and can be looked at.",
    finds=("filter", "where", "only", "drop", "remove rows", "exclude", "without", "keep"),
    heading="Keep rows where…",
    starts="where",
    fields=(
        FormField("where", "Keep rows where", "conditions", wide=True),
        FormField("any", "When several are given", "yes", options=(
            Option("", "all must hold"), Option("yes", "one is enough"))),
        FormField("expression", "Or an expression", "expression", wide=True),
    ),
)  # fmt: skip
