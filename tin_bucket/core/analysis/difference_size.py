"""How much numbers changed between two tables, for finding the changes that matter."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.core.table.row_expansion import Ints

Floats = npt.NDArray[np.float64]
Way = Literal["any", "up", "down"]
Measure = Literal["amount", "percent"]
Order = Literal["table", "size"]


@dataclass(frozen=True, slots=True)
class SizeFilter:
    """Which changes of a column are wanted.

    Attributes:
        way: whether numbers rose, fell, or either.
        least: by how much more they changed, in the unit of `measure`.
        measure: the difference itself, or in percent of what it was.
        order: as the rows stand in the table, or the largest difference first.
    """

    way: Way = "any"
    least: float = 0.0
    measure: Measure = "amount"
    order: Order = "table"

    @property
    def takes_all(self) -> bool:
        """Whether it wants every change, of texts as well, in the order of the table."""
        return self.way == "any" and not self.least and self.order == "table"


def difference_sizes(old: Sequence[Any], new: Sequence[Any], measure: Measure) -> Floats:
    """By how much each number changed; NaN where one of the two is no number. Shape (values,).

    Of nothing every percentage is infinite, and of a number that stayed it is nought.
    """
    out = np.full(len(old), math.nan)
    for at, (before, after) in enumerate(zip(old, new, strict=True)):
        if not _is_number(before) or not _is_number(after):
            continue
        difference = after - before
        if measure == "amount" or not difference:
            out[at] = difference
        elif before:
            out[at] = 100 * difference / abs(before)
        else:
            out[at] = math.copysign(math.inf, difference)
    return out


def wanted(sizes: Floats, choice: SizeFilter) -> Ints:
    """The indices of the changes that a filter wants, in its order. Shape (wanted,)."""
    with np.errstate(invalid="ignore"):
        size = np.abs(sizes) if choice.way == "any" else sizes if choice.way == "up" else -sizes
        there = ~np.isnan(size) & (size > choice.least)
        if choice.way == "any" and not choice.least:
            there = np.ones(len(sizes), dtype=bool)
    found = np.flatnonzero(there).astype(np.int64)
    if choice.order == "size":
        # What is no number stands at the end.
        found = found[np.argsort(np.where(np.isnan(size[found]), math.inf, -size[found]), kind="stable")]
    return found


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
