"""A figure of some of many values, again and again: of each date, of each category, of each point of a line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.core.columns.readings import numbers_of

from .figures import FIGURES

OVER_TIME = tuple(one.key for one in FIGURES if one.over_time)
if TYPE_CHECKING:
    FigureName = str
else:
    FigureName = Literal[OVER_TIME]
COUNTS = frozenset(one.key for one in FIGURES if one.over_time == "count")
"""The figures that count rows or values, and so have no unit; all others are of the column's numbers alone."""

Numbers = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
_OF_NUMBERS: dict[str, Callable[[Numbers], float]] = {
    "sum": lambda found: float(found.sum()),
    "mean": lambda found: float(found.mean()),
    "median": lambda found: float(np.median(found)),
    "lowest": lambda found: float(found.min()),
    "highest": lambda found: float(found.max()),
}
# What is told of many groups in one pass, and what a cell without a number counts as there.
_REDUCED: dict[str, tuple[np.ufunc, float]] = {
    "sum": (np.add, 0.0),
    "mean": (np.add, 0.0),
    "lowest": (np.minimum, np.inf),
    "highest": (np.maximum, -np.inf),
}


class FigureReader:
    """Reads a figure of some of many values, again and again."""

    def __init__(self, values: Sequence[Any] | Numbers, figure: FigureName) -> None:
        """
        Args:
            figure: a key of :data:`OVER_TIME`.
            values: of all rows; what is no number, or yes and no, is left out of sums and the like. Numbers may be
                given as such, NaN where there is none.
        """
        self._figure = figure
        self._numbers: Numbers = np.zeros(0)
        self._codes: Ints = np.zeros(0, dtype=np.int64)
        if figure in _OF_NUMBERS:
            self._numbers = values if isinstance(values, np.ndarray) else numbers_of(values)[0]
        elif figure != "rows":
            self._codes = _codes(list(values))

    def of(self, places: Ints) -> float | None:
        """The figure of the values at some places; nothing for a sum, mean, lowest or highest of no number.

        Args:
            places: shape (rows,); one place may stand for several rows.
        """
        if self._figure == "rows":
            return len(places)
        if self._figure in _OF_NUMBERS:
            found = self._numbers[places]
            found = found[~np.isnan(found)]
            return _OF_NUMBERS[self._figure](found) if len(found) else None
        codes = self._codes[places]
        codes = codes[codes >= 0]
        return len(codes) if self._figure == "filled" else len(np.unique(codes))

    def of_groups(self, places: Ints, starts: Ints) -> list[float | None]:
        """The figure of each of many groups.

        Args:
            places: the values' places, those of a group side by side. Shape (values,).
            starts: where each group begins among them, ascending. Shape (groups,).
        """
        if not len(starts):
            return []
        counts = np.diff(np.r_[starts, len(places)])
        if self._figure == "rows":
            return [int(count) for count in counts.tolist()]
        if self._figure == "filled":
            filled: list[float | None] = np.add.reduceat(self._codes[places] >= 0, starts, dtype=np.int64).tolist()
            return filled
        if self._figure not in _REDUCED:
            return [self.of(part) for part in np.split(places, starts[1:])]
        found = self._numbers[places]
        there = ~np.isnan(found)
        numbers = np.add.reduceat(there, starts, dtype=np.int64)
        reduce, nothing = _REDUCED[self._figure]
        made = reduce.reduceat(np.where(there, found, nothing), starts)
        if self._figure == "mean":
            made = made / np.maximum(numbers, 1)
        return [value if number else None for value, number in zip(made.tolist(), numbers.tolist(), strict=True)]


def _codes(values: Sequence[Any]) -> Ints:
    """A number for each distinct value, see :func:`_code`."""
    if set(map(type, values)) == {str} and "" not in (plain := dict.fromkeys(values)):
        numbers = dict(zip(plain, range(len(plain)), strict=True))
        return np.fromiter(map(numbers.__getitem__, values), dtype=np.int64, count=len(values))
    known: dict[Any, int] = {}
    return np.array([_code(known, value) for value in values], dtype=np.int64)


def _code(known: dict[Any, int], value: Any) -> int:
    """A number for each distinct value; −1 for none, an empty text, and a value that a lookup missed."""
    if value is None or value == "" or not isinstance(value, str | int | float):
        return -1
    return known.setdefault((isinstance(value, bool), value), len(known))
