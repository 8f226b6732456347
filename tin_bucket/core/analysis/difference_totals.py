"""What the changes of a column of numbers come to, and how large they are."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from tin_bucket.core.columns.readings import Floats, numbers_of

from .compare import CHANGED, GONE, NEW, Comparison
from .difference_size import difference_sizes

_STEPS = 24
_TAIL = 0.01  # The part of the changes at either end that may share a step, so that one outlier hides nothing.


@dataclass(frozen=True, slots=True)
class DifferenceTotals:
    """The sum of a column then and now, and what led from one to the other: ``then - went + changed + came = now``.
    A sum that no number holds is infinite.

    Attributes:
        then, now: the sums of all rows.
        came: what the new rows have.
        went: what the gone rows had.
        changed: by how much the rows of both changed; one that had no number counts as 0.
        others: cells that have a value which is no number, in both tables.
        edges: where the steps of the differences begin and end, ascending; one more than `counts`. The first and the
            last reach to the lowest and the highest difference.
        counts: how many changed numbers differ by so much.
    """

    then: float
    now: float
    came: float
    went: float
    changed: float
    others: int
    edges: list[float]
    counts: list[int]


def difference_totals(old: Sequence[Any], new: Sequence[Any], found: Comparison) -> DifferenceTotals:
    """Add up a column of two tables.

    Args:
        old, new: its values, each of shape (rows,) of its table.
        found: how the two tables lie over each other.
    """
    then, then_others = _numbers(old)
    now, now_others = _numbers(new)
    there = (found.now_row >= 0) & (found.then_row >= 0)
    then_at, now_at = found.then_row[there], found.now_row[there]
    # Of cells that are equal nothing remains, whatever their size.
    moved = then[then_at] != now[now_at]
    differences = [*now[now_at][moved].tolist(), *(-then[then_at][moved]).tolist()]
    of_changed = found.state == CHANGED
    sizes = difference_sizes(
        [old[at] for at in found.then_row[of_changed].tolist()],
        [new[at] for at in found.now_row[of_changed].tolist()],
        "amount",
    )
    edges, counts = _steps(sizes[np.isfinite(sizes) & (sizes != 0)])
    return DifferenceTotals(
        then=_sum(then),
        now=_sum(now),
        came=_sum(now[found.now_row[found.state == NEW]]),
        went=_sum(then[found.then_row[found.state == GONE]]),
        changed=_sum(differences),
        others=then_others + now_others,
        edges=edges,
        counts=counts,
    )


def _sum(values: Iterable[float]) -> float:
    """The exact sum, rounded once; infinite where no number holds it."""
    try:
        return math.fsum(values)
    except OverflowError:
        return math.inf


def _numbers(values: Sequence[Any]) -> tuple[Floats, int]:
    """The numbers of a column, 0 where there is none, and how many other values it has. Shape (values,)."""
    found, others = numbers_of(values)
    return np.nan_to_num(found), others


def _steps(sizes: Floats) -> tuple[list[float], list[int]]:
    """Steps of one width for most differences; the outer ones hold what lies beyond."""
    if not len(sizes):
        return [], []
    low, high = (float(one) for one in np.quantile(sizes, (_TAIL, 1 - _TAIL)))
    if low >= high:
        low, high = float(sizes.min()), float(sizes.max())
    if low == high:
        return [low, high], [len(sizes)]
    edges = np.linspace(low, high, _STEPS + 1)
    counts = np.histogram(np.clip(sizes, low, high), bins=edges)[0]
    told = edges.tolist()
    told[0], told[-1] = float(sizes.min()), float(sizes.max())
    return told, counts.tolist()
