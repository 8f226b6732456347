"""Figures along the rows, in an order, within groups."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.expression.compile import number_of
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, NewName, Word, chips, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import ROW, Col, Sql, joined, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

from .order import By, order_sql, order_words

WHAT: tuple[Option, ...] = (
    Option("difference", "difference to the row before", "the difference to the row before of"),
    Option("percent", "percent to the row before", "the change in % to the row before of"),
    Option("running", "running total", "the running total of"),
    Option("rank", "rank, the highest is 1", "the rank of"),
    Option("share", "share in %", "the share in % of"),
    Option("mean", "moving mean", "the moving mean of"),
    Option("before", "value of the row before", "the value before of"),
)
_PHRASES = {one.value: one.phrase for one in WHAT}


class Along(LineModel):
    """A figure of each row that depends on the rows before it, in an order, within groups."""

    do: Literal["along"] = "along"
    name: NewName
    what: Literal["difference", "percent", "running", "rank", "share", "mean", "before"] = "difference"
    column: ColumnName
    each: list[str] = Field(default=[], max_length=20, description="within equal values of these columns")
    by: list[By] = Field(default=[], max_length=20, description="the order; the one they have when there is none")
    rows: int = Field(default=7, ge=2, le=100_000, description="how many rows a moving mean is of")

    def words(self) -> list[Word]:
        """change is the difference to the row before of price, by day, within route."""
        out: list[Word] = [
            Chip(self.name, "name"),
            " is ",
            Chip(_PHRASES[self.what], "what"),
            " ",
            Chip(self.column, "column"),
        ]
        out += [" over ", Chip(f"{self.rows} rows", "rows")] if self.what == "mean" else []
        out += (
            [" in the order of ", *order_words(self.by, "by")] if self.by and self.what not in ("rank", "share") else []
        )
        return [*out, *maybe(self.each, " within ", *chips(self.each, "each"))]

    def plan(self, shape: Shape) -> Step:
        """One column; the rows keep their order."""
        shape.check_new(self.name)
        column = shape.column(self.column)
        cell = sql(Col(column.name)) if self.what == "before" or not column.texts else number_of(column.name)
        made, kind, unit = self._made(cell, shape, column.kind, column.unit)
        numbers = frozenset({column.name}) if column.texts and self.what != "before" else frozenset()
        return Columns([Made(self.name, made, kind, unit, numbers=numbers, chooses=True)], along=True)

    def _made(self, cell: Sql, shape: Shape, kind: str, unit: str) -> tuple[Sql, str | None, str]:
        groups = [sql(Col(shape.column(name).name)) for name in self.each]
        partition = sql("PARTITION BY ", joined(", ", groups), " ") if groups else sql()
        order = sql("ORDER BY ", joined(", ", [*order_sql(self.by, shape), sql(Col(ROW))]))
        window = sql("OVER (", partition, order, ")")
        before = sql("lag(", cell, ") ", window)
        if self.what == "difference":
            return sql(cell, " - ", before), None, unit
        if self.what == "percent":
            return sql("round(100.0 * (", cell, " - ", before, ") / abs(nullif(", before, ", 0)), 6)"), "decimal", "%"
        if self.what == "running":
            return sql("sum(", cell, ") OVER (", partition, order, " ROWS UNBOUNDED PRECEDING)"), None, unit
        if self.what == "rank":
            rank = sql("rank() OVER (", partition, "ORDER BY ", cell, " DESC NULLS LAST)")
            return sql("CASE WHEN ", cell, " IS NOT NULL THEN ", rank, " END"), "whole number", ""
        if self.what == "share":
            whole = sql("sum(", cell, ") OVER (", sql("PARTITION BY ", joined(", ", groups)) if groups else sql(), ")")
            return sql("round(100.0 * ", cell, " / ", whole, ", 6)"), "decimal", "%"
        if self.what == "mean":
            frame = f" ROWS BETWEEN {self.rows - 1} PRECEDING AND CURRENT ROW"
            return sql("avg(", cell, ") OVER (", partition, order, f"{frame})"), "decimal", unit
        return before, kind, unit


LINE = LineKind(
    key="along",
    model=Along,
    label="a figure along the rows",
    hint="Difference to the row before, running total, rank, share, moving mean.",
    finds=("difference", "percent change", "change", "running total", "cumulative", "rank", "moving average", "share",
           "percent", "previous", "row before", "growth", "trend"),
    heading="Along the rows…",
    of="numbers",
    starts="column",
    fields=(
        FormField("what", "What", "text", options=WHAT),
        FormField("column", "Of", "column", required=True),
        FormField("name", "Name", "text", required=True, placeholder="change"),
        FormField("each", "Within", "columns", wide=True, placeholder="all rows"),
        FormField("by", "In the order of", "order", wide=True, with_field="what",
            with_values=("difference", "percent", "running", "mean", "before")),
        FormField("rows", "Rows of a moving mean", "number", least=2, with_field="what", with_values=("mean",)),
    ),
)  # fmt: skip
