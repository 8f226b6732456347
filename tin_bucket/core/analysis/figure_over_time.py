"""A figure of a column through time: one number for each date."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.core.table.row_expansion import Ints

Figure = Literal["rows", "filled", "distinct", "sum", "mean", "lowest", "highest"]
"""What is told of a column: how many rows there are, how many have a value, how many values there are, and of its
numbers their sum, mean, lowest and highest."""
FIGURES: tuple[Figure, ...] = ("rows", "filled", "distinct", "sum", "mean", "lowest", "highest")

Numbers = npt.NDArray[np.float64]
# Of no number nothing is told.
_OF_NUMBERS: dict[str, Callable[[Numbers], float]] = {
    "sum": lambda found: float(found.sum()),
    "mean": lambda found: float(found.mean()),
    "lowest": lambda found: float(found.min()),
    "highest": lambda found: float(found.max()),
}


class FigureReader:
    """Reads a figure of some of many values, again and again."""

    def __init__(self, values: Sequence[Any], figure: Figure) -> None:
        """
        Args:
            values: of all rows; what is no number, or yes and no, is left out of sums and the like.
        """
        self._figure = figure
        self._numbers: Numbers = np.zeros(0)
        self._codes: Ints = np.zeros(0, dtype=np.int64)
        if figure in _OF_NUMBERS:
            self._numbers = np.array([_number(value) for value in values], dtype=np.float64)
        elif figure != "rows":
            known: dict[Any, int] = {}
            self._codes = np.array([_code(known, value) for value in values], dtype=np.int64)

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


def _number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return np.nan
    try:
        return float(value)
    except OverflowError:
        return np.nan


def _code(known: dict[Any, int], value: Any) -> int:
    """A number for each distinct value; −1 for none, an empty text, and a value that a lookup missed."""
    if value is None or value == "" or not isinstance(value, str | int | float):
        return -1
    return known.setdefault((isinstance(value, bool), value), len(known))
