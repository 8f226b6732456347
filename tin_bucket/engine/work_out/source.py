"""Tables that can be looked at, whatever they come from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any, Protocol

import numpy as np

from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.store.snapshots import Snapshots

_MANY = 20_000  # Rows from which picking them is left to NumPy.


class TableSource(Protocol):
    """A table that can be looked at."""

    @property
    def key(self) -> tuple[Any, ...]:
        """What tells it from other tables."""

    @property
    def columns(self) -> list[TableColumn]:
        """Its headings."""

    @property
    def height(self) -> int:
        """The number of its rows."""

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""

    def rows_with(self, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them; ``None`` when all must be looked at."""


class KeptTable:
    """The table of a snapshot."""

    def __init__(self, snapshots: Snapshots, snapshot_id: int) -> None:
        self._snapshots = snapshots
        self.snapshot = snapshots.get(snapshot_id)
        self.key: tuple[Any, ...] = ("snapshot", snapshot_id, self.snapshot.version)
        self.columns = self.snapshot.columns
        self.height = self.snapshot.rows

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        return self._snapshots.column(self.snapshot.id, name)

    def has_copy(self, name: str) -> bool:
        """Whether a column was copied, so that it is read without its rows."""
        return self._snapshots.has_copy(self.snapshot.id, name)

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self._snapshots.window(self.snapshot.id, start, count)

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        return self._snapshots.rows_at(self.snapshot.id, rows)

    def stretches_that_differ(
        self, name: str, other: KeptTable, others_name: str
    ) -> Iterator[tuple[int, list[Any], list[Any]]] | None:
        """Where a column may differ from one of another table, row for row: where each such stretch begins, and its
        values in both. Nothing where that is not known without reading both, or they are of two lengths."""
        if self.height != other.height:
            return None
        return self._snapshots.stretches_that_differ((self.snapshot.id, name), (other.snapshot.id, others_name))

    def ids(self) -> Ints:
        """The id of each row: equal rows of all snapshots of a query have one. Shape (rows,)."""
        return self._snapshots.row_ids(self.snapshot.id)

    def rows_with(self, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them."""
        return self._snapshots.rows_with(self.snapshot.id, text)


class MemoryTable:
    """A table in memory: that of a preview, or of a sheet."""

    def __init__(
        self, key: tuple[Any, ...], columns: list[TableColumn], data: Sequence[Sequence[Any]], height: int
    ) -> None:
        """
        Args:
            data: the values of each column, each of `height`.
        """
        self.key = key
        self.columns = columns
        self.height = height
        self._data = data

    @classmethod
    def of(cls, key: tuple[Any, ...], table: Table) -> MemoryTable:
        """The table as it is in memory."""
        return cls(key, table.columns, table.data, table.height)

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        for heading, values in zip(self.columns, self._data, strict=True):
            if heading.name == name:
                return heading, values
        return None

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        stop = min(start + count, self.height)
        if not self._data:
            return [()] * max(0, stop - start)
        return list(zip(*(values[start:stop] for values in self._data), strict=True))

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        if not self._data:
            return [()] * len(rows)
        return list(zip(*(picked(values, rows) for values in self._data), strict=True))

    def rows_with(self, text: str) -> Ints | None:
        """All rows of a table in memory are looked at."""
        return None


class HeldTable:
    """The table of a snapshot of which some columns were read before, in one pass."""

    def __init__(self, table: KeptTable, held: dict[str, Sequence[Any]]) -> None:
        """
        Args:
            held: the values of these columns.
        """
        self.table = table
        self.held = held
        self.key: tuple[Any, ...] = table.key
        self.columns = table.columns
        self.height = table.height

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        if name not in self.held:
            return self.table.column(name)
        return next(one for one in self.columns if one.name == name), self.held[name]

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self.table.window(start, count)

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        return self.table.at(rows)

    def rows_with(self, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them."""
        return self.table.rows_with(text)


def held_of_another(table: KeptTable, other: HeldTable, names: Sequence[str]) -> dict[str, list[Any]] | None:
    """Columns of a table of which most rows are those of another date of its query, whose columns were read: only the
    others are read. Nothing where they are too many.

    Args:
        names: columns that both have, and that the other one holds.
    """
    own, known = table.ids(), other.table.ids()
    order = np.argsort(known, kind="stable")
    at = np.minimum(np.searchsorted(known[order], own), max(0, len(known) - 1))
    if not len(known) or not len(own):
        return None
    rows = np.where(known[order][at] == own, order[at], -1)
    missing = np.flatnonzero(rows < 0).astype(np.int64)
    if len(missing) * 4 > len(own):
        return None
    places = [next(index for index, one in enumerate(table.columns) if one.name == name) for name in names]
    read = table.at(missing) if len(missing) else []
    out = {}
    for name, place in zip(names, places, strict=True):
        values = picked(other.held[name], rows)
        for number, row in zip(missing.tolist(), read, strict=True):
            values[number] = row[place]
        out[name] = values
    return out


class RenamedTable:
    """A table some of whose columns have other names."""

    def __init__(self, table: TableSource, names: dict[str, str]) -> None:
        """
        Args:
            names: own name → the other name.
        """
        self._own = {new: old for old, new in names.items()}
        self.inner = table
        self.key: tuple[Any, ...] = ("renamed", table.key, *sorted(names.items()))
        self.height = table.height
        self.columns = [replace(one, name=names.get(one.name, one.name)) for one in table.columns]

    def own_name(self, name: str) -> str:
        """What a column is called in the table itself."""
        return self._own.get(name, name)

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        heading = next((one for one in self.columns if one.name == name), None)
        found = self.inner.column(self.own_name(name)) if heading is not None else None
        return None if heading is None or found is None else (heading, found[1])

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self.inner.window(start, count)

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        return self.inner.at(rows)

    def rows_with(self, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them."""
        return self.inner.rows_with(text)


def rows_of(table: TableSource, chunk: int = 4_096) -> Iterator[tuple[Any, ...]]:
    """Every row of a table in order, read a chunk at a time."""
    for start in range(0, table.height, chunk):
        yield from table.window(start, chunk)


def picked(values: Sequence[Any], rows: Ints) -> list[Any]:
    """The values at some rows; of packed ones each stretch is unpacked once. A number below 0 is no row."""
    if isinstance(values, Packed):
        if len(rows) > len(values) // 50:
            values = list(values)
        else:
            out: list[Any] = [None] * len(rows)
            for at in np.argsort(rows, kind="stable").tolist():
                row = int(rows[at])
                out[at] = values[row] if row >= 0 else None
            return out
    below = bool(len(rows)) and int(rows.min()) < 0
    if len(rows) > _MANY and len(rows) * 3 > len(values):
        if not below and set(map(type, values)) == {float}:
            # Numbers as such lie side by side, which objects do not.
            return list(np.array(values, dtype=np.float64)[rows].tolist())
        whole = np.empty(len(values) + 1, dtype=object)
        whole[: len(values)] = values if isinstance(values, list) else list(values)
        # The last one is nothing, and a number below 0 is no row.
        return list(whole[np.maximum(rows, -1)].tolist())
    if below:
        return [values[row] if row >= 0 else None for row in rows.tolist()]
    return list(map(values.__getitem__, rows.tolist()))


def all_values(table: TableSource, name: str) -> Sequence[Any]:
    """All values of a column; none where there is no such column."""
    found = table.column(name)
    return found[1] if found is not None else []


def cells_at(table: TableSource, name: str, rows: Ints) -> list[Any]:
    """The values of a column at some rows; nothing where there is no such column or no such row (a number below 0)."""
    found = table.column(name)
    return picked(found[1], rows) if found is not None else [None] * len(rows)


def in_order(
    wanted_columns: Sequence[TableColumn], own: Sequence[TableColumn], rows: list[tuple[Any, ...]]
) -> list[tuple[Any, ...]]:
    """Rows of a table in the order of another one's columns; a column that they lack is empty.

    Args:
        own: the columns that the rows have.
    """
    if own is wanted_columns:
        return rows
    at = {column.name: index for index, column in enumerate(own)}
    order = [at.get(column.name) for column in wanted_columns]
    return [tuple([None if index is None else row[index] for index in order]) for row in rows]
