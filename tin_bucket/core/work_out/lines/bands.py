"""Classes of numbers, between bounds."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.expression.compile import number_of
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, NewName, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step


class Bands(LineModel):
    """The class that a number lies in. A class holds its lower bound; the last one of equal classes also its upper."""

    do: Literal["bands"] = "bands"
    name: NewName
    column: ColumnName
    by: Literal["bounds", "equal"] = "bounds"
    bounds: list[float] = Field(default=[], max_length=200, description="where classes meet, in ascending order")
    classes: int = Field(default=5, ge=2, le=100, description="how many of equal width, from the lowest to the highest")

    @model_validator(mode="after")
    def _bounds_rise(self) -> Bands:
        if self.by == "bounds" and not self.bounds:
            raise ValueError("say where the classes meet, such as 10, 20, 50")
        if any(low >= high for low, high in pairwise(self.bounds)):
            raise ValueError("the bounds of classes rise, such as 10, 20, 50")
        return self

    def words(self) -> list[Word]:
        """band is the class of delay, bounds at 0, 10 and 30."""
        how = f"{self.classes} equal ones" if self.by == "equal" else "bounds at " + ", ".join(map(_said, self.bounds))
        field = "classes" if self.by == "equal" else "bounds"
        return [Chip(self.name, "name"), " is the class of ", Chip(self.column, "column"), ", ", Chip(how, field)]

    def plan(self, shape: Shape) -> Step:
        """One column."""
        shape.check_new(self.name)
        column = shape.column(self.column)
        bounds = self.bounds if self.by == "bounds" else self._equal(shape)
        cell = number_of(column.name) if column.texts else sql(Col(column.name))
        closed = self.by == "equal"
        if closed:
            inner = bounds[1:-1]
            names = [f"{_said(low)} to {_said(high)}" for low, high in pairwise(bounds)]
        else:
            inner = bounds
            names = [f"below {_said(bounds[0])}"]
            names += [f"{_said(low)} to {_said(high)}" for low, high in pairwise(bounds)]
            names.append(f"{_said(bounds[-1])} and above")
        # Names that are numbered sort as the classes do.
        width = len(str(len(names)))
        labels = [f"{at:0{width}d}: {name}" for at, name in enumerate(names, 1)]
        whens = [
            sql("WHEN ", cell, f" < {bound!r} THEN {literal(label)} ")
            for bound, label in zip(inner, labels, strict=False)
        ]
        made = sql("CASE WHEN ", cell, " IS NULL THEN NULL ", *whens, f"ELSE {literal(labels[-1])} END")
        numbers = frozenset({column.name}) if column.texts else frozenset()
        return Columns([Made(self.name, made, "text", numbers=numbers, chooses=True)], along=closed, tally=self.name)

    def _equal(self, shape: Shape) -> list[float]:
        """The bounds of classes of equal width, from the lowest number to the highest."""
        numbers = [float(one) for one in shape.values(self.column) if type(one) in (int, float)]
        if not numbers or min(numbers) == max(numbers):
            raise fail(
                "no-numbers",
                f"{self.column[:100]} has no two different numbers.",
                where="classes",
                do="Give bounds, or choose another column.",
            )
        low, high = min(numbers), max(numbers)
        step = (high - low) / self.classes
        return [low, *(float(f"{low + step * at:.12g}") for at in range(1, self.classes)), high]


def _said(bound: float) -> str:
    return f"{bound:.12g}"


LINE = LineKind(
    key="bands",
    model=Bands,
    label="classes of numbers",
    hint="0 to 10, 10 to 20, … for counting.",
    finds=("class", "bins", "histogram", "ranges", "brackets", "intervals", "distribution"),
    heading="Classes of numbers…",
    of="numbers",
    starts="column",
    fields=(
        FormField("column", "Numbers of", "column", required=True),
        FormField("name", "Name", "text", required=True, placeholder="band"),
        FormField("by", "Classes", "text", options=(
            Option("bounds", "with given bounds"), Option("equal", "of equal width"))),
        FormField("bounds", "Bounds", "numbers", placeholder="10, 20, 50",
            with_field="by", with_values=("bounds",)),
        FormField("classes", "How many", "number", least=2, with_field="by", with_values=("equal",)),
    ),
)  # fmt: skip
