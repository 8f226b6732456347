"""The values of a list → one cell."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import WILDCARD, Place, Segment, Wildcard, parse_place

from .models import Counted, First, Joined, Last, ListReduction, Nth, NumericAggregate, WhereMatch


@dataclass(frozen=True, slots=True)
class ItemAt:
    """One item of a list by its index, with which the rest of the place begins; `choice` is for a list behind it."""

    choice: ListReduction | None


_NUMBERS = {int, float}


def text_of(value: Any) -> str:
    """A value as text: texts as they are, anything else as JSON."""
    return value if isinstance(value, str) else json_text(value)


def items_of(value: Any, keyed: bool) -> list[Any] | None:
    """The items of a list; of an object its members where they are read like a list. A single value is a list of one,
    as some services send it; ``None`` is no list."""
    if type(value) is list:
        return value
    if value is None:
        return None
    return list(value.values()) if keyed and type(value) is dict else [value]


def list_reader(choice: ListReduction | ItemAt | None, rest: Place) -> Callable[[list[Any]], Any]:
    """A function that makes one cell of a list's items.

    Args:
        choice: how; JSON text of the values when absent.
        rest: place of the value in an item; it may lead through further lists, whose values are all meant.

    Returns:
        A function of the items. A figure of values that are not all numbers is told as their JSON text, so that a
        person sees them.
    """
    if isinstance(choice, WhereMatch):
        return _matching(choice, rest)
    if isinstance(choice, ItemAt):
        return _at(choice.choice, rest)
    last = _MAKERS[type(choice)]
    if isinstance(choice, Counted):
        return lambda items: sum(value is not None for value in values_in(items, rest)) if rest else len(items)

    def read(items: list[Any]) -> Any:
        values = values_in(items, rest)
        return last(choice, values)

    return read


def _at(choice: ListReduction | None, rest: Place) -> Callable[[list[Any]], Any]:
    cut = rest.index(WILDCARD) if WILDCARD in rest else len(rest)
    inner = list_reader(choice, rest[cut + 1 :]) if cut < len(rest) else None

    def read(items: list[Any]) -> Any:
        found = values_in([items], rest[:cut])
        if inner is None or not found:
            return _cell(found[0]) if found else None
        behind = items_of(found[0], keyed=False)
        return None if behind is None else inner(behind)

    return read


def values_in(items: Sequence[Any], rest: Place) -> list[Any]:
    """The values at a place of each item, in order; an item that lacks it gives none."""
    values = list(items) if not rest else _inside(items, rest[0])
    for segment in rest[1:]:
        values = _inside(values, segment)
    return values


def _inside(values: Sequence[Any], segment: Segment) -> list[Any]:
    if isinstance(segment, str):
        return [value[segment] for value in values if type(value) is dict and segment in value]
    if isinstance(segment, Wildcard):
        out: list[Any] = []
        for value in values:
            if type(value) is list:
                out += value
            elif type(value) is dict:
                out += value.values()
        return out
    return [value[segment] for value in values if type(value) is list and -len(value) <= segment < len(value)]


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
                return _cell(found[0]) if found else None
        return None

    return read


def _matching_plain(wanted: str, condition: str, name: str) -> Callable[[list[Any]], Any]:
    """The usual case, at a fraction of the time: both are members of the item itself."""

    def read(items: list[Any]) -> Any:
        for item in items:
            if type(item) is dict:
                value = item.get(condition)
                if value == wanted or (value is not None and type(value) is not str and text_of(value) == wanted):
                    return _cell(item.get(name))
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


def _cell(value: Any) -> Any:
    return json_text(value) if isinstance(value, dict | list) else value


def _listed(_: None, values: list[Any]) -> Any:
    return json_text(values)


def _joined(choice: Joined, values: list[Any]) -> Any:
    return choice.separator.join(text_of(value) for value in values if value is not None)


def _first(_: First, values: list[Any]) -> Any:
    return _cell(values[0]) if values else None


def _last(_: Last, values: list[Any]) -> Any:
    return _cell(values[-1]) if values else None


def _nth(choice: Nth, values: list[Any]) -> Any:
    at = choice.number - 1 if choice.number > 0 else len(values) + choice.number
    return _cell(values[at]) if 0 <= at < len(values) else None


def _aggregate(choice: NumericAggregate, values: list[Any]) -> Any:
    if set(map(type, values)) <= _NUMBERS:
        real = values
    else:
        numbers = [_number(value) for value in values if value is not None]
        if any(number is None for number in numbers):
            return json_text(values)
        real = [number for number in numbers if number is not None]
    if not real:
        return None
    if choice.by == "lowest":
        return min(real)
    if choice.by == "highest":
        return max(real)
    total = sum(real)
    if type(total) is float:
        # 0.1 + 0.2 is told as people write it; fifteen digits are what a decimal holds for sure.
        total = float(f"{total:.15g}")
    return total if choice.by == "sum" else float(f"{total / len(real):.15g}")


def _number(value: Any) -> int | float | None:
    if isinstance(value, bool):
        return None
    if isinstance(value, int | float):
        return value
    if isinstance(value, str):
        try:
            return float(value) if not value.strip().lstrip("+-").isdecimal() else int(value)
        except ValueError:
            return None
    return None


_MAKERS: dict[type, Callable[[Any, list[Any]], Any]] = {
    type(None): _listed,
    Joined: _joined,
    Counted: lambda _, values: len(values),
    First: _first,
    Last: _last,
    Nth: _nth,
    NumericAggregate: _aggregate,
}
