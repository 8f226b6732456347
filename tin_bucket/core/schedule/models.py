"""When a query is refreshed: models as parts of the brief."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.base import Part, known_zone
from tin_bucket.core.formats.durations import parse_duration

Missed = Annotated[
    Literal["catch up", "skip"],
    Field(description="what becomes of a refresh that was due while the program was off: once, later, or not at all"),
]
TimeOfDay = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$", description="hours and minutes")]
Weekdays = Annotated[
    list[Annotated[int, Field(ge=1, le=7)]], Field(min_length=1, description="ISO 8601 weekdays, 1 is Monday")
]


_NAMES = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class Hours(Part):
    """The hours of some weekdays."""

    start: TimeOfDay = "08:00"
    end: TimeOfDay = "18:00"
    days: Weekdays = [1, 2, 3, 4, 5]
    zone: str = Field(default="UTC", description="name of an IANA time zone")

    _zone = field_validator("zone")(known_zone)

    @model_validator(mode="after")
    def _in_order(self) -> Hours:
        if self.end < self.start:
            raise ValueError("the hours end before they begin; leave them out for refreshes through the night")
        return self


class EverySchedule(Part):
    """A refresh each time an interval has gone by; within some hours, from their beginning on."""

    kind: Literal["every"] = "every"
    every: str = Field(description="ISO 8601 duration of at least a minute")
    between: Hours | None = None
    missed: Missed = "catch up"

    @field_validator("every")
    @classmethod
    def _long_enough(cls, value: str) -> str:
        span = parse_duration(value)
        if span.months or span.days * 86_400 + span.seconds < 60:
            raise ValueError("an interval is at least a minute long, in days, hours and minutes")
        return value

    @model_validator(mode="after")
    def _fits_a_day(self) -> EverySchedule:
        if self.between is not None and parse_duration(self.every).days:
            raise ValueError("within hours of a day, an interval is shorter than a day")
        return self

    def words(self) -> str:
        """every PT1H, 08:00 to 18:00"""
        span = parse_duration(self.every)
        minutes = span.days * 1_440 + int(span.seconds) // 60
        often = (
            f"every {minutes} minutes"
            if minutes % 60
            else f"every {minutes // 60} hours".replace("every 1 hours", "each hour")
        )
        return f"{often}, {self.between.start} to {self.between.end}" if self.between is not None else often


class DailySchedule(Part):
    """A refresh at one time of day or several, on chosen weekdays."""

    kind: Literal["at"] = "at"
    at: TimeOfDay
    also: list[TimeOfDay] = Field(default=[], max_length=95, description="further times of those days")
    days: Weekdays = [1, 2, 3, 4, 5, 6, 7]
    zone: str = Field(default="UTC", description="name of an IANA time zone")
    missed: Missed = "catch up"

    _zone = field_validator("zone")(known_zone)

    def words(self) -> str:
        """each weekday at 07:30, 13:00"""
        days = sorted(set(self.days))
        which = {tuple(range(1, 8)): "every day", (1, 2, 3, 4, 5): "each weekday"}.get(tuple(days))
        which = which or ", ".join(_NAMES[day - 1] for day in days)
        return f"{which} at {', '.join(sorted({self.at, *self.also}))}"


class MonthlySchedule(Part):
    """A refresh once a month. A month without such a day has none."""

    kind: Literal["monthly"] = "monthly"
    at: TimeOfDay
    on: Annotated[int, Field(ge=1, le=31)] | Literal["last", "first working", "last working"] = Field(
        default=1, description="the day of the month; working days are Monday to Friday"
    )
    zone: str = Field(default="UTC", description="name of an IANA time zone")
    missed: Missed = "catch up"

    _zone = field_validator("zone")(known_zone)

    def words(self) -> str:
        """monthly on the last working day at 07:30"""
        day = f"day {self.on}" if isinstance(self.on, int) else f"the {self.on} day"
        return f"monthly on {day} at {self.at}"


Schedule = Annotated[EverySchedule | DailySchedule | MonthlySchedule, Field(discriminator="kind")]
AnySchedule = EverySchedule | DailySchedule | MonthlySchedule
