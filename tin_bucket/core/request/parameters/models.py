"""The parameters of a query: their kinds, defaults, relative dates, and how their values are written when sent."""

from __future__ import annotations

import re
from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field, StrictBool, StrictFloat, StrictInt, field_validator, model_validator

from tin_bucket.core.base import Name, Part, known_zone
from tin_bucket.core.formats.durations import parse_duration

Send = Literal["joined", "repeated", "json"]
DAY_ANCHORS = ("today", "start of week", "start of month", "start of quarter", "start of year", "last refresh")
Zone = Annotated[str, Field(description="name of an IANA time zone; this machine's when empty")]
MonthText = Annotated[str, Field(pattern=r"^\d{4}-(0[1-9]|1[0-2])$")]

# The conversions of strftime (POSIX.1-2017) that mean the same everywhere.
_PATTERN = re.compile(r"(?:[^%]|%[aAbBdHIjmMpSuUVwWyYzG%])*\Z")


class RelativeDate(Part):
    """A date that moves with the calendar, such as seven days before today."""

    anchor: Literal["today", "start of week", "start of month", "start of quarter", "start of year", "last refresh"] = (
        "today"
    )
    offset: str = Field(default="P0D", description="ISO 8601 duration; a leading minus goes into the past")
    first: date | None = Field(default=None, description="what “last refresh” is while there has been none")

    @field_validator("offset")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        if parse_duration(value).seconds:
            raise ValueError("a date moves by days, weeks, months or years, not by hours")
        return value


class RelativeMoment(Part):
    """A date and time that moves with the clock, such as six hours ago."""

    anchor: Literal[
        "now", "today", "start of week", "start of month", "start of quarter", "start of year", "last refresh"
    ] = "now"
    offset: str = Field(default="P0D", description="ISO 8601 duration; a leading minus goes into the past")
    first: datetime | None = Field(default=None, description="what “last refresh” is while there has been none")

    @field_validator("offset")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        parse_duration(value)
        return value


class Choice(Part):
    """One value that a choice parameter offers."""

    code: str = Field(description="what is sent")
    label: str = Field(default="", description="what a person reads")


class ChoicesFrom(Part):
    """Choices that are read from two columns of another query's newest table."""

    query: str = Field(min_length=1, description="the name of the query")
    code: str = Field(min_length=1, description="the column whose values are sent")
    label: str = Field(default="", description="the column that a person reads")


class _Parameter(Part):
    name: Name
    label: str = ""
    hint: str = ""
    required: bool = True
    ask: bool = Field(default=False, description="asked for at each refresh by hand")
    many: bool = Field(default=False, description="a list of values")
    send: Send = Field(default="joined", description="how a list is sent: joined by the separator, repeated, as JSON")
    separator: str = Field(default=",", max_length=20)

    @model_validator(mode="after")
    def _list_or_one(self) -> _Parameter:
        default = getattr(self, "default", None)
        if default is not None and isinstance(default, list) != self.many:
            raise ValueError(
                f"“{self.name}” takes a list, so its default is one"
                if self.many
                else f"“{self.name}” takes one value, and its default is a list"
            )
        return self


class TextParameter(_Parameter):
    """A parameter that takes any text."""

    kind: Literal["text"] = "text"
    default: str | list[str] | None = None


class WholeParameter(_Parameter):
    """A parameter that takes a whole number."""

    kind: Literal["whole number"] = "whole number"
    default: StrictInt | list[StrictInt] | None = None


class DecimalParameter(_Parameter):
    """A parameter that takes a number."""

    kind: Literal["decimal"] = "decimal"
    default: StrictInt | StrictFloat | list[StrictInt | StrictFloat] | None = None


class YesNoParameter(_Parameter):
    """A parameter that is yes or no, with the words that are sent for each."""

    kind: Literal["yes/no"] = "yes/no"
    default: StrictBool | list[StrictBool] | None = None
    yes: str = "true"
    no: str = "false"


class ChoiceParameter(_Parameter):
    """A parameter that takes one of a list of codes."""

    kind: Literal["choice"] = "choice"
    choices: list[Choice] = []
    choices_from: ChoicesFrom | None = None
    default: str | list[str] | None = None

    @model_validator(mode="after")
    def _default_is_offered(self) -> ChoiceParameter:
        if self.choices_from is not None:
            return self
        if not self.choices:
            raise ValueError("a choice needs at least one code, or a query to read the codes from")
        given = self.default if isinstance(self.default, list) else [self.default]
        for value in given:
            if value is not None and value not in {choice.code for choice in self.choices}:
                raise ValueError(f"the default “{value}” is not one of the choices")
        return self


class _Dated(_Parameter):
    format: str = Field(
        default="iso",
        max_length=80,
        description="iso, epoch seconds, epoch milliseconds, or a pattern such as %d.%m.%Y (strftime of POSIX.1)",
    )
    zone: Zone = ""

    _zone = field_validator("zone")(known_zone)

    @field_validator("format")
    @classmethod
    def _known_format(cls, value: str) -> str:
        if value in ("iso", "epoch seconds", "epoch milliseconds"):
            return value
        if "%" not in value or not _PATTERN.match(value):
            raise ValueError(
                f"“{value}” is not a way to write a date: use iso, epoch seconds, epoch milliseconds,"
                " or a pattern such as %d.%m.%Y"
            )
        return value


class DateParameter(_Dated):
    """A parameter that takes a calendar date."""

    kind: Literal["date"] = "date"
    default: date | RelativeDate | list[date | RelativeDate] | None = None


class MomentParameter(_Dated):
    """A parameter that takes a date and a time of day."""

    kind: Literal["date and time"] = "date and time"
    default: datetime | RelativeMoment | list[datetime | RelativeMoment] | None = None


class MonthParameter(_Dated):
    """A parameter that takes a calendar month, YYYY-MM."""

    kind: Literal["month"] = "month"
    default: MonthText | RelativeDate | list[MonthText | RelativeDate] | None = None


Parameter = Annotated[
    TextParameter
    | WholeParameter
    | DecimalParameter
    | YesNoParameter
    | ChoiceParameter
    | DateParameter
    | MomentParameter
    | MonthParameter,
    Field(discriminator="kind"),
]
