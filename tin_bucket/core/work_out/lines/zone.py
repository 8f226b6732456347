"""A moment in another time zone."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.base import known_zone
from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step


class TimeZone(LineModel):
    """The moments of a column in a time zone. Days without a time of day stay as they are."""

    do: Literal["zone"] = "zone"
    column: ColumnName
    zone: str = Field(min_length=1, max_length=100, description="IANA time zone that the moments are turned into")
    given: str = Field(default="UTC", max_length=100, description="IANA time zone of moments without an offset")

    _zones = field_validator("zone", "given")(known_zone)

    def words(self) -> list[Word]:
        """departs in the time of Europe/Berlin."""
        return [Chip(self.column, "column"), " in the time of ", Chip(self.zone, "zone")]

    def plan(self, shape: Shape) -> Step:
        """The column, with other texts for the same moments."""
        column = shape.column(self.column)
        made = sql("local_time(", Col(column.name), f", {literal(self.zone)}, {literal(self.given)})")
        return Columns([Made(column.name, made, column.kind if column.temporal else None, fails="no date and time")])


LINE = LineKind(
    key="zone",
    model=TimeZone,
    label="times in a time zone",
    hint="The same moments as clocks elsewhere show them.",
    finds=("time zone", "timezone", "utc", "local time", "offset", "daylight"),
    heading="Time zone…",
    of="dates",
    starts="column",
    fields=(
        FormField("column", "Times of", "column", required=True),
        FormField("zone", "In the time of", "zone", required=True, placeholder="Europe/Berlin"),
        FormField("given", "Times without a zone are in", "zone", placeholder="UTC"),
    ),
)
