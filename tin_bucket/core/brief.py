"""The brief: one query as a document that a person can read.

The models here are the query format; their JSON Schema (draft 2020-12) is published in ``docs/``.
"""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from .durations import parse_duration
from .picking import check_path
from .places import parse_place
from .problem import Problem, ProblemError

FORMAT_VERSION = 1
Kind = Literal["text", "whole number", "decimal", "yes/no", "date", "date and time", "json"]
Name = Annotated[str, Field(pattern=r"^[A-Za-z_][A-Za-z0-9_]*$", max_length=80)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class RelativeDate(_Part):
    """A date that moves with the calendar, such as seven days before today."""

    anchor: Literal["today", "start of week", "start of month", "start of year"] = "today"
    offset: str = Field(default="P0D", description="ISO 8601 duration; a leading minus goes into the past")

    @field_validator("offset")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        if parse_duration(value).seconds:
            raise ValueError("a date moves by days, weeks, months or years, not by hours")
        return value


class Choice(_Part):
    """One value that a choice parameter offers."""

    code: str = Field(description="what is sent")
    label: str = Field(default="", description="what a person reads")


class _Parameter(_Part):
    name: Name
    label: str = ""
    hint: str = ""
    required: bool = True


class TextParameter(_Parameter):
    """A parameter that takes any text."""

    kind: Literal["text"] = "text"
    default: str | None = None


class ChoiceParameter(_Parameter):
    """A parameter that takes one of a list of codes."""

    kind: Literal["choice"] = "choice"
    choices: list[Choice] = Field(min_length=1)
    default: str | None = None

    @model_validator(mode="after")
    def _default_is_offered(self) -> ChoiceParameter:
        if self.default is not None and self.default not in {c.code for c in self.choices}:
            raise ValueError(f"the default “{self.default}” is not one of the choices")
        return self


class DateParameter(_Parameter):
    """A parameter that takes a calendar date, sent as YYYY-MM-DD."""

    kind: Literal["date"] = "date"
    default: date | RelativeDate | None = None


Parameter = Annotated[TextParameter | ChoiceParameter | DateParameter, Field(discriminator="kind")]


class Pair(_Part):
    """A name and a value; the value may hold ``{parameter}`` expressions (RFC 6570)."""

    name: str = Field(min_length=1)
    value: str = ""


class Ask(_Part):
    """Which call is made."""

    service: str = Field(min_length=1, description="the id of the service")
    method: Literal["GET"] = "GET"
    path: str = Field(default="/", description="an RFC 6570 template below the service's base address")
    query: list[Pair] = []
    headers: list[Pair] = []


def _known_path(value: str | None) -> str | None:
    if value is not None:
        try:
            check_path(value)
        except ProblemError as error:
            raise ValueError(error.problem.what) from error
    return value


class NoPages(_Part):
    """The answer to one call is all there is."""

    by: Literal["none"] = "none"
    total: str | None = Field(default=None, description="JSONPath to the number of rows that the API states")
    _path = field_validator("total")(_known_path)


class NumberedPages(_Part):
    """Pages are asked for by their number."""

    by: Literal["number"] = "number"
    parameter: str = "page"
    first: int = Field(default=1, ge=0)
    size_parameter: str | None = None
    size: int | None = Field(default=None, ge=1)
    last_page: str | None = Field(default=None, description="JSONPath to the number of the last page")
    total: str | None = Field(default=None, description="JSONPath to the number of rows that the API states")
    most: int = Field(default=1000, ge=1, le=100_000, description="safety limit on the number of pages")
    _paths = field_validator("last_page", "total")(_known_path)


Pages = Annotated[NoPages | NumberedPages, Field(discriminator="by")]


def _plain_place(value: str) -> str:
    if parse_place(value) is None:
        raise ValueError(f"“{value}” is not a plain place such as $.vessel.name or $.fares[*].amount")
    return value


class TakenColumn(_Part):
    """A column that is taken from the records."""

    place: str = Field(description="plain JSONPath from the record, such as $.vessel.name")
    name: str = Field(min_length=1, max_length=10_000)
    kind: Kind | None = Field(default=None, description="what the values are turned into; as they come when absent")
    unit: str = ""
    _place = field_validator("place")(_plain_place)


class Take(_Part):
    """Where the records are and which of their fields become columns."""

    records: str = Field(default="$", description="JSONPath to the records")
    rows_for: str | None = Field(default=None, description="place of a list in the record; each of its items is a row")
    columns: list[TakenColumn] | None = Field(default=None, description="the columns in order; all when absent")

    _records = field_validator("records")(_known_path)

    @field_validator("rows_for")
    @classmethod
    def _rows_for_is_plain(cls, value: str | None) -> str | None:
        return None if value is None else _plain_place(value)

    @model_validator(mode="after")
    def _names_differ(self) -> Take:
        names = [column.name for column in self.columns or []]
        twice = sorted({name for name in names if names.count(name) > 1})
        if twice:
            raise ValueError(f"two columns are named “{twice[0]}”")
        return self


class LookUp(_Part):
    """For each row, one call with a value of that row in it; chosen fields of the answer become columns."""

    name: Name
    path: str = Field(description="an RFC 6570 template; its names are columns or parameters")
    query: list[Pair] = []
    with_: dict[Name, str] = Field(alias="with", description="name in the template → column of the row", min_length=1)
    take: list[TakenColumn] = Field(min_length=1)
    missing: list[int] = Field(default=[404], description="statuses that mean there is no such thing")

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class EverySchedule(_Part):
    """A refresh each time an interval has gone by."""

    kind: Literal["every"] = "every"
    every: str = Field(description="ISO 8601 duration of at least a minute")

    @field_validator("every")
    @classmethod
    def _long_enough(cls, value: str) -> str:
        span = parse_duration(value)
        if span.months or span.days * 86_400 + span.seconds < 60:
            raise ValueError("an interval is at least a minute long, in days, hours and minutes")
        return value


class DailySchedule(_Part):
    """A refresh at a time of day, on chosen weekdays."""

    kind: Literal["at"] = "at"
    at: str = Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$", description="hours and minutes")
    days: list[Annotated[int, Field(ge=1, le=7)]] = Field(
        default=[1, 2, 3, 4, 5, 6, 7], min_length=1, description="ISO 8601 weekdays, 1 is Monday"
    )
    zone: str = Field(default="UTC", description="name of an IANA time zone")

    @field_validator("zone")
    @classmethod
    def _known_zone(cls, value: str) -> str:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError) as error:
            raise ValueError(f"“{value}” is not a time zone such as UTC or Europe/Berlin") from error
        return value


Schedule = Annotated[EverySchedule | DailySchedule, Field(discriminator="kind")]


class Keep(_Part):
    """What is kept of a refresh, and when it is made."""

    match: list[str] = Field(default=[], description="columns whose values say which row is which")
    schedule: Schedule | None = None
    paused: bool = False


class Brief(_Part):
    """A whole query: ask, turn pages, take, look up, keep."""

    tin_bucket: Literal[1] = Field(default=1, description="version of this format")
    name: str = Field(min_length=1, max_length=200)
    note: str = ""
    parameters: list[Parameter] = []
    ask: Ask
    pages: Pages = NoPages()
    take: Take = Take()
    look_up: list[LookUp] = []
    keep: Keep = Keep()

    @model_validator(mode="after")
    def _parameters_differ(self) -> Brief:
        names = [parameter.name for parameter in self.parameters]
        twice = sorted({name for name in names if names.count(name) > 1})
        if twice:
            raise ValueError(f"two parameters are named “{twice[0]}”")
        return self


def load_brief(document: Any, where: str = "the brief") -> Brief:
    """Check a parsed JSON document and make it a :class:`Brief`.

    Raises:
        ProblemError: with kind ``brief-unreadable`` or ``brief-newer``, naming the first place that is wrong.
    """
    version = document.get("tin_bucket", 1) if isinstance(document, dict) else 1
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT_VERSION:
        raise ProblemError(
            Problem(
                "brief-newer",
                f"This brief is of format {version}; this program reads formats up to {FORMAT_VERSION}.",
                where,
                "Use a newer Tin Bucket, or write the brief in the older format.",
            )
        )
    try:
        return Brief.model_validate(document)
    except ValidationError as error:
        raise ProblemError(validation_problem(error, where)) from error


def validation_problem(error: ValidationError, where: str) -> Problem:
    """Say the first fault that Pydantic found as a :class:`Problem`; the input itself is never repeated."""
    found = error.errors(include_url=False, include_input=False)
    # Where a value may be of several forms, the fault in our own words says more than "not the other form".
    own = [one for one in found if one["type"] == "value_error" and one["loc"][:2] == found[0]["loc"][:2]]
    first = (own or found)[0]
    unions = {"text", "choice", "date", "number", "none", "every", "at", "RelativeDate"}
    place = ".".join(str(part) for part in first["loc"] if part not in unions)
    message = first["msg"].removeprefix("Value error, ").removeprefix("Assertion failed, ")
    more = error.error_count() - 1
    tail = f" ({more} more after it)" if more else ""
    return Problem(
        "brief-unreadable",
        f"{message[:1].upper()}{message[1:].rstrip('.')}{tail}.",
        f"{where}, {place}" if place else where,
        "Correct that place; docs/query-format.md lists what each place takes.",
    )
