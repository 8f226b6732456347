"""Tables that readers take by themselves: by the name of their address, as of a date, or what changed since one."""

from __future__ import annotations

from collections.abc import Callable, Sequence, Set
from dataclasses import dataclass
from datetime import datetime
from itertools import islice
from operator import lt
from typing import Any

from tin_bucket.cache import LockedCache
from tin_bucket.core.hand_over.kinds.address import AddressFeed
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.tables.browse import Tables
from tin_bucket.engine.tables.up_to import up_to
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.engine.work_out.work import first_failure
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .handed_tables import HandedTables


@dataclass(frozen=True, slots=True)
class LiveTable:
    """A table as a reader asks for it.

    Attributes:
        snapshot: the date; ``None`` for a table of sheets alone.
        taken: when that was, with its zone.
        source: the table, with the lines done.
        match: the columns whose values say which row is which.
    """

    name: str
    query: Query
    feed: AddressFeed
    snapshot: Snapshot | None
    taken: datetime
    source: TableSource
    match: list[str]

    @property
    def state(self) -> str:
        """Whether it is complete."""
        return self.snapshot.state if self.snapshot is not None else "complete"


class LiveTables:
    """Finds and opens the tables of live addresses."""

    def __init__(self, workspace: Workspace, tables: Tables, clock: Clock) -> None:
        self._workspace, self._tables, self._clock = workspace, tables, clock
        self._handed = HandedTables(workspace, tables, clock)
        self._names: LockedCache[int, dict[str, list[int]]] = LockedCache(2)
        self._unique: LockedCache[tuple[object, ...], bool] = LockedCache(50)

    def names(self) -> dict[str, list[int]]:
        """The names of all addresses that are switched on → the queries that have them; more than one is a mistake."""

        def read() -> dict[str, list[int]]:
            found: dict[str, list[int]] = {}
            for query in self._workspace.queries.all():
                for feed in query.brief.hand_over:
                    if isinstance(feed, AddressFeed) and not feed.off:
                        found.setdefault(feed.name, []).append(query.id)
            return found

        return self._names.get_or_make(self._workspace.queries.version(), read)

    def open(self, name: str, on: str = "", since: str = "") -> LiveTable:
        """A table by the name of its address.

        Args:
            on: a day or moment, ISO 8601: the newest table up to then.
            since: a day or moment: what differs from the table of then.

        Raises:
            ProblemError: ``address-unknown``, ``address-twice``, ``date-unreadable``, ``date-unknown``, or what is
                wrong with a line.
        """
        ids = self.names().get(name, [])
        if not ids:
            raise fail(
                "address-unknown",
                f"No table is at the address “{name[:80]}”.",
                where=f"/tables/{name[:80]}",
                do="Switch the address on in the line “Hand over” of its query.",
            )
        if len(ids) > 1:
            told = " and ".join(f"“{self._workspace.queries.get(one).name}”" for one in ids[:3])
            raise fail(
                "address-twice",
                f"Several queries have the address “{name}”: {told}.",
                where=f"/tables/{name}",
                do="Give one of them another name.",
            )
        query = self._workspace.queries.get(ids[0])
        feed = next(one for one in query.brief.hand_over if isinstance(one, AddressFeed) and one.name == name)
        dates = self._tables.work_out.timeline(query)
        snapshot = self._up_to(dates, on, "on") if on else (dates[-1] if dates else None)
        then = self._up_to(dates, since, "since") if since else None
        source, match = self._handed.live(query, snapshot, then)
        taken = self._local(snapshot.taken) if snapshot is not None else self._clock.here()
        return LiveTable(name, query, feed, snapshot, taken, source, match)

    def at(self, table: LiveTable, snapshot_id: int) -> LiveTable:
        """The same table as of one of its dates.

        Raises:
            ProblemError: ``date-unknown``.
        """
        dates = self._tables.work_out.timeline(table.query)
        snapshot = next((one for one in dates if one.id == snapshot_id), None)
        if snapshot is None:
            raise fail("date-unknown", "This date is not kept any more.", where="page", do="Begin with the first page.")
        source, match = self._handed.live(table.query, snapshot, None)
        taken = self._local(snapshot.taken)
        return LiveTable(table.name, table.query, table.feed, snapshot, taken, source, match)

    def _local(self, moment: str) -> datetime:
        return datetime.fromisoformat(moment).astimezone(self._clock.zone())

    def _up_to(self, dates: Sequence[Snapshot], text: str, what: str) -> Snapshot:
        """The newest date up to a day or a moment."""
        try:
            found = up_to(dates, text, self._clock.zone())
        except ValueError as error:
            raise fail(
                "date-unreadable", f"“{text[:40]}” is no date.", where=what, do=f"Write {what}=2026-11-20."
            ) from error
        if found is None:
            oldest = f"The oldest is of {self._local(dates[0].taken):%Y-%m-%d}." if dates else "There is none."
            raise fail("date-unknown", f"No table is as old as {text}. {oldest}", where=what, do="Name a later date.")
        return found

    def with_lines(self, table: LiveTable, lines: Sequence[LineModel]) -> tuple[TableSource, Callable[[int], int]]:
        """The table with further lines done to it, none of which puts rows together; what was done lately is kept.

        Returns:
            The table, and what gives the row of the whole table that one of its rows is.

        Raises:
            ProblemError: what is wrong with a line.
        """
        if not lines:
            return table.source, lambda row: row
        as_of = table.snapshot.taken if table.snapshot is not None else self._tables.work_out.undated()
        _, done = self._tables.work_out.lines(table.source, as_of, lines)
        if (failed := first_failure(done)) is not None:
            raise ProblemError(failed[1])

        def whole(row: int) -> int:
            for one in reversed(done):
                row = int(one.stage.behind(row)[0])
            return row

        return done[-1].stage, whole

    def tells_apart(self, table: LiveTable) -> list[str]:
        """The match columns, where their values are there and tell all rows apart; else none."""
        match = table.match
        if not match:
            return []

        def look() -> bool:
            with collector_paused():
                columns = [found[1] for name in match if (found := table.source.column(name)) is not None]
                if len(columns) != len(match):
                    return False
                return _all_differ(columns, table.source.height)

        return list(match) if self._unique.get_or_make((table.source.key, *match), look) else []


def _all_differ(columns: list[Sequence[Any]], height: int) -> bool:
    """Whether no row is blank in these columns, and no two rows are alike in them."""
    if len(columns) == 1 and _rises(columns[0]):
        return True
    keys: Set[Any] = set(columns[0]) if len(columns) == 1 else set(zip(*columns, strict=True))
    if len(keys) != height:
        return False
    return None not in keys if len(columns) == 1 else not any(None in one for one in keys)


def _rises(values: Sequence[Any]) -> bool:
    """Whether each value is more than the one before, as ids often are: then no two are alike."""
    try:
        return len(values) > 1 and all(map(lt, values, islice(values, 1, None)))
    except TypeError:
        return False  # Blank ones, or numbers among texts.
