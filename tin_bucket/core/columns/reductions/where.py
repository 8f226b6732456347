"""The one whose item meets a condition."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import Choice, FormField
from tin_bucket.core.columns.reduction import Cell, ReductionModel, as_cell, text_of, values_in
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import Place, Wildcard, parse_place, plain_place


class WhereMatch(ReductionModel):
    """The one whose item fulfils a condition, such as the amount where `$.class` is "car"."""

    by: Literal["where"] = "where"
    place: str = Field(description="plain JSONPath from the item")
    equals: str | int | float | bool = Field(description="the value there; told apart by its text")

    _place = field_validator("place")(plain_place)

    def words(self) -> str:
        """The condition."""
        what = self.equals if isinstance(self.equals, str) else json_text(self.equals)
        return f"where {self.place.removeprefix('$.')} is {what}"

    def reader(self, rest: Place) -> Cell:
        """The value of the first item that meets the condition."""
        return _matching(self, rest)


def _matching(choice: WhereMatch, rest: Place) -> Callable[[list[Any]], Any]:
    wanted = text_of(choice.equals)
    condition = parse_place(choice.place) or ()
    if len(condition) == 1 and len(rest) == 1 and isinstance(condition[0], str) and isinstance(rest[0], str):
        return _matching_plain(wanted, condition[0], rest[0])
    # The condition is on the innermost list's items.
    cut = max((at + 1 for at, segment in enumerate(rest) if isinstance(segment, Wildcard)), default=0)
    outer, inner = rest[:cut], rest[cut:]

    def read(items: list[Any]) -> Any:
        for item in values_in(items, outer):
            at = values_in([item], condition)
            if at and at[0] is not None and text_of(at[0]) == wanted:
                found = values_in([item], inner)
                return as_cell(found[0]) if found else None
        return None

    return read


def _matching_plain(wanted: str, condition: str, name: str) -> Callable[[list[Any]], Any]:
    """The usual case, at a fraction of the time: both are members of the item itself."""

    def read(items: list[Any]) -> Any:
        for item in items:
            if type(item) is dict:
                value = item.get(condition)
                if value == wanted or (value is not None and type(value) is not str and text_of(value) == wanted):
                    return as_cell(item.get(name))
        return None

    return read


def matching_index(choice: WhereMatch, items: Sequence[Any]) -> int | None:
    """Which item fulfils the condition first, if one does."""
    wanted, condition = text_of(choice.equals), parse_place(choice.place) or ()
    for at, item in enumerate(items):
        found = values_in([item], condition)
        if found and found[0] is not None and text_of(found[0]) == wanted:
            return at
    return None


REDUCTION = Choice(
    key="where",
    model=WhereMatch,
    label="the one where",
    fields=(
        FormField("place", "Place in the item", required=True),
        FormField("equals", "Value there", "text", required=True),
    ),
    phrase="where {place} is {equals}",
)
