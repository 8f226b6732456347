"""The values of a list → one cell: what all reductions have in common."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from tin_bucket.core.base import Part
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import Place, Segment, Wildcard

Cell = Callable[[list[Any]], Any]


class ReductionModel(Part):
    """How values of a list become one cell. Each reduction has a subclass with its own ``by``."""

    by: str

    @property
    def makes_figure(self) -> bool:
        """Whether the cell is a figure that is made of numbers, and none of the values."""
        return False

    @property
    def numeric(self) -> bool:
        """Whether all values must be numbers."""
        return False

    def words(self) -> str:
        """What it makes, in words, such as ``mean of``."""
        return self.by

    def of(self, values: list[Any]) -> Any:
        """The cell that some values make."""
        raise NotImplementedError

    def reader(self, rest: Place) -> Cell:
        """A function that makes a cell of a list's items.

        Args:
            rest: place of the value in an item; it may lead through further lists, whose values are all meant.
        """
        return lambda items: self.of(values_in(items, rest))

    def chosen(self, values: Sequence[Any]) -> int | None:
        """Which of the values it takes, where it takes one."""
        return None


class FigureModel(ReductionModel):
    """A reduction to a figure of numbers. Values that are not all numbers are shown as JSON text, so that people see
    them."""

    @property
    def makes_figure(self) -> bool:
        """As a rule it is."""
        return True

    @property
    def numeric(self) -> bool:
        """They must."""
        return True

    def figure(self, numbers: list[int | float]) -> int | float:
        """The figure of some numbers, of which there is one at least."""
        raise NotImplementedError

    def of(self, values: list[Any]) -> Any:
        """The figure, ``None`` where there is no number."""
        if set(map(type, values)) <= _NUMBERS:
            real = values
        else:
            numbers = [number_of(value) for value in values if value is not None]
            if any(number is None for number in numbers):
                return json_text(values)
            real = [number for number in numbers if number is not None]
        return self.figure(real) if real else None


def rounded(number: float) -> float:
    """A figure as people write it: 0.1 + 0.2 is 0.3; fifteen digits are what a decimal holds for sure."""
    return float(f"{number:.15g}")


class ExtremeModel(FigureModel):
    """A figure that is one of the values."""

    @property
    def makes_figure(self) -> bool:
        """It is one of them."""
        return False

    def best(self, numbers: list[tuple[float, int]]) -> int:
        """The index of the value that it takes, of pairs of number and index."""
        raise NotImplementedError

    def chosen(self, values: Sequence[Any]) -> int | None:
        """Which one."""
        numbers = [(float(number), at) for at, value in enumerate(values) if (number := number_of(value)) is not None]
        return self.best(numbers) if numbers else None


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


def as_cell(value: Any) -> Any:
    """A value as a cell holds it: objects and lists as JSON text."""
    return json_text(value) if isinstance(value, dict | list) else value


def number_of(value: Any) -> int | float | None:
    """A value as a number, also of a text that is one; ``None`` where it is none."""
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
