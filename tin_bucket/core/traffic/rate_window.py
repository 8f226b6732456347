"""Rate windows: when the next call may go, and how long a whole run takes.

A window is kept as its strictest reading: a call takes its place from the moment it is sent until the window's length
after its answer, so that the service, which sees it somewhere between, never counts more than is allowed, whether it
counts in sliding windows or in fixed ones.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.base import Part, known_zone
from tin_bucket.core.formats.durations import parse_duration

_MONTH = 31 * 86_400
_CALENDAR = ("P1D", "P1W", "P1M")


class Window(Part):
    """So many calls in a span of time."""

    calls: int = Field(ge=1, le=100_000_000)
    per: str = Field(default="PT1M", description="ISO 8601 duration")
    starts: Literal["any time", "calendar"] = Field(
        default="any time",
        description="calendar: counts from zero each day, week (Monday) or month, at midnight of the zone",
    )
    zone: str = Field(default="UTC", description="name of an IANA time zone")
    of: Literal["service", "key"] = Field(default="service", description="key: a new key starts from zero")

    _zone = field_validator("zone")(known_zone)

    @field_validator("per")
    @classmethod
    def _is_span(cls, value: str) -> str:
        span = parse_duration(value)
        if not 0 < _seconds(value) <= _MONTH or span.months > 1:
            raise ValueError("a window is between a second and a month long")
        return value

    @model_validator(mode="after")
    def _calendar_has_a_start(self) -> Window:
        if self.starts == "calendar" and self.per not in _CALENDAR:
            raise ValueError("a calendar window is a day, a week or a month: P1D, P1W or P1M")
        return self

    @property
    def seconds(self) -> float:
        """Its length; of a month the longest."""
        return _seconds(self.per)

    def words(self) -> str:
        """Such as ``90 calls in 10 seconds``."""
        calls = f"{self.calls:,} call{'' if self.calls == 1 else 's'}"
        return f"{calls} {_span_words(self.per)}" + (
            f" from midnight, {self.zone}" if self.starts == "calendar" else ""
        )

    def bounds(self, now: float) -> tuple[float, float]:
        """Begin and end of a calendar window, as seconds since 1970."""
        here = datetime.fromtimestamp(now, ZoneInfo(self.zone) if self.zone else UTC)
        begin = here.replace(hour=0, minute=0, second=0, microsecond=0)
        if self.per == "P1W":
            begin -= timedelta(days=begin.weekday())
        if self.per == "P1M":
            begin = begin.replace(day=1)
            end = (begin + timedelta(days=32)).replace(day=1)
        else:
            end = begin + timedelta(days=7 if self.per == "P1W" else 1)
        return begin.timestamp(), end.timestamp()


def _seconds(per: str) -> float:
    span = parse_duration(per)
    return span.months * _MONTH + span.days * 86_400.0 + span.seconds


def _span_words(per: str) -> str:
    span = parse_duration(per)
    for amount, unit in ((span.months, "month"), (span.days, "day")):
        if amount:
            return f"a {unit}" if amount == 1 else f"in {amount} {unit}s"
    for size, unit in ((3600, "hour"), (60, "minute"), (1, "second")):
        if span.seconds % size == 0:
            amount = span.seconds // size
            return f"{'an' if unit == 'hour' else 'a'} {unit}" if amount == 1 else f"in {amount} {unit}s"
    return per
