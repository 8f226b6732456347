"""Lists in lists and lists beside lists → which item of each stands in which row.

Two records, the first with two fares and the second with none. The rows are of the records 0, 0 and 1, and hold the
fares 0 and 1 and an empty item:

>>> rows = expand(2, parents=[0], lengths=[np.array([2, 0])], side_by_side=False)
>>> [index.tolist() for index in rows.index], rows.number[0].tolist()
([[0, 0, 1], [0, 1, 2]], [0, 1, -1])

One record with two legs and two fares gives each leg with each fare:

>>> rows = expand(1, parents=[0, 0], lengths=[np.array([2]), np.array([2])], side_by_side=False)
>>> [index.tolist() for index in rows.index[1:]]
[[0, 0, 1, 1], [0, 1, 0, 1]]
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tin_bucket.core.problem import fail

Ints = npt.NDArray[np.int64]
MOST_ROWS = 20_000_000


@dataclass(slots=True)
class Expanded:
    """The rows that records become.

    Attributes:
        index: for each level, the records first, and each row the index of its item in that level, −1 for none;
            shapes (rows,).
        number: for each level but the first and each row the number of its item in its list, −1 for none.
    """

    index: list[Ints]
    number: list[Ints]


def expand(height: int, parents: Sequence[int], lengths: Sequence[Ints], side_by_side: bool) -> Expanded:
    """Lay the items of lists out as rows.

    Args:
        height: how many records there are.
        parents: for each level after the records the level that its lists lie in, 0 for the records; a parent comes
            before its children.
        lengths: for each such level and each item of its parent the length of the list there. An empty or absent list
            counts as one empty item, so that nothing is lost.
        side_by_side: whether lists of one parent stand beside each other by their numbers; else each item of the one
            stands with each of the others.

    Raises:
        ProblemError: ``too-many-rows``.
    """
    counts = [height]
    spans: list[Ints] = []
    for parent, length in zip(parents, lengths, strict=True):
        assert len(length) == counts[parent]
        spans.append(np.maximum(length, 1))
        counts.append(int(spans[-1].sum()))
    children: list[list[int]] = [[] for _ in counts]
    for at, parent in enumerate(parents, 1):
        children[parent].append(at)
    rows = [np.ones(count, dtype=np.int64) for count in counts]
    within: list[Ints] = [np.zeros(0, dtype=np.int64)] * len(counts)
    for at in range(len(counts) - 1, -1, -1):
        parts = []
        for child in children[at]:
            starts = np.cumsum(spans[child - 1]) - spans[child - 1]
            within[child] = np.add.reduceat(rows[child], starts) if len(starts) else np.zeros(0, dtype=np.int64)
            parts.append(within[child])
        if len(parts) == 1:
            rows[at] = parts[0]
        elif parts and side_by_side:
            rows[at] = np.maximum.reduce(parts)
        elif parts:
            if float(np.multiply.reduce([part.astype(np.float64) for part in parts]).sum()) > MOST_ROWS:
                raise _too_many()
            rows[at] = np.multiply.reduce(parts)
    if int(rows[0].sum()) > MOST_ROWS:
        raise _too_many()
    index: list[Ints] = [np.zeros(0, dtype=np.int64)] * len(counts)
    position = list(index)
    index[0], position[0] = _laid_out(rows[0])
    number: list[Ints] = []
    for at in range(len(counts)):
        _place_children(at, children[at], index, position, rows, within, side_by_side)
        if at:
            span = spans[at - 1]
            numbers = np.arange(counts[at], dtype=np.int64) - np.repeat(np.cumsum(span) - span, span)
            numbers[np.repeat(lengths[at - 1] == 0, span)] = -1
            number.append(_or_none(numbers, index[at]))
    return Expanded(index, number)


def _laid_out(rows: Ints) -> tuple[Ints, Ints]:
    """For each row its item, and which of that item's rows it is."""
    if not len(rows) or rows.max() == 1:  # No item has none.
        return np.arange(len(rows), dtype=np.int64), np.zeros(len(rows), dtype=np.int64)
    item = np.repeat(np.arange(len(rows), dtype=np.int64), rows)
    return item, np.arange(len(item), dtype=np.int64) - np.repeat(np.cumsum(rows) - rows, rows)


def _place_children(
    at: int,
    children: list[int],
    index: list[Ints],
    position: list[Ints],
    rows: list[Ints],
    within: list[Ints],
    side_by_side: bool,
) -> None:
    own, offset = index[at], position[at]
    stride = np.ones(len(own), dtype=np.int64)
    for child in reversed(children):
        total = _or_none(within[child], own)
        start = np.cumsum(within[child]) - within[child]
        if side_by_side or len(children) == 1:
            row = np.where(offset < total, _or_none(start, own) + offset, -1)
        else:
            row = _or_none(start, own) + (offset // stride) % np.maximum(total, 1)
            stride = stride * np.maximum(total, 1)
        row[own < 0] = -1
        items, offsets = _laid_out(rows[child])
        index[child], position[child] = _or_none(items, row), _or_none(offsets, row)


def _or_none(values: Ints, at: Ints) -> Ints:
    """The values at some indices, −1 where the index is −1."""
    if not len(values):
        return np.full(len(at), -1, dtype=np.int64)
    if not len(at) or at.min() >= 0:
        return values[at]
    out: Ints = values[np.maximum(at, 0)]
    out[at < 0] = -1
    return out


def _too_many() -> Exception:
    return fail(
        "too-many-rows",
        f"These lists together would be more than {MOST_ROWS:,} rows.",
        where="take, rows_for",
        do="Let fewer lists become rows, or put them side by side.",
    )
