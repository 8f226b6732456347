"""Columns become rows."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, NewName, Word, chips
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.steps import Fold as FoldStep
from tin_bucket.core.work_out.steps import Step


class Fold(LineModel):
    """Columns become rows, each with the name of its column and the value."""

    do: Literal["fold"] = "fold"
    columns: list[ColumnName] = Field(min_length=1, max_length=2_000)
    name: NewName = "name"
    value: NewName = "value"
    blanks: bool = Field(default=False, description="whether a blank value makes a row")

    @model_validator(mode="after")
    def _names_differ(self) -> Fold:
        if self.name == self.value:
            raise ValueError("the columns of names and of values have different names")
        return self

    def words(self) -> list[Word]:
        """make rows of jan, feb and mar: month and passengers."""
        return ["make rows of ", *chips(list(self.columns), "columns"), ": ", Chip(self.name, "name"), " and ",
                Chip(self.value, "value")]  # fmt: skip

    def plan(self, shape: Shape) -> Step:
        """Rows of columns. Columns that have gone are left out, as they come and go from date to date."""
        there = [name for name in dict.fromkeys(self.columns) if any(one.name == name for one in shape.columns)]
        if not there:
            shape.column(self.columns[0])
        rest = Shape([one for one in shape.columns if one.name not in there])
        rest.check_new(self.name)
        rest.check_new(self.value)
        return FoldStep(there, self.name, self.value, self.blanks)


LINE = LineKind(
    key="fold",
    model=Fold,
    label="columns into name and value",
    hint="A row for each of some columns.",
    finds=("unpivot", "melt", "long", "columns to rows", "normalize", "stack"),
    heading="Make rows of columns…",
    starts="columns",
    fields=(
        FormField("columns", "Columns", "columns", required=True, wide=True),
        FormField("name", "Names go into", "text", required=True),
        FormField("value", "Values go into", "text", required=True),
        FormField("blanks", "Rows for blanks too", "yes"),
    ),
)
