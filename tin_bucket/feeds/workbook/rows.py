"""Which row of a table comes into which row of a sheet: the three ways of feeding."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn

from .cells import Value, sheet_value

CHUNK = 1_000


class TableRows(Protocol):
    """The rows that are fed. They are read in chunks, so a long table is never in memory as a whole."""

    @property
    def columns(self) -> Sequence[TableColumn]:
        """The headings."""

    @property
    def height(self) -> int:
        """The number of rows."""

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""


@dataclass(frozen=True, slots=True)
class RowPlan:
    """The rows of data after feeding, one entry a row.

    Attributes:
        old: the row of the sheet that it was; 0 for a new one. Shape (rows,).
        source: the row of the table that is written into it; −1 for none: it stays as it is. Shape (rows,).
        gone: rows of the sheet that the table has no more, and that are kept.
        removed: how many of them are taken out.
        matched: how many rows were found in both.
    """

    old: Ints
    source: Ints
    gone: frozenset[int] = frozenset()
    removed: int = 0
    matched: int = 0

    @property
    def height(self) -> int:
        """How many rows of data there are."""
        return len(self.old)

    @property
    def new(self) -> int:
        """How many rows are added."""
        return int((self.old == 0).sum())


def replace_rows(first: int, last: int, height: int) -> RowPlan:
    """The rows of the table in the place of those of the sheet."""
    old = np.arange(first, first + height, dtype=np.int64)
    old[old > last] = 0
    return RowPlan(old, np.arange(height, dtype=np.int64), matched=min(height, last - first + 1))


def add_below(first: int, last: int, height: int) -> RowPlan:
    """The rows of the table below those of the sheet."""
    before = last - first + 1
    old = np.concatenate([np.arange(first, last + 1, dtype=np.int64), np.zeros(height, dtype=np.int64)])
    source = np.concatenate([np.full(before, -1, dtype=np.int64), np.arange(height, dtype=np.int64)])
    return RowPlan(old, source)


def update_matching(
    first: int, sheet_keys: Sequence[tuple[Value, ...] | None], table_keys: Sequence[tuple[Value, ...]], remove: bool
) -> RowPlan:
    """The rows of the table in those of the sheet that have the same key; the others below. Of rows with one key, the
    first is the first's.

    Args:
        sheet_keys: of the sheet's rows, from the first; ``None`` for a row without any.
        table_keys: of the table's rows.
        remove: whether rows that the table has no more are taken out.
    """
    waiting: dict[tuple[Value, ...], deque[int]] = defaultdict(deque)
    for number, key in enumerate(table_keys):
        waiting[key].append(number)
    old, source, gone = [], [], []
    removed = 0
    for at, found in enumerate(sheet_keys, first):
        rows = waiting.get(found) if found is not None else None
        if rows:
            old.append(at)
            source.append(rows.popleft())
        elif remove and found is not None:
            removed += 1
        else:
            old.append(at)
            source.append(-1)
            if found is not None:
                gone.append(at)
    matched = len(source) - source.count(-1)
    left = sorted(number for rows in waiting.values() for number in rows)
    return RowPlan(
        np.array([*old, *([0] * len(left))], dtype=np.int64),
        np.array([*source, *left], dtype=np.int64),
        frozenset(gone),
        removed,
        matched,
    )


def keys_of(rows: TableRows, names: Sequence[str], since_1904: bool) -> list[tuple[Value, ...]]:
    """The keys of a table's rows, as a sheet holds them."""
    places = [next(at for at, column in enumerate(rows.columns) if column.name == name) for name in names]
    kinds = [rows.columns[at].kind for at in places]
    out: list[tuple[Value, ...]] = []
    for start in range(0, rows.height, CHUNK):
        for row in rows.window(start, CHUNK):
            values = (sheet_value(row[at], kind, since_1904) for at, kind in zip(places, kinds, strict=True))
            out.append(tuple(comparable(value) for value in values))
    return out


def comparable(value: Value) -> Value:
    """A value as keys are compared: a sheet keeps 15 digits of a number, and yes is not 1."""
    if isinstance(value, bool):
        return f"\0{value}"
    return round(value, 8) if isinstance(value, float) else value
