"""What is taken of an answer: where the records are, what becomes a row, and which fields become columns."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from tin_bucket.core.base import Part, known_zone
from tin_bucket.core.formats.date_patterns import check_pattern
from tin_bucket.core.formats.jsonpath import parse_place

Kind = Literal["text", "whole number", "decimal", "yes/no", "date", "date and time", "json"]


def _plain_place(value: str) -> str:
    if parse_place(value) is None:
        raise ValueError(f"“{value[:100]}” is not a plain place such as $.vessel.name or $.fares[*].amount")
    return value


# How the values of a list become one cell ------------------------------------------------------------------------


class Joined(Part):
    """The values as one text."""

    by: Literal["joined"] = "joined"
    separator: str = Field(default=", ", max_length=100)


class Counted(Part):
    """How many there are."""

    by: Literal["count"] = "count"


class First(Part):
    """The first one."""

    by: Literal["first"] = "first"


class Last(Part):
    """The last one."""

    by: Literal["last"] = "last"


class Nth(Part):
    """The one with a number; −1 is the last."""

    by: Literal["number"] = "number"
    number: int = Field(ge=-100_000, le=100_000, description="counted from 1; from the end when negative")

    @field_validator("number")
    @classmethod
    def _not_nought(cls, value: int) -> int:
        if value == 0:
            raise ValueError("items are counted from 1, or from −1 at the end")
        return value


class NumericAggregate(Part):
    """A figure made of the numbers."""

    by: Literal["sum", "mean", "lowest", "highest"]


class WhereMatch(Part):
    """The one whose item fulfils a condition, such as the amount where `$.class` is "car"."""

    by: Literal["where"] = "where"
    place: str = Field(description="plain JSONPath from the item")
    equals: str | int | float | bool = Field(description="the value there; told apart by its text")

    _place = field_validator("place")(_plain_place)


ListReduction = Annotated[
    Joined | Counted | First | Last | Nth | NumericAggregate | WhereMatch,
    Field(discriminator="by"),
]


# Columns -----------------------------------------------------------------------------------------------------------


class Reads(Part):
    """How texts and numbers are read as another kind."""

    comma: bool = Field(default=False, description="decimals have a comma; full stops and spaces group digits")
    dates: str | None = Field(
        default=None,
        max_length=100,
        description="strftime pattern (POSIX.1-2017), or “seconds” or “milliseconds” since 1970; ISO 8601 when absent",
    )
    zone: str | None = Field(default=None, description="IANA time zone of dates without an offset, and of days")
    yes: list[str] = Field(default=[], max_length=50, description="words for yes; the usual ones when empty")
    no: list[str] = Field(default=[], max_length=50, description="words for no; the usual ones when empty")

    @field_validator("dates")
    @classmethod
    def _pattern_is_known(cls, value: str | None) -> str | None:
        if value is not None and value not in ("seconds", "milliseconds"):
            check_pattern(value)
        return value

    @field_validator("zone")
    @classmethod
    def _zone_is_known(cls, value: str | None) -> str | None:
        return None if value is None else known_zone(value)
