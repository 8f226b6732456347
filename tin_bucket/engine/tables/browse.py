"""One way to look at tables, whether they are kept or only tried: windows, sorting, filters, search, columns."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from threading import Event
from typing import Any

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.profile import Profile, ValueCounts, profile
from tin_bucket.core.analysis.view import View, find_cells, positions, taken_at
from tin_bucket.core.columns.compressed import USUAL, Packed
from tin_bucket.core.document.start import StartTables
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.preview.preview import Previews
from tin_bucket.engine.work_out.source import KeptTable, MemoryTable, TableSource, picked
from tin_bucket.engine.work_out.stage import Stage
from tin_bucket.engine.work_out.work import LineDone, WorkOut, first_failure
from tin_bucket.store.workspace import Workspace

MOST_FOUND = 5_000  # Cells that a search tells.
_CHUNK = 4_096
_KEPT_VIEWS = 12
_KEPT_PROFILES = 60
_KEPT_COLUMNS = 12
PLAIN = View()


@dataclass(frozen=True, slots=True)
class Look:
    """Rows that a line speaks of.

    Attributes:
        line: which line, counted from 1.
        what: ``dropped``, ``odd``, ``unmatched`` or ``several``; or ``behind``: the rows behind one of the table after
            it.
        row: which one, for ``behind``.
    """

    line: int
    what: str
    row: int = 0


@dataclass(frozen=True, slots=True)
class TableAt:
    """A table as it is asked for.

    Attributes:
        snapshot, preview: whose table it is.
        lines: the work-out lines that are done to it.
        query_id: the query whose lines these are, where a preview does not say it.
        start: the tables that it starts from, as of the date of the snapshot, where it asks nothing.
        look: the rows that one of the lines speaks of, in the place of the table.
    """

    snapshot: int | None = None
    preview: int | None = None
    lines: Sequence[LineModel] = ()
    query_id: int | None = None
    start: StartTables | None = None
    look: Look | None = None


class Tables:
    """Looks at tables; what was sorted, filtered and counted lately is cached."""

    def __init__(self, workspace: Workspace, previews: Previews, clock: Clock) -> None:
        self._snapshots = workspace.snapshots
        self.work_out = WorkOut(workspace, clock)
        self._previews = previews
        self._clock = clock
        self._views: LockedCache[Any, Ints] = LockedCache(_KEPT_VIEWS)
        self._profiles: LockedCache[Any, Profile] = LockedCache(_KEPT_PROFILES)
        self._columns: LockedCache[Any, tuple[TableColumn, Packed]] = LockedCache(_KEPT_COLUMNS)

    @contextmanager
    def open(self, at: TableAt) -> Iterator[TableSource]:
        """A table as it is at one moment.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``, or what is wrong with a line.
        """
        with self._snapshots.reading():
            yield self.source(at)

    def source(self, at: TableAt) -> TableSource:
        """A table as it is asked for.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``, or what is wrong with a line.
        """
        if at.look is None and all(line.off for line in at.lines):
            return self.base(at)[0]
        first, done = self.worked(at)
        if (failed := first_failure(done)) is not None:
            raise ProblemError(failed[1])
        if at.look is None:
            return done[-1].stage
        number = at.look.line
        if not 1 <= number <= len(done):
            raise fail("line-unknown", "There is no such line now.", where=f"line {number}", do="Look at the table.")
        before, after = (done[number - 2].stage if number > 1 else first), done[number - 1].stage
        if at.look.what == "behind":
            rows = after.behind(at.look.row) if 0 <= at.look.row < after.height else None
        else:
            rows = after.looks.get(at.look.what)
        rows = np.zeros(0, dtype=np.int64) if rows is None else rows
        return self.work_out.look(before, rows, at.look.what)

    def worked(self, at: TableAt, stop: Event | None = None) -> tuple[Stage, list[LineDone]]:
        """The table that the lines begin from, and what became of each of them.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``.
            Stopped: nobody waits any more.
        """
        table, as_of, query_id = self.base(at)
        return self.work_out.lines(table, as_of, at.lines, query_id, stop)

    def at_hand(self, query_id: int | None, preview: int | None) -> TableSource | None:
        """The rows that are known before a refresh: those of a preview, else of the newest snapshot; none without."""
        newest = self._snapshots.latest(query_id) if query_id is not None else None
        if preview is None and newest is None:
            return None
        try:
            return self.base(TableAt(newest.id if newest is not None else None, preview))[0]
        except ProblemError:
            return None

    def base(self, at: TableAt) -> tuple[TableSource, str, int | None]:
        """The table without its lines, the moment that it is of, and whose it is.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``.
        """
        if at.start is not None:
            taken = self._snapshots.get(at.snapshot).taken if at.snapshot is not None else self.work_out.undated()
            stack = () if at.query_id is None else (at.query_id,)
            return self.work_out.start(at.start, taken, stack), taken, at.query_id
        if at.preview is None:
            table = KeptTable(self._snapshots, at.snapshot or 0)
            return table, table.snapshot.taken, table.snapshot.query_id
        found = self._previews.get(at.preview)
        if found is None or found.replay is None:
            raise fail(
                "preview-gone",
                "This preview is no longer kept.",
                where=f"preview {at.preview}",
                do="Ask once again.",
            )
        return MemoryTable.of(("preview", at.preview), found.replay.table), found.asked, at.query_id

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

    def seen(self, source: TableSource, view: View) -> Ints:
        """The numbers of the rows that are seen, in their order. Shape (seen,)."""
        return np.arange(source.height, dtype=np.int64) if view.plain else self._positions(source, view)

    def column_seen(self, source: TableSource, name: str, view: View) -> tuple[TableColumn, Sequence[Any]] | None:
        """A column's heading with its values of the rows that are seen, in their order; ``None`` where there is no such
        column."""
        found = self._column(source, name)
        if found is None or view.plain:
            return found
        return found[0], picked(found[1], self._positions(source, view))

    def columns_seen(
        self, source: TableSource, names: Sequence[str], view: View
    ) -> dict[str, tuple[TableColumn, Sequence[Any]]]:
        """As :meth:`column_seen`, of several columns by their names, those that there are: of a snapshot read in one
        pass."""
        if isinstance(source, KeptTable) and source.height < USUAL.packed_from and len(names) > 1:
            headings = {one.name: one for one in source.columns}
            held = self._snapshots.columns(source.snapshot.id, [name for name in names if name in headings])
            seen = None if view.plain else self._positions(source, view)
            return {
                name: (headings[name], values if seen is None else picked(values, seen))
                for name, values in held.items()
            }
        found = {name: self.column_seen(source, name, view) for name in names}
        return {name: one for name, one in found.items() if one is not None}

    def find(self, source: TableSource, view: View, text: str) -> tuple[list[tuple[int, int]], int]:
        """The cells in which a text stands, by row as it is seen and column; the first ones, and how many there are."""
        if not text.strip():
            return [], 0
        likely = source.rows_with(text)
        if likely is None:
            return find_cells(self.all_rows(source, view), text, MOST_FOUND)
        seen = self.seen(source, view)
        places = np.flatnonzero(np.isin(seen, likely))
        found, total = find_cells(self._some_rows(source, seen[places]), text, MOST_FOUND)
        return [(int(places[row]), at) for row, at in found], total

    def _some_rows(self, source: TableSource, numbers: Ints) -> Iterator[tuple[Any, ...]]:
        for start in range(0, len(numbers), _CHUNK):
            yield from source.at(numbers[start : start + _CHUNK])

    def all_rows(self, source: TableSource, view: View) -> Iterator[tuple[Any, ...]]:
        """The rows of a table as it is looked at, one after the other."""
        if view.plain and isinstance(source, KeptTable):
            yield from self._snapshots.all_rows(source.snapshot.id)
            return
        seen = None if view.plain else self._positions(source, view)
        total = source.height if seen is None else len(seen)
        for start in range(0, total, _CHUNK):
            if seen is None:
                yield from source.window(start, _CHUNK)
            else:
                yield from source.at(seen[start : start + _CHUNK])

    def _column(self, source: TableSource, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A column; a long one of a snapshot is cached, packed, since as it is often sorted next."""
        if not isinstance(source, KeptTable) or source.height < USUAL.packed_from:
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
