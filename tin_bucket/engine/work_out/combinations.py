"""What the rows of a few columns hold, each combination once: of a million rows there are often but a few thousand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.table.row_expansion import Ints

FEWEST_ROWS = 5_000  # Fewer are worked out before their combinations are found.
_SHARE = 10  # So many rows must share a combination, for the search to be worth it.
_TRIED = 20_000  # Values.
_PLAIN = {str, int, float, bool, type(None)}


def combinations(columns: Sequence[Sequence[Any]], height: int) -> tuple[list[list[Any]], Ints] | None:
    """The different combinations of values, and for each row the number of its own.

    Nothing where there are too many, or where equal values may differ, as 1 and 1.0 do.

    Returns:
        The columns of the combinations, in the order in which these could come, and the numbers. Shape (height,).
    """
    if height < FEWEST_ROWS or not columns or not all(_may_be_few(values, height // _SHARE) for values in columns):
        return None
    combined = np.zeros(height, dtype=np.int64)
    distincts: list[list[Any]] = []
    size = 1
    for values in columns:
        distinct = _distinct(values, height // _SHARE // size)
        if distinct is None:
            return None
        at = {value: number for number, value in enumerate(distinct)}
        size *= len(distinct)
        combined *= len(distinct)
        combined += np.fromiter(map(at.__getitem__, values), dtype=np.int64, count=height)
        distincts.append(distinct)
    there = np.zeros(size, dtype=bool)
    there[combined] = True
    present = np.flatnonzero(there)
    numbers = (np.cumsum(there) - 1)[combined]
    out: list[list[Any]] = []
    for distinct in reversed(distincts):
        out.append([distinct[place] for place in (present % len(distinct)).tolist()])
        present = present // len(distinct)
    return out[::-1], numbers


def _distinct(values: Sequence[Any], most: int) -> list[Any] | None:
    """The different values of a column, if they are of one type and no more than so many."""
    if not _may_be_few(values, most):
        return None
    types = values.all_types() if isinstance(values, Packed) else set(map(type, values))
    if not types <= _PLAIN or len(types - {type(None)}) > 1:
        return None
    distinct = dict.fromkeys(values)
    return list(distinct) if len(distinct) <= most else None


def _may_be_few(values: Sequence[Any], most: int) -> bool:
    """Whether a part of the values leaves it open that no more than so many are different."""
    few = values[:_TRIED]
    return set(map(type, few)) <= _PLAIN and len(set(few)) <= min(most, len(few) // 2)
