"""For each: one question asked for many values, each of them an iteration."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from tin_bucket.core.base import Name, Part

from .parameters.models import RelativeDate


class FanOutList(Part):
    """Each value of a list that was typed or pasted."""

    by: Literal["list"] = "list"
    parameter: Name
    values: list[str] = Field(min_length=1)


class FanOutParameter(Part):
    """Each value of a list parameter, one question a value."""

    by: Literal["parameter"] = "parameter"
    parameter: Name


class OfParameter(Part):
    """An end of a range that is the value of another parameter."""

    parameter: Name


class FanOutRange(Part):
    """Each day, week (its Monday) or month of a range; both ends belong to it."""

    by: Literal["range"] = "range"
    parameter: Name
    step: Literal["day", "week", "month"] = "day"
    start: date | RelativeDate | OfParameter = RelativeDate(offset="-P6D")
    end: date | RelativeDate | OfParameter = RelativeDate()


class FanOutColumn(Part):
    """Each distinct value of a column of another query's newest table."""

    by: Literal["column"] = "column"
    parameter: Name
    query: str = Field(min_length=1, description="the name of the query")
    column: str = Field(min_length=1)
    first: bool = Field(default=False, description="whether that query is refreshed before, in the same refresh")


class FanOutSheet(Part):
    """Each row of a sheet; several of its columns may be values."""

    by: Literal["sheet"] = "sheet"
    sheet: str = Field(min_length=1, description="the name of a sheet that is kept in the workspace")
    with_: dict[Name, str] = Field(alias="with", min_length=1, description="parameter → column of the sheet")

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


FanOut = Annotated[
    FanOutList | FanOutParameter | FanOutRange | FanOutColumn | FanOutSheet,
    Field(discriminator="by"),
]


def fan_out_names(each: Sequence[FanOut]) -> list[str]:
    """The parameters whose values the iterations give, in order."""
    names: list[str] = []
    for one in each:
        names.extend(one.with_ if isinstance(one, FanOutSheet) else [one.parameter])
    return names


def iterations_words(each: Sequence[FanOut], count: int) -> str:
    """So many iterations by what they are: `7 days`, `1 value`, `12 combinations`."""
    if len(each) > 1:
        noun = "combination"
    else:
        noun = each[0].step if each and isinstance(each[0], FanOutRange) else "value"
    return f"{count:,} {noun}{'' if count == 1 else 's'}"
