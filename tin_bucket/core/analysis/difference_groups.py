"""What differs between two tables, by the values of a column: how many rows of each are new, gone and changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.columns.readings import group_text
from tin_bucket.core.table.row_expansion import Ints

from .compare import CHANGED, GONE, NEW, Comparison

_PLACES = {NEW: 0, GONE: 1, CHANGED: 2}


@dataclass(frozen=True, slots=True)
class DifferenceGroup:
    """The rows of one value that differ.

    Attributes:
        value: as text; empty for the rows without a value.
    """

    value: str
    new: int
    gone: int
    changed: int

    @property
    def rows(self) -> int:
        """How many differ."""
        return self.new + self.gone + self.changed


def difference_groups(values: Sequence[Any], found: Comparison, rows: Ints) -> list[DifferenceGroup]:
    """Count some merged rows by their value, the largest group first.

    Args:
        values: what each row has in the column now, or what it had where it is gone.
        rows: rows of `found`; those that do not differ are not counted.
    """
    counts: dict[str, list[int]] = {}
    for value, state in zip(values, found.state[rows].tolist(), strict=True):
        place = _PLACES.get(state)
        if place is not None:
            counts.setdefault(group_text(value), [0, 0, 0])[place] += 1
    groups = [DifferenceGroup(value, *number) for value, number in counts.items()]
    return sorted(groups, key=lambda one: -one.rows)
