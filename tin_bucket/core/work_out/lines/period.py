"""The period that a date lies in."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, NewName, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

PeriodName = Literal["day", "week", "month", "quarter", "year", "weekday", "hour"]
PERIODS: tuple[Option, ...] = (
    Option("day", "day", "2026-11-18"),
    Option("week", "week (ISO 8601)", "2026-W47"),
    Option("month", "month", "2026-11"),
    Option("quarter", "quarter", "2026-Q4"),
    Option("year", "year", "2026"),
    Option("weekday", "weekday", "3 Wed"),
    Option("hour", "hour", "05"),
)
_WEEKDAYS = ("7 Sun", "1 Mon", "2 Tue", "3 Wed", "4 Thu", "5 Fri", "6 Sat")


class Period(LineModel):
    """The day, week, month, quarter, year, weekday or hour of a date, as it is written there: in its own time zone."""

    do: Literal["period"] = "period"
    name: NewName
    column: ColumnName
    period: PeriodName = "month"

    def words(self) -> list[Word]:
        """month is the month of departs."""
        return [Chip(self.name, "name"), " is the ", Chip(self.period, "period"), " of ", Chip(self.column, "column")]

    def plan(self, shape: Shape) -> Step:
        """One column."""
        shape.check_new(self.name)
        return Columns([period_of(self.name, shape.column(self.column).name, self.period)], after=self.column)


def period_of(name: str, column: str, period: str) -> Made:
    """The column with the period of another one's dates."""
    kind = {"day": "date", "year": "whole number"}.get(period, "text")
    return Made(name, _sql(column, period), kind, fails="no date")


def _sql(column: str, period: str) -> Sql:
    cell = Col(column)
    # What is before the offset: the local day. Of a text that is no date, SQLite makes nothing.
    day = sql("date(substr(", cell, ", 1, 10))")
    if period == "day":
        return day
    if period == "hour":
        return sql("CASE WHEN ", day, " IS NOT NULL THEN strftime('%H', substr(", cell, ", 12, 5)) END")
    if period == "year":
        return sql("CAST(strftime('%Y', ", day, ") AS INTEGER)")
    if period == "month":
        return sql("strftime('%Y-%m', ", day, ")")
    if period == "quarter":
        number = sql("((CAST(strftime('%m', ", day, ") AS INTEGER) + 2) / 3)")
        return sql("strftime('%Y', ", day, ") || '-Q' || ", number)
    if period == "weekday":
        whens = " ".join(f"WHEN '{at}' THEN {literal(name)}" for at, name in enumerate(_WEEKDAYS))
        return sql("CASE strftime('%w', ", day, f") {whens} END")
    # The week of ISO 8601 is that of its Thursday.
    thursday = sql("date(", day, ", '-3 days', 'weekday 4')")
    week = sql("((CAST(strftime('%j', ", thursday, ") AS INTEGER) + 6) / 7)")
    return sql("strftime('%Y', ", thursday, ") || '-W' || printf('%02d', ", week, ")")


LINE = LineKind(
    key="period",
    model=Period,
    label="the period of a date",
    hint="Day, week, month, quarter, year, weekday or hour.",
    finds=("month", "week", "quarter", "year", "weekday", "day", "hour", "per month", "date part"),
    heading="Month, week, weekday of this…",
    of="dates",
    starts="column",
    fields=(
        FormField("column", "Date", "column", required=True),
        FormField("period", "Period", "text", options=PERIODS),
        FormField("name", "Name", "text", required=True, placeholder="month"),
    ),
)
