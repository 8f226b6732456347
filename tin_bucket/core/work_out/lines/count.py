"""Counting and summing by groups."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.figures import FigureModel, check_titles
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, sql
from tin_bucket.core.work_out.steps import Groups, Made, Step

from .period import PeriodName, period_of


class GroupBy(Part):
    """A column whose equal values make a group, or a period of its dates."""

    column: ColumnName
    period: PeriodName | None = None

    @property
    def title(self) -> str:
        """The name of its column."""
        return f"{self.period} of {self.column}" if self.period else self.column

    def made(self, shape: Shape) -> Made:
        """The group's column as SQL."""
        column = shape.column(self.column)
        if self.period:
            return period_of(self.title, column.name, self.period)
        return Made(self.title, sql(Col(column.name)), column.kind, column.unit)


class Count(LineModel):
    """A row for each group of rows, with figures of it."""

    do: Literal["count"] = "count"
    by: list[GroupBy] = Field(default=[], max_length=20, description="one row for all when empty")
    figures: list[FigureModel] = Field(default=[FigureModel()], min_length=1, max_length=100)
    totals: bool = Field(default=False, description="whether a row of all follows")

    @field_validator("by", mode="before")
    @classmethod
    def _names_are_columns(cls, value: object) -> object:
        if not isinstance(value, list):
            return value
        return [{"column": one} if isinstance(one, str) else one for one in value]

    def words(self) -> list[Word]:
        """count and sum by route and month of departs: rows, mean price."""
        out: list[Word] = ["count and sum"]
        for at, one in enumerate(self.by):
            out += [" by " if not at else " and " if at == len(self.by) - 1 else ", ", Chip(one.title, "by")]
        out.append(": ")
        for at, figure in enumerate(self.figures):
            named = f"{figure.words()} as {figure.name}" if figure.name else figure.words()
            out += [", " if at else "", Chip(named, "figures")]
        return [*out, *maybe(self.totals, ", with a row of ", Chip("totals", "totals"))]

    def plan(self, shape: Shape) -> Step:
        """Groups, ordered by what makes them."""
        by = [one.made(shape) for one in self.by]
        figures = [one.made(shape, [group.sql for group in by]) for one in self.figures]
        check_titles([one.name for one in by] + [one.name for one in figures])
        return Groups(by, figures, self.totals and bool(by))


LINE = LineKind(
    key="count",
    model=Count,
    label="count and sum by groups",
    hint="Rows, sums, means and shares by any columns and periods.",
    finds=("group by", "sum", "total", "average", "mean", "median", "percent", "share", "per month", "per route",
           "how many", "aggregate", "count", "statistics", "highest", "lowest", "max", "min"),
    heading="Count by this",
    starts="by",
    fields=(
        FormField("by", "By", "groups", wide=True),
        FormField("figures", "Figures", "figures", required=True, wide=True),
        FormField("totals", "A row of totals", "yes"),
    ),
)  # fmt: skip
