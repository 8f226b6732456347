"""The tables that feeds hand over: of a date, with the lines done, and of them the rows that a feed wants."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW, Comparison
from tin_bucket.core.document.query import Brief
from tin_bucket.core.hand_over.feed import FeedModel
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.tables.browse import TableAt, Tables
from tin_bucket.engine.work_out.laying import compare_tables
from tin_bucket.engine.work_out.match import match_of, match_of_start
from tin_bucket.engine.work_out.source import MemoryTable, TableSource
from tin_bucket.feeds.delivery import Dated, DateOf, Picked, Shown, With, first_rows
from tin_bucket.feeds.workbook.rows import TableRows
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

CHANGE = "change"


@dataclass(frozen=True, slots=True)
class HandedTable:
    """A table that is handed over.

    Attributes:
        dated: the table, or the rows of it that are wanted.
        snapshot: the date; ``None`` for a table of sheets alone, which has none.
        match: the columns whose values say which row is which.
        whole: whether it has all rows.
    """

    dated: Dated
    snapshot: Snapshot | None
    match: list[str]
    whole: bool


class HandedTables:
    """Makes the tables that feeds hand over."""

    def __init__(self, workspace: Workspace, tables: Tables, clock: Clock) -> None:
        self._workspace, self._tables, self._clock = workspace, tables, clock

    def newest(self, query: Query) -> Snapshot | None:
        """The newest date of a query; ``None`` where it has none."""
        dates = self._tables.work_out.timeline(query)
        return dates[-1] if dates else None

    def of(self, query: Query, feed: FeedModel, last: int | None, snapshot: Snapshot | None = None) -> HandedTable:
        """The rows that a feed wants of a query's newest table, or of that of a date.

        Args:
            last: the snapshot that was handed over last.

        Raises:
            ProblemError: ``nothing-to-hand-over``, or what is wrong with a line.
        """
        snapshot = snapshot or self.newest(query)
        table, match = self._worked(query, snapshot)
        rows: TableRows = table
        if feed.rows != "all":
            rows = self._differing(query, feed, snapshot, last, table, match)
        dated = self._dated(query, snapshot, first_rows(Shown(rows), feed.most))
        shown = {column.name for column in dated.rows.columns}
        whole = feed.rows == "all" and feed.most is None
        return HandedTable(dated, snapshot, [name for name in match if name in shown], whole)

    def other(self, name: str) -> Dated:
        """The newest table of another query.

        Raises:
            ProblemError: ``query-unknown``, ``nothing-to-hand-over``, or what is wrong with a line.
        """
        query = self._workspace.queries.find(name)
        snapshot = self.newest(query)
        return self._dated(query, snapshot, Shown(self._worked(query, snapshot)[0]))

    def dates(self, query: Query) -> list[DateOf]:
        """All dates of a query, from the oldest."""

        def date_of(snapshot: Snapshot) -> DateOf:
            def read() -> Dated:
                return self._dated(query, snapshot, Shown(self._worked(query, snapshot)[0]))

            return DateOf(str(snapshot.id), self._local(snapshot.taken), snapshot.state, read)

        return [date_of(snapshot) for snapshot in self._tables.work_out.timeline(query)]

    def _worked(self, query: Query, snapshot: Snapshot | None) -> tuple[TableSource, list[str]]:
        """The table of a date with its lines done, and its match columns."""
        brief = query.brief
        if snapshot is None and brief.start is None:
            raise fail(
                "nothing-to-hand-over",
                f"“{query.name}” has no table yet.",
                where=f"query “{query.name}”",
                do="Refresh it first.",
            )
        number = snapshot.id if snapshot is not None else None
        at = TableAt(number, lines=brief.work_out, query_id=query.id, start=brief.start)
        table = self._tables.source(at)
        match = brief.keep.match
        if not match and brief.start is not None:
            as_of = snapshot.taken if snapshot is not None else self._tables.work_out.undated()
            match = match_of_start(self._workspace, self._tables.work_out, brief.start, as_of)
        return table, match_of(match, self._tables.worked(at)[1])

    def _differing(
        self,
        query: Query,
        feed: FeedModel,
        snapshot: Snapshot | None,
        last: int | None,
        table: TableSource,
        match: list[str],
    ) -> TableRows:
        """The rows that are new, or differ, since the last time or for some days; all are new the first time."""
        then = self._then(query, feed, snapshot, last)
        old = None if then is None else self._worked(query, then)[0]
        return differing(old, table, match, new_only=feed.rows == "new")

    def live(self, query: Query, snapshot: Snapshot | None, since: Snapshot | None) -> tuple[TableSource, list[str]]:
        """The table of a date with its match columns; or what differs in it since another date.

        Raises:
            ProblemError: ``nothing-to-hand-over``, or what is wrong with a line.
        """
        table, match = self._worked(query, snapshot)
        if since is None or snapshot is None:
            return table, match
        old = self._worked(query, since)[0]
        rows = differing(old, table, match)
        data = list(zip(*rows.window(0, rows.height), strict=True)) or [() for _ in rows.columns]
        key = ("differs", old.key, table.key, *match)
        return MemoryTable(key, list(rows.columns), data, rows.height), match

    def _then(self, query: Query, feed: FeedModel, snapshot: Snapshot | None, last: int | None) -> Snapshot | None:
        if snapshot is None:
            return None
        dates = [one for one in self._tables.work_out.timeline(query) if one.taken < snapshot.taken]
        if feed.since_days is not None:
            since = datetime.fromisoformat(snapshot.taken) - timedelta(days=feed.since_days)
            before = [one for one in dates if datetime.fromisoformat(one.taken) <= since]
            # Where nothing is that old, the oldest that there is.
            return before[-1] if before else (dates[0] if dates else None)
        return next((one for one in dates if one.id == last), None)

    def _dated(self, query: Query, snapshot: Snapshot | None, rows: TableRows) -> Dated:
        if snapshot is None:
            return Dated(query.name, self._clock.here(), "complete", "", rows, self._source(query.brief))
        taken = self._local(snapshot.taken)
        return Dated(query.name, taken, snapshot.state, snapshot.evidence, rows, self._source(query.brief))

    def _local(self, moment: str) -> datetime:
        return datetime.fromisoformat(moment).astimezone(self._clock.zone())

    def _source(self, brief: Brief) -> str:
        """Where a table comes from, in words."""
        if brief.ask is not None:
            service = self._workspace.services.get(brief.ask.service)
            return f"{service.name}, {brief.ask.method} {brief.ask.path}"
        if brief.sheet is not None:
            return f"the sheet {brief.sheet.sheet or brief.sheet.files}"
        tables = brief.start.tables if brief.start is not None else []
        return ", ".join(table.source.name for table in tables)


def differing(old: TableSource | None, table: TableSource, match: list[str], new_only: bool = False) -> TableRows:
    """The rows of a table that are not in an older one; with those that are gone and a column that says which, unless
    new ones alone are wanted.

    Args:
        old: the older table; without one, all rows are new.
    """
    wanted = (NEW,) if new_only else (NEW, CHANGED, GONE)
    if old is None:
        states = np.full(table.height, NEW, dtype=np.int8)
        found = Comparison(states, np.full(table.height, -1), np.arange(table.height, dtype=np.int64))
    else:
        found = compare_tables(old, table, match)
    chosen = np.flatnonzero(np.isin(found.state, wanted)).astype(np.int64)
    if new_only:
        return Picked(table, found.now_row[chosen])
    words = {NEW: "new", CHANGED: "changed", GONE: "gone"}
    told = [words[int(state)] for state in found.state[chosen]]
    before: TableRows = table if old is None else _InOrder(old, table.columns)
    both = _Both(table, before, found.now_row[chosen], found.then_row[chosen])
    return With(both, TableColumn(CHANGE, "text"), told, first=True)


class _InOrder:
    """A table with the columns of another one, in its order; a column that it lacks is blank."""

    def __init__(self, rows: TableRows, columns: list[TableColumn]) -> None:
        at = {column.name: number for number, column in enumerate(rows.columns)}
        self._rows, self._places = rows, [at.get(column.name) for column in columns]

    @property
    def columns(self) -> list[TableColumn]:
        """Not asked for: those of the other table."""
        return list(self._rows.columns)

    @property
    def height(self) -> int:
        """The number of rows."""
        return self._rows.height

    def window(self, start: int, count: int) -> list[tuple[object, ...]]:
        """Some rows, one after the other."""
        return self._ordered(self._rows.window(start, count))

    def at(self, numbers: Ints) -> list[tuple[object, ...]]:
        """The rows of some numbers."""
        return self._ordered(self._rows.at(numbers))

    def _ordered(self, rows: list[tuple[object, ...]]) -> list[tuple[object, ...]]:
        return [tuple([None if place is None else row[place] for place in self._places]) for row in rows]


class _Both:
    """Rows of a table now, and of the table then for those that are gone."""

    def __init__(self, now: TableRows, then: TableRows, now_rows: Ints, then_rows: Ints) -> None:
        self._now, self._then = now, then
        self._now_rows, self._then_rows = now_rows, then_rows
        self.columns = now.columns
        self.height = len(now_rows)

    def window(self, start: int, count: int) -> list[tuple[object, ...]]:
        """Some rows, one after the other."""
        return self.at(np.arange(start, min(start + count, self.height), dtype=np.int64))

    def at(self, numbers: Ints) -> list[tuple[object, ...]]:
        """The rows of some numbers."""
        now, then = self._now_rows[numbers], self._then_rows[numbers]
        here = iter(self._now.at(now[now >= 0]) if bool((now >= 0).any()) else [])
        gone = iter(self._then.at(then[now < 0]) if bool((now < 0).any()) else [])
        return [next(here) if number >= 0 else next(gone) for number in now.tolist()]
