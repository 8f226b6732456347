"""The tables of a report: of each query that of a date, and that of the date that it is held against."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.view import Between, Condition, OneOf, View
from tin_bucket.core.columns.compressed import USUAL
from tin_bucket.core.columns.readings import Floats, numbers_of
from tin_bucket.core.formats.durations import parse_duration, shift_date
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.report.figure import Moves, Where
from tin_bucket.core.report.model import ReportChoice
from tin_bucket.core.report.seen import SourceSeen
from tin_bucket.core.report.words import date_value_words
from tin_bucket.core.schedule.due import newest_due
from tin_bucket.core.table.table import TableColumn
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.tables.browse import Tables
from tin_bucket.engine.tables.compared_tables import ComparedTables
from tin_bucket.engine.tables.comparisons import Comparisons
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.engine.tables.up_to import up_to
from tin_bucket.engine.work_out.source import HeldTable, KeptTable, TableSource, held_of_another
from tin_bucket.engine.work_out.work import without_totals
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

NOT_HELD = "none"
_CELLS = 6_000_000  # That columns which were read lately have together.
_PATIENCE = timedelta(minutes=15)  # A refresh that is due no longer than that is under way.


@dataclass(frozen=True, slots=True)
class Dates:
    """Which dates a report is read on.

    Attributes:
        as_of: a day or a moment, ISO 8601; the newest tables where empty.
        against: a day, a moment, ``before`` for the date before, or an ISO 8601 duration before; ``none`` for no other
            date.
    """

    as_of: str = ""
    against: str = NOT_HELD


class RowsAt:
    """A table as figures read it: as of a date, with what the reader chose."""

    def __init__(
        self,
        tables: Tables,
        source: TableSource,
        taken: str,
        chosen: list[Condition],
        moves: Callable[[], Moves | None],
    ) -> None:
        self._tables = tables
        self.source = without_totals(source)
        self.taken = taken
        self.chosen = chosen
        self.moves = moves
        self._numbers: dict[tuple[str, str], tuple[Floats, int]] = {}

    @property
    def key(self) -> tuple[Any, ...]:
        """What tells it from others."""
        return (self.source.key, View(where=self.chosen).model_dump_json())

    @property
    def beside(self) -> HeldTable | None:
        """The table, where some of its columns were read in one pass."""
        return self.source if isinstance(self.source, HeldTable) else None

    def view(self, where: Where) -> View:
        """How the rows are seen that meet all conditions."""
        return View(where=[*self.chosen, *where])

    def count(self, where: Where) -> int:
        """How many rows meet all conditions."""
        return len(self._tables.seen(self.source, self.view(where)))

    def column(self, name: str, where: Where) -> tuple[TableColumn, Sequence[Any]] | None:
        """A column's heading, and its cells in the rows that meet all conditions."""
        return self._tables.column_seen(self.source, name, self.view(where))

    def numbers(self, name: str, where: Where) -> tuple[Floats, int]:
        """The numbers of a column in these rows."""
        key = (name, self.view(where).model_dump_json())
        if key not in self._numbers:
            found = self.column(name, where)
            self._numbers[key] = numbers_of(found[1] if found is not None else [])
        return self._numbers[key]


class QueryRead:
    """A query as a report reads it: opened once, whatever is asked of it."""

    def __init__(
        self,
        parts: ReportParts,
        query_id: int,
        dates: Dates,
        choices: Sequence[tuple[ReportChoice, str]],
        reads: Sequence[str] = (),
    ) -> None:
        """
        Args:
            reads: the columns that are read from top to bottom.
        """
        self._parts = parts
        self._reads = reads
        self._dates = dates
        self._choices = choices
        self.query_id = query_id
        self.query: Query | None = None
        self.problem = ""
        self.then_problem = ""
        self.snapshot: Snapshot | None = None
        self.then: Snapshot | None = None
        self.is_newest = True
        try:
            self.query = parts.workspace.queries.get(query_id)
            self._find(self.query)
        except ProblemError as error:
            self.problem = "It was deleted." if self.query is None else error.problem.what

    def _find(self, query: Query) -> None:
        dates = self._parts.tables.work_out.timeline(query)
        zone = self._parts.clock.zone()
        if dates:
            self.snapshot = _dated(dates, self._dates.as_of, zone, "as of") if self._dates.as_of else dates[-1]
            if self.snapshot is None:
                self.problem = f"There is no table as old as {self._said(self._dates.as_of)}."
                return
            self.is_newest = self.snapshot.id == dates[-1].id
            self.then = self._other(dates, self.snapshot)
        elif query.brief.start is None:
            self.problem = "There is no table yet."

    def _other(self, dates: Sequence[Snapshot], now: Snapshot) -> Snapshot | None:
        against = self._dates.against
        if against in ("", NOT_HELD):
            return None
        earlier = [one for one in dates if (one.taken, one.id) < (now.taken, now.id)]
        if against == "before":
            found = earlier[-1] if earlier else None
        elif against.startswith("P"):
            zone = self._parts.clock.zone()
            day = datetime.fromisoformat(now.taken).astimezone(zone).date()
            if len(self._dates.as_of) == 10:
                day = date.fromisoformat(self._dates.as_of)
            found = _dated(earlier, shift_date(day, parse_duration(f"-{against}")).isoformat(), zone, "against")
        else:
            found = _dated(earlier, against, self._parts.clock.zone(), "against")
        if found is None:
            self.then_problem = "There is no other date to hold it against."
        return found

    def _said(self, text: str) -> str:
        return date_value_words(text, self._parts.clock.zone(), self._parts.clock.here())

    @cached_property
    def rows(self) -> RowsAt | None:
        """The table; nothing where there is none, and why is in `problem`."""
        return self._open(self.snapshot, self.moves) if not self.problem else None

    @cached_property
    def then_rows(self) -> RowsAt | None:
        """The table of the other date."""
        return self._open(self.then, lambda: None) if self.then is not None else None

    def _open(self, snapshot: Snapshot | None, moves: Callable[[], Moves | None]) -> RowsAt | None:
        assert self.query is not None
        try:
            source = self._parts.tables.work_out.dated(self.query, snapshot)
        except ProblemError as error:
            if snapshot is self.snapshot:
                self.problem = error.problem.what
            else:
                self.then_problem = error.problem.what
            return None
        if isinstance(source, KeptTable) and len(self._reads) > 1:
            beside = self.rows.beside if snapshot is not self.snapshot and self.rows is not None else None
            source = self._parts.held(source, self._reads, beside)
        taken = snapshot.taken if snapshot is not None else self._parts.clock.now().isoformat()
        names = {one.name for one in source.columns}
        chosen = [_condition(one, value) for one, value in self._choices if value and one.column in names]
        return RowsAt(self._parts.tables, source, taken, chosen, moves)

    @cached_property
    def compared(self) -> ComparedTables | None:
        """The two dates laid over each other; nothing where there is no other one."""
        if self.snapshot is None or self.then is None or self.query is None:
            return None
        asked = two_dates(self.then.id, self.snapshot.id, "today", self.query.id)
        return self._parts.comparisons.compare(asked)

    @property
    def days_apart(self) -> int:
        """How many days there are between the two dates where this machine is."""
        if self.snapshot is None or self.then is None:
            return 0
        zone = self._parts.clock.zone()
        now, then = (datetime.fromisoformat(one.taken).astimezone(zone) for one in (self.snapshot, self.then))
        return (now.date() - then.date()).days

    def moves(self) -> Moves | None:
        """What differs between the two dates."""
        laid = self.compared
        if laid is None:
            return None
        return Moves(laid.found.counts(), {one.name: one for one in laid.found.columns})

    def seen(self) -> SourceSeen:
        """As the margin says it."""
        rows = self.rows
        if self.query is None:
            return SourceSeen(self.query_id, "a query that is gone", notes=(self.problem,))
        told: list[str] = []
        if rows is None:
            return SourceSeen(self.query_id, self.query.name, notes=(self.problem,))
        if self._dates.against not in ("", NOT_HELD) and self.then is None:
            told.append(self.then_problem or "There is no other date to hold it against.")
        else:
            told.extend(self._other_day())
        names = {one.name for one in rows.source.columns}
        told.extend(
            f"It has no column “{one.column}”: {one.name} changes nothing here."
            for one, value in self._choices
            if value and one.column not in names
        )
        snapshot = self.snapshot
        return SourceSeen(
            self.query_id,
            self.query.name,
            snapshot.id if snapshot is not None else None,
            self.then.id if self.then is not None else None,
            rows.taken,
            self.then.taken if self.then is not None else "",
            _state(snapshot),
            rows.source.height,
            snapshot.evidence if snapshot is not None and snapshot.state == "incomplete" else "",
            self._old(self.query, snapshot) if not self._dates.as_of else "",
            tuple(dict.fromkeys(told)),
        )

    def _other_day(self) -> list[str]:
        """That a day which was asked for has no table of its own."""
        zone = self._parts.clock.zone()
        out = []
        for asked, found in ((self._dates.as_of, self.snapshot), (self._dates.against, self.then)):
            if len(asked) == 10 and asked[0].isdigit() and found is not None:
                day = datetime.fromisoformat(found.taken).astimezone(zone).date().isoformat()
                if day != asked:
                    out.append(f"There is no table of {self._said(asked)}; this is of {self._said(day)}.")
        return out

    def _old(self, query: Query, snapshot: Snapshot | None) -> str:
        """Why the newest table is older than it should be; empty where it is not."""
        if snapshot is None:
            return ""
        here = self._parts.clock.here()
        run = next(iter(self._parts.workspace.runs.latest(query.id, most=1)), None)
        if run is not None and run.state in ("failed", "interrupted", "cancelled") and run.started > snapshot.taken:
            return f"Its refresh of {self._said(run.started)} {_ENDED[run.state]}."
        keep = query.brief.keep
        if keep.schedule is None or keep.paused:
            return ""
        since = max(self._parts.workspace.queries.saved(query.id), datetime.fromisoformat(snapshot.taken))
        due = newest_due(keep.schedule, since, here - _PATIENCE)
        return f"A refresh was due on {self._said(due.isoformat())}." if due is not None else ""


_ENDED = {"failed": "failed", "interrupted": "broke off", "cancelled": "was stopped"}


@dataclass(frozen=True, slots=True)
class ReportParts:
    """What reports are read with."""

    workspace: Workspace
    tables: Tables
    comparisons: Comparisons
    clock: Clock
    _columns: LockedCache[tuple[Any, ...], list[Any]] = field(
        default_factory=lambda: LockedCache(_CELLS, lambda values: len(values))
    )

    def held(self, table: KeptTable, names: Sequence[str], beside: HeldTable | None = None) -> TableSource:
        """A table with some of its columns read in one pass; what was read lately is kept. Of a long table each column
        is read by itself, and kept packed.

        Args:
            beside: the table of another date, whose rows are not read again.
        """
        if table.height >= USUAL.packed_from:
            return table
        there = {one.name for one in table.columns}
        wanted = [name for name in names if name in there]
        known = {name: self._columns.get((table.key, name)) for name in wanted}
        missing = [name for name, values in known.items() if values is None]
        read: dict[str, list[Any]] | None = None
        if missing and beside is not None and all(name in beside.held for name in missing):
            read = held_of_another(table, beside, missing)
        if missing and read is None:
            read = self.workspace.snapshots.columns(table.snapshot.id, missing)
        for name, values in (read or {}).items():
            known[name] = values
            self._columns.put((table.key, name), values)
        return HeldTable(table, {name: values for name, values in known.items() if values is not None})


def _state(snapshot: Snapshot | None) -> Any:
    if snapshot is None:
        return "complete"
    return snapshot.state if snapshot.state in ("complete", "unverified", "incomplete") else "unverified"


def _dated(dates: Sequence[Snapshot], text: str, zone: Any, what: str) -> Snapshot | None:
    try:
        return up_to(dates, text, zone)
    except ValueError as error:
        raise fail(
            "date-unreadable", f"“{text[:40]}” is no date.", where=what, do="Choose a date, or write one as 2026-11-20."
        ) from error


def _condition(choice: ReportChoice, value: str) -> Condition:
    if choice.how == "is":
        return OneOf(column=choice.column, values=[value])
    if choice.how == "from":
        return Between(column=choice.column, low=value)
    return Between(column=choice.column, high=value)


def with_notes(seen: SourceSeen, notes: Sequence[str]) -> SourceSeen:
    """A source with further notes."""
    return replace(seen, notes=tuple(dict.fromkeys([*seen.notes, *notes]))) if notes else seen
