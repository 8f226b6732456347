"""Values become columns."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.figures import FigureModel, check_titles
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word, chips
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql
from tin_bucket.core.work_out.steps import Figure, Groups, Made, Step

MOST_COLUMNS = 500


class Spread(LineModel):
    """The values of one column become columns, with a figure of another one in them: a row for each group."""

    do: Literal["spread"] = "spread"
    names: ColumnName = Field(description="the column whose values name the new columns")
    figure: FigureModel = FigureModel(of="first")
    by: list[str] = Field(default=[], max_length=50, description="what makes a row")

    def words(self) -> list[Word]:
        """make columns of month, with sum of passengers, a row for each route."""
        by = [", a row for each ", *chips(self.by, "by")] if self.by else [", one row"]
        return ["make columns of ", Chip(self.names, "names"), " with ", Chip(self.figure.words(), "figure"), *by]

    def plan(self, shape: Shape) -> Step:
        """Groups, with a figure for each value."""
        column = shape.column(self.names)
        values = shape.values(column.name)
        if len(values) > MOST_COLUMNS:
            raise fail(
                "too-many-columns",
                f"{column.name[:100]} has {len(values):,} different values; at most {MOST_COLUMNS} become columns.",
                where="columns of values",
                do="Choose a column with fewer values, or keep fewer rows first.",
            )
        by = []
        for name in self.by:
            one = shape.column(name)
            by.append(Made(one.name, sql(Col(one.name)), one.kind, one.unit))
        figures = [self._figure(value, shape, [group.sql for group in by]) for value in _in_order(values)]
        if not figures:
            raise fail(
                "no-values",
                f"{column.name[:100]} has no values, so there is nothing to make columns of.",
                where="columns of values",
                do="Choose another column.",
            )
        check_titles([one.name for one in by] + [one.name for one in figures])
        return Groups(by, figures)

    def _figure(self, value: Any, shape: Shape, groups: list[Sql]) -> Figure:
        """The figure over the rows that have a value: its column holds nothing in the others."""
        title = "blank" if value is None or value == "" else _name(value)
        column = self.figure.column
        if self.figure.of in ("share", "share of rows", "joined"):
            raise fail(
                "figure-unfit",
                "This figure cannot stand in columns of values.",
                where="figure",
                do="Choose a sum, a count or the first.",
            )
        own = sql(Col(self.names), f" IS {literal(value)}")
        if self.figure.of == "rows":
            return Figure(title, sql("sum(", own, ")"), kind="whole number")
        figure = self.figure.model_copy(update={"name": title}).made(shape, [*groups, own])
        only = _Only(column, own)
        inner = tuple((name, sql("CASE WHEN ", own, " THEN ", one, " END")) for name, one in figure.inner)
        made = figure.sql if figure.inner else only(figure.sql)
        return Figure(title, made, inner=inner[:1], kind=figure.kind, unit=figure.unit, numbers=figure.numbers)


class _Only:
    """The column of a figure, in the rows with one value alone."""

    def __init__(self, column: str, own: Sql) -> None:
        self._column, self._own = column, own

    def __call__(self, piece: Sql) -> Sql:
        parts: list[str | Col | Sql] = []
        for part in piece.parts:
            meant = isinstance(part, Col) and part.name == self._column
            parts.append(sql("CASE WHEN ", self._own, " THEN ", part, " END") if meant else part)
        return sql(*parts)


def _name(value: Any) -> str:
    return value if isinstance(value, str) else ("yes" if value else "no") if isinstance(value, bool) else str(value)


def _in_order(values: list[Any]) -> list[Any]:
    """Numbers, then texts, then nothing."""
    return sorted(values, key=lambda value: (value is None, isinstance(value, str), value if value is not None else 0))


LINE = LineKind(
    key="spread",
    model=Spread,
    label="values into columns",
    hint="A column for each month, port or class.",
    finds=("pivot", "crosstab", "wide", "columns from values", "matrix", "per month side by side", "transpose"),
    heading="Make columns of the values…",
    starts="names",
    fields=(
        FormField("names", "Columns for the values of", "column", required=True),
        FormField("by", "A row for each", "columns", wide=True),
        FormField("figure", "In the cells", "figures", required=True, wide=True),
    ),
)
