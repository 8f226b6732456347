"""A label by thresholds, or by a list of values."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.conditions import TestName, orders_numbers, test_sql, test_words
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, NewName, Value, Word, maybe, said
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step


class Case(Part):
    """A label, and what a value must be to get it."""

    test: TestName = "above"
    value: Value = None
    values: list[Value] = Field(default=[], max_length=1000)
    label: str = Field(max_length=1000)


class Label(LineModel):
    """A label for each row by a column's value: the first that fits. A blank value has none."""

    do: Literal["label"] = "label"
    name: NewName
    column: ColumnName
    cases: list[Case] = Field(min_length=1, max_length=200)
    otherwise: str | None = Field(
        default=None, max_length=1000, description="the label of all others; blank when absent"
    )

    def words(self) -> list[Word]:
        """late is “late” when delay is above 10, otherwise “on time”."""
        out: list[Word] = [Chip(self.name, "name"), " is "]
        for at, case in enumerate(self.cases[:3]):
            tested = test_words(case.test, case.value, case.values)
            out += [", " if at else "", Chip(said(case.label), "cases"), " when "]
            out += [Chip(self.column, "column"), " ", Chip(tested, "cases")] if not at else [Chip(tested, "cases")]
        if len(self.cases) > 3:
            out += [" and ", Chip(f"{len(self.cases) - 3} more", "cases")]
        return [
            *out,
            *maybe(self.otherwise is not None, ", otherwise ", Chip(said(self.otherwise), "otherwise")),
        ]

    def plan(self, shape: Shape) -> Step:
        """One column."""
        shape.check_new(self.name)
        column = shape.column(self.column)
        cell = Col(column.name)
        guards = any(orders_numbers(column, case.test, case.value) for case in self.cases) and column.texts
        blank: list[str | Sql] = []
        if not any(case.test in ("blank", "filled") for case in self.cases):
            blank.append(sql("WHEN ", cell, " IS NULL OR ", cell, " = '' THEN NULL "))
        if guards:
            blank.append(sql("WHEN typeof(", cell, ") = 'text' THEN NULL "))
        whens = [
            sql("WHEN ", test_sql(column, case.test, case.value, case.values), f" THEN {literal(case.label)} ")
            for case in self.cases
        ]
        made = sql("CASE ", *blank, *whens, f"ELSE {literal(self.otherwise)} END")
        numbers = frozenset({column.name}) if guards else frozenset()
        return Columns([Made(self.name, made, "text", numbers=numbers, chooses=True)], tally=self.name)


LINE = LineKind(
    key="label",
    model=Label,
    label="a label by thresholds or values",
    hint="Name rows by a value: above 10 is “late”.",
    finds=("late", "threshold", "category", "class", "flag", "bucket", "if", "when", "status", "name codes"),
    heading="Label by threshold…",
    starts="column",
    fields=(
        FormField("column", "By column", "column", required=True),
        FormField("name", "Name of the label", "text", required=True, placeholder="late"),
        FormField("cases", "Labels", "cases", required=True, wide=True),
        FormField("otherwise", "Otherwise", "text", placeholder="blank"),
    ),
)
