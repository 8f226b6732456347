"""One way to look at tables, whether they are kept or only tried: windows, sorting, filters, search, columns."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any, Protocol

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.profile import Profile, ValueCounts, profile
from tin_bucket.core.analysis.view import View, find_cells, positions, taken_at
from tin_bucket.core.columns.compressed import USUAL, Packed
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.preview.preview import Previews
from tin_bucket.store.snapshots import Snapshots

MOST_FOUND = 5_000  # Cells that a search tells.
_CHUNK = 4_096
_KEPT_VIEWS = 12
_KEPT_PROFILES = 60
_KEPT_COLUMNS = 12
PLAIN = View()


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
        self._snapshot = snapshots.get(snapshot_id)
        self.key: tuple[Any, ...] = ("snapshot", snapshot_id, self._snapshot.version)
        self.columns = self._snapshot.columns
        self.height = self._snapshot.rows

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        return self._snapshots.column(self._snapshot.id, name)

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self._snapshots.window(self._snapshot.id, start, count)

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        return self._snapshots.rows_at(self._snapshot.id, rows)

    def rows_with(self, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them."""
        return self._snapshots.rows_with(self._snapshot.id, text)


class TriedTable:
    """The table of a preview."""

    def __init__(self, number: int, table: Table) -> None:
        self._table = table
        self.key: tuple[Any, ...] = ("preview", number)
        self.columns = table.columns
        self.height = table.height

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        for heading, values in zip(self._table.columns, self._table.data, strict=True):
            if heading.name == name:
                return heading, values
        return None

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self._table.rows(start, start + count)

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        if not self._table.data:
            return [()] * len(rows)
        return list(zip(*(taken_at(values, rows) for values in self._table.data), strict=True))

    def rows_with(self, text: str) -> Ints | None:
        """All rows of a table in memory are looked at."""
        return None


class Tables:
    """Looks at tables; what was sorted, filtered and counted lately is cached."""

    def __init__(self, snapshots: Snapshots, previews: Previews, clock: Clock) -> None:
        self._snapshots = snapshots
        self._previews = previews
        self._clock = clock
        self._views: LockedCache[Any, Ints] = LockedCache(_KEPT_VIEWS)
        self._profiles: LockedCache[Any, Profile] = LockedCache(_KEPT_PROFILES)
        self._columns: LockedCache[Any, tuple[TableColumn, Packed]] = LockedCache(_KEPT_COLUMNS)

    @contextmanager
    def open(self, snapshot: int | None, preview: int | None) -> Iterator[TableSource]:
        """The table of a snapshot or of a preview, as it is at one moment.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``.
        """
        with self._snapshots.reading():
            yield self.source(snapshot, preview)

    def source(self, snapshot: int | None, preview: int | None) -> TableSource:
        """The table of a snapshot or of a preview.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``.
        """
        if preview is not None:
            found = self._previews.get(preview)
            if found is None or found.replay is None:
                raise fail(
                    "preview-gone",
                    "This preview is no longer kept.",
                    where=f"preview {preview}",
                    do="Ask once again.",
                )
            return TriedTable(preview, found.replay.table)
        return KeptTable(self._snapshots, snapshot or 0)

    def rows(self, source: TableSource, view: View, start: int, count: int) -> tuple[list[tuple[Any, ...]], Ints, int]:
        """A window of a table as it is looked at.

        Returns:
            The rows, the number of each in the table, and how many are seen in all.
        """
        if view.plain:
            end = max(start, min(start + count, source.height))
            return source.window(start, count), np.arange(start, end, dtype=np.int64), source.height
        seen = self._positions(source, view)
        some = seen[start : start + count]
        return (source.at(some) if len(some) else []), some, len(seen)

    def _positions(self, source: TableSource, view: View) -> Ints:
        return self._views.get_or_make(
            (source.key, view.model_dump_json()),
            lambda: positions(view, source.height, lambda name: self._column(source, name)),
        )

    def find(self, source: TableSource, view: View, text: str) -> tuple[list[tuple[int, int]], int]:
        """The cells in which a text stands, by row as it is seen and column; the first ones, and how many there are."""
        if not text.strip():
            return [], 0
        likely = source.rows_with(text)
        if likely is None:
            return find_cells(self.all_rows(source, view), text, MOST_FOUND)
        seen = np.arange(source.height, dtype=np.int64) if view.plain else self._positions(source, view)
        places = np.flatnonzero(np.isin(seen, likely))
        found, total = find_cells(self._some_rows(source, seen[places]), text, MOST_FOUND)
        return [(int(places[row]), at) for row, at in found], total

    def _some_rows(self, source: TableSource, numbers: Ints) -> Iterator[tuple[Any, ...]]:
        for start in range(0, len(numbers), _CHUNK):
            yield from source.at(numbers[start : start + _CHUNK])

    def all_rows(self, source: TableSource, view: View) -> Iterator[tuple[Any, ...]]:
        """The rows of a table as it is looked at, one after the other."""
        seen = None if view.plain else self._positions(source, view)
        total = source.height if seen is None else len(seen)
        for start in range(0, total, _CHUNK):
            if seen is None:
                yield from source.window(start, _CHUNK)
            else:
                yield from source.at(seen[start : start + _CHUNK])

    def _column(self, source: TableSource, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A column; a long one of a snapshot is cached, packed, since as it is often sorted next."""
        if isinstance(source, TriedTable) or source.height < USUAL.packed_from:
            return source.column(name)
        key = (source.key, name)
        known = self._columns.get(key)
        if known is not None:
            return known
        found = source.column(name)
        if found is not None:
            self._columns.put(key, (found[0], Packed(found[1])))
        return found

    def profile(self, source: TableSource, name: str, view: View = PLAIN) -> Profile:
        """A column at a glance, of the rows that are seen.

        Raises:
            ProblemError: ``column-unknown``.
        """
        key = (source.key, name, self._rows_key(view))
        return self._profiles.get_or_make(key, lambda: self._profiled(source, name, view))

    def values(self, source: TableSource, name: str, view: View = PLAIN) -> ValueCounts:
        """Every value of a column among the rows that are seen, with its count.

        Raises:
            ProblemError: ``column-unknown``.
        """
        counts = ValueCounts()
        counts.count(self._cells(source, name, view)[1])
        return counts

    @staticmethod
    def _rows_key(view: View) -> str:
        """What says which rows are seen; their order changes no count."""
        return View(where=view.where).model_dump_json() if view.where else ""

    def _cells(self, source: TableSource, name: str, view: View) -> tuple[TableColumn, Iterable[Any]]:
        """A column's heading, and its cells in the rows that are seen."""
        found = self._column(source, name)
        if found is None:
            raise fail(
                "column-unknown", f"The table has no column “{name[:200]}”.", where="column", do="Choose another one."
            )
        heading, values = found
        if not view.where:
            return heading, values
        seen = self._positions(source, View(where=view.where))
        return heading, taken_at(values, seen)

    def _profiled(self, source: TableSource, name: str, view: View) -> Profile:
        heading, values = self._cells(source, name, view)
        nulls = None if view.where else heading.nulls
        return profile(values, heading.place or heading.name, self._clock.now(), nulls)
