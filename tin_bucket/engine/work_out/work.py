"""The lines of a brief, done to a table: of any date, with what other tables were on that date."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from threading import Event
from typing import Any

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.analysis.column_pairs import other_kinds
from tin_bucket.core.analysis.compare import Comparison
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.document.start import EveryDate, StartTables
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.expression.mistake import ExpressionError
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.core.work_out.sql import literal, sql
from tin_bucket.core.work_out.statement import Done, statement
from tin_bucket.core.work_out.steps import Columns, Made, Source, Step
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.workspace.sources import kept_sheet
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .apply import apply
from .changes_table import ChangesTable
from .doing import Doing
from .each_once import EachOnce
from .history_table import HistoryTable, not_too_long
from .laying import lay
from .match import match_of
from .row_memo import RowMemo
from .source import KeptTable, MemoryTable, TableSource
from .stage import Stage
from .steps.rows import chosen

_KEPT_HISTORIES = 4
MOST_CELLS = 30_000_000  # That lines made, in all tables that are kept together.


@dataclass(frozen=True, slots=True)
class LineDone:
    """What became of a line.

    Attributes:
        state: ``done``, ``off``, ``failed``, or ``waiting`` behind one that failed.
        stage: the table after it; that before it where it did nothing.
        problem: why it failed.
        place: where in the line's expression the mistake is, from and to, in characters.
        step: what it did to the table.
    """

    state: str
    stage: Stage
    problem: Problem | None = None
    place: tuple[int, int] | None = None
    step: Step | None = None

    def checked(self) -> LineDone:
        """Itself, where it was done.

        Raises:
            ProblemError: why it failed.
        """
        if self.problem is not None:
            raise ProblemError(self.problem)
        return self


class WorkOut:
    """Works tables out; what was worked out lately is cached by what would make it stale."""

    def __init__(self, workspace: Workspace, clock: Clock | None = None) -> None:
        self._workspace = workspace
        self._clock = clock or Clock()
        # A table of all dates is looked at window by window.
        self._histories: LockedCache[tuple[Any, ...], HistoryTable | MemoryTable] = LockedCache(_KEPT_HISTORIES)
        self._changed: LockedCache[tuple[Any, ...], ChangesTable] = LockedCache(_KEPT_HISTORIES)
        self._once: LockedCache[tuple[Any, ...], EachOnce] = LockedCache(_KEPT_HISTORIES)
        self._stages: LockedCache[tuple[Any, ...], tuple[Stage, Step]] = LockedCache(MOST_CELLS, _size)
        self._memo = RowMemo()
        self._sheets: LockedCache[tuple[str, str], MemoryTable] = LockedCache(4)

    def lines(
        self,
        table: TableSource,
        as_of: str,
        lines: Sequence[LineModel],
        query_id: int | None = None,
        stop: Event | None = None,
    ) -> tuple[Stage, list[LineDone]]:
        """Do lines to a table, one after the other. Behind one that fails, the table stays as it is before it.

        Args:
            as_of: the moment that the table is of, ISO 8601.
            query_id: the query whose lines these are; it cannot be a source of itself.
            stop: set when nobody waits any more.

        Returns:
            The table that the first line begins from, and what became of each line.
        """
        return self._lines(table, as_of, lines, () if query_id is None else (query_id,), stop)

    def table(
        self,
        table: TableSource,
        as_of: str,
        lines: Sequence[LineModel],
        query_id: int | None = None,
        stop: Event | None = None,
    ) -> TableSource:
        """A table with all lines done.

        Raises:
            ProblemError: of the first line that fails.
        """
        if not any(not line.off for line in lines):
            return table
        _, done = self.lines(table, as_of, lines, query_id, stop)
        if (failed := first_failure(done)) is not None:
            raise ProblemError(failed[1])
        return done[-1].stage

    def look(self, stage: Stage, rows: Ints, what: str) -> TableSource:
        """Some rows of a table, as a table."""
        digest = hashlib.blake2b(rows.tobytes(), digest_size=16).hexdigest()
        return chosen(stage, rows, ("look", stage.key, what, digest))

    def timeline(self, query: Query, stack: tuple[int, ...] = ()) -> list[Snapshot]:
        """The dates on which a query has a table, the oldest first: its snapshots; of a query that starts from tables
        those of all tables that it starts from."""
        if query.brief.start is None:
            return self._workspace.snapshots.of_query(query.id)
        found: dict[int, Snapshot] = {}
        for table in query.brief.start.tables:
            if table.query is not None and query.id not in stack:
                with suppress(ProblemError):  # A table that is gone has no dates.
                    other = self._workspace.queries.find(table.query)
                    found |= {one.id: one for one in self.timeline(other, (*stack, query.id))}
        return sorted(found.values(), key=lambda one: (one.taken, one.id))

    def dated(self, query: Query, snapshot: Snapshot | None) -> TableSource:
        """A query's table of one of its dates, with its lines done to it; the newest where none is said.

        Raises:
            ProblemError: as :meth:`other`.
        """
        if snapshot is None:
            return self.newest(query.name)
        if query.brief.start is not None:
            return self.other(Source(query.name), snapshot.taken, (), None)
        table = KeptTable(self._workspace.snapshots, snapshot.id)
        return self.table(table, snapshot.taken, query.brief.work_out, query.id)

    def newest(self, name: str) -> TableSource:
        """A query's newest table, with its lines done to it.

        Raises:
            ProblemError: as :meth:`other`.
        """
        query = self._workspace.queries.find(name)
        dates = self.timeline(query)
        return self.other(Source(query.name), dates[-1].taken if dates else self.undated(), (), None)

    def undated(self) -> str:
        """The moment of a table that has no date of its own, such as a sheet's: this hour, or the newest snapshot. It
        stays the same for a while, and so does what was worked out."""
        hour = self._clock.now().replace(minute=0, second=0, microsecond=0).isoformat()
        return max(hour, self._workspace.snapshots.newest_moment() or "")

    def start(self, start: StartTables, as_of: str, stack: tuple[int, ...], stop: Event | None = None) -> TableSource:
        """The table that a query starts from, as of a date: others, the rows of one below those of the other.

        Raises:
            ProblemError: as :meth:`other`.
        """
        if start.every_date is not None:
            return self._every_date(start.tables[0].source.name, start.every_date, as_of, stack, stop)
        first = self.other(start.tables[0].source, as_of, stack, stop)
        below = start.below()
        if below is None:
            return first
        if len(start.tables) == 1:
            stage = Stage.of(first, as_of)
            whose = Columns([Made(start.whose, sql(literal(start.tables[0].source.name)), "text")])
            return apply(whose, stage, Doing(lambda _: first, stop), ("whose", first.key, start.whose))
        return self._line(below, Stage.of(first, as_of), stack, stop).checked().stage

    def _every_date(
        self, name: str, every: EveryDate, as_of: str, stack: tuple[int, ...], stop: Event | None
    ) -> TableSource:
        """The table of all dates of a query up to a date.

        Raises:
            ProblemError: ``history-too-long``, and as :meth:`other`.
        """
        query = self._workspace.queries.find(name)
        newest = self.other(Source(query=name), as_of, stack, stop)  # Refuses circles, and what has no table.
        all_dates = [one for one in self.timeline(query, stack) if one.taken <= as_of]
        dates = all_dates
        if every.days is not None:
            first = (datetime.fromisoformat(as_of) - timedelta(days=every.days)).isoformat(timespec="seconds")
            dates = [one for one in dates if one.taken > first]
        if every.rows == "changes":
            # The first of them is laid over the one before it.
            before = all_dates[: len(all_dates) - len(dates)][-1:]
            return self._changes(query, [*before, *dates], every.column, newest, stack, stop)
        if query.brief.start is None and all(line.off for line in query.brief.work_out):
            key: tuple[Any, ...] = ("history", name, every.column, *((one.id, one.version) for one in dates))
            table = self._histories.get_or_make(key, lambda: HistoryTable(self._workspace, name, dates, every.column))
            heights = [one.rows for one in dates]
        else:
            table, heights = self._worked_dates(name, dates, every.column, newest, stack, stop)
        if every.rows == "all":
            return table
        match = self._match(query, dates, stack, stop)
        key = ("each once", table.key, *match)
        return self._once.get_or_make(key, lambda: EachOnce(table, [one.taken for one in dates], heights, match))

    def _match(self, query: Query, dates: Sequence[Snapshot], stack: tuple[int, ...], stop: Event | None) -> list[str]:
        """The columns that say which row of a query's table of some dates is which."""
        if not dates:
            return []
        match = query.brief.keep.match or dates[-1].match
        return match_of(match, self.of_query(query, dates[-1].taken, stack, stop)[1])

    def _changes(
        self,
        query: Query,
        dates: list[Snapshot],
        column: str,
        newest: TableSource,
        stack: tuple[int, ...],
        stop: Event | None,
    ) -> ChangesTable:
        """What each of some dates of a query brought against the one before it.

        Raises:
            ProblemError: ``history-too-long``.
        """
        parts = [(one, self.of_date(query, one, stack, stop)) for one in dates]
        match = self._match(query, dates, stack, stop)
        rules = query.brief.keep.alike
        told = ("changes", query.name, column, match, Judge(rules).key, *((at.id, part.key) for at, part in parts))
        digest = hashlib.blake2b(repr(told).encode("utf-8", "replace"), digest_size=16).hexdigest()
        key = ("changes", digest)

        def lay_over(then: TableSource, now: TableSource) -> Comparison:
            kinds = [name for name, *_ in other_kinds(then.columns, now.columns)]
            return lay(self._workspace.snapshots, then, now, match, Judge(rules, kinds))

        def make() -> ChangesTable:
            headings = _all_headings(parts, newest)
            return ChangesTable(key, query.name, parts, column, headings, match, lay_over)

        return self._changed.get_or_make(key, make)

    def _worked_dates(
        self,
        name: str,
        dates: list[Snapshot],
        column: str,
        newest: TableSource,
        stack: tuple[int, ...],
        stop: Event | None,
    ) -> tuple[HistoryTable | MemoryTable, list[int]]:
        """The same where lines are done to the table of each date, and how many rows each has."""
        query = self._workspace.queries.find(name)
        parts = [(one, self.of_date(query, one, stack, stop)) for one in dates]
        height = sum(one.height for _, one in parts)
        not_too_long(name, len(dates), height)
        told = ("worked dates", name, column, *((at.id, at.version, one.key) for at, one in parts))
        digest = hashlib.blake2b(repr(told).encode("utf-8", "replace"), digest_size=16).hexdigest()
        key = ("worked dates", digest)
        table = self._histories.get_or_make(key, lambda: _below_each_other(key, name, parts, column, newest))
        return table, [one.height for _, one in parts]

    def of_date(
        self, query: Query, snapshot: Snapshot, stack: tuple[int, ...], stop: Event | None = None
    ) -> TableSource:
        """A query's table of one of its dates, with its lines, as a part of another table; two dates of one second are
        told apart.

        Raises:
            ProblemError: as :meth:`other`.
        """
        if query.brief.start is not None:
            return self.other(Source(query=query.name), snapshot.taken, stack, stop)
        return without_totals(self.dated(query, snapshot))

    def other(self, source: Source, as_of: str, stack: tuple[int, ...], stop: Event | None) -> TableSource:
        """Another table: a query's as of a date, with its own lines done, or a sheet's.

        Raises:
            ProblemError: ``query-unknown``, ``sheet-unknown``, ``table-missing``, ``table-later``, ``circle``, or
                what is wrong with one of its lines.
        """
        if source.sheet is not None:
            return self._sheet(source.sheet)
        query = self._workspace.queries.find(source.query or "")
        if query.id in stack:
            chain = [self._workspace.queries.get(one).name for one in stack[stack.index(query.id) :]]
            path = " → ".join(f"“{name}”" for name in [*chain, query.name])
            raise fail(
                "circle",
                f"“{query.name}” would be made of itself: {path}.",
                where=f"query “{query.name}”",
                do="Choose another table, or take the line out that closes the circle.",
            )
        table, done = self.of_query(query, as_of, stack, stop)
        if not done:
            return table
        if (failed := first_failure(done)) is not None:
            number, problem = failed
            if problem.kind == "circle":
                raise ProblemError(problem)
            raise fail(
                "source-fails",
                f"Line {number} of “{query.name}” fails: {problem.what}",
                where=f"query “{query.name}”",
                do=problem.do,
            )
        return without_totals(done[-1].stage)

    def of_query(
        self, query: Query, as_of: str, stack: tuple[int, ...] = (), stop: Event | None = None
    ) -> tuple[TableSource, list[LineDone]]:
        """A query's table as of a date before its lines, and what becomes of them.

        Raises:
            ProblemError: as :meth:`other`, but of its own lines.
        """
        table: TableSource
        if query.brief.start is not None:
            table = self.start(query.brief.start, as_of, (*stack, query.id), stop)
        else:
            table = KeptTable(self._workspace.snapshots, self._as_of(query, as_of))
        lines = query.brief.work_out
        return table, self._lines(table, as_of, lines, (*stack, query.id), stop)[1] if lines else []

    def _as_of(self, query: Query, as_of: str) -> int:
        """The newest snapshot of a query at or before a moment."""
        found = self._workspace.snapshots.as_of(query.id, as_of)
        if found is not None:
            return found.id
        snapshots = self._workspace.snapshots.of_query(query.id)
        if not snapshots:
            raise fail(
                "table-missing",
                f"“{query.name}” has no table yet.",
                where=f"query “{query.name}”",
                do="Refresh it first.",
            )
        raise fail(
            "table-later",
            f"“{query.name}” has no snapshot as old as this table; its first one is of {snapshots[0].taken[:10]}.",
            where=f"query “{query.name}”",
            do="Look at a later date.",
        )

    def _sheet(self, name: str) -> MemoryTable:
        sheet = self._workspace.sheets.get(name)

        def read() -> MemoryTable:
            table = kept_sheet(self._workspace, name)
            names = list(table.headings)
            records = [one if isinstance(one, dict) else {} for one in table.records]
            data = [[record.get(one) for record in records] for one in names]
            columns = [TableColumn(one, guess_kind(values)) for one, values in zip(names, data, strict=True)]
            return MemoryTable(("sheet", name, sheet.added), columns, data, len(records))

        return self._sheets.get_or_make((name, sheet.added), read)

    def _lines(
        self, table: TableSource, as_of: str, lines: Sequence[LineModel], stack: tuple[int, ...], stop: Event | None
    ) -> tuple[Stage, list[LineDone]]:
        first = stage = Stage.of(table, as_of, self._memo)
        out: list[LineDone] = []
        failed = False
        for line in lines:
            if failed:
                out.append(LineDone("waiting", stage))
            elif line.off:
                out.append(LineDone("off", stage))
            else:
                one = self._line(line, stage, stack, stop)
                failed = one.problem is not None
                stage = one.stage
                out.append(one)
        return first, out

    def _line(self, line: LineModel, stage: Stage, stack: tuple[int, ...], stop: Event | None) -> LineDone:
        try:
            others = {one: self.other(one, stage.as_of, stack, stop) for one in line.sources()}
            key = (
                "worked", stage.key, stage.as_of, line.model_dump_json(exclude={"off"}),
                *(other.key for other in others.values()),
            )  # fmt: skip
            digest = ("worked", hashlib.blake2b(repr(key).encode("utf-8", "replace"), digest_size=16).hexdigest())

            def make() -> tuple[Stage, Step]:
                with collector_paused():
                    step = line.plan(stage.shape())
                    return apply(step, stage, Doing(others.__getitem__, stop), digest), step

            after, step = self._stages.get_or_make(digest, make)
            return LineDone("done", after, step=step)
        except ExpressionError as error:
            return LineDone("failed", stage, error.problem, (error.start, error.end))
        except ProblemError as error:
            return LineDone("failed", stage, error.problem)


def first_failure(done: Sequence[LineDone]) -> tuple[int, Problem] | None:
    """The number of the first line that failed, counted from 1, and why."""
    return next(((at, one.problem) for at, one in enumerate(done, 1) if one.problem is not None), None)


def statement_of(name: str, first: Stage, done: Sequence[LineDone]) -> str:
    """The lines as one SQL statement, as far as they could be done.

    Args:
        name: what the first table is called in it.
    """
    steps: list[Done] = []
    before = first
    for one in done:
        if one.step is not None:
            others = [[column.name for column in other.columns] for other in one.stage.others]
            steps.append(Done(one.step, before.names, one.stage.names, others))
        before = one.stage
    return statement(name, first.names, steps)


def _size(made: tuple[Stage, Step]) -> int:
    """How much a table after a line holds of its own, in cells."""
    stage = made[0]
    own = sum(isinstance(cells.rows, np.ndarray) for cells in stage.cells) and stage.height
    return 1_000 + own + stage.height * max(1, len(stage.lit))


def _below_each_other(
    key: tuple[Any, ...],
    name: str,
    parts: Sequence[tuple[Snapshot, TableSource]],
    column: str,
    newest: TableSource,
) -> MemoryTable:
    """The tables of some dates as one, with the date as its first column.

    Args:
        name: the query whose tables these are.
        parts: the dates, the oldest first.
        column: what the column of the date is called, where no other one is called so.
        newest: the table whose headings are the truest.
    """
    known = {one.name: one for one in _all_headings(parts, newest)}
    own = free_name(column, set(known))
    data: dict[str, list[Any]] = {heading: [] for heading in (own, *known)}
    for snapshot, part in parts:
        data[own] += [snapshot.taken] * part.height
        for heading in known:
            found = part.column(heading)
            data[heading] += list(found[1]) if found is not None else [None] * part.height
    # How many rows of one date have a value says nothing of all.
    others = [replace(one, filled=None, nulls=None) for one in known.values()]
    columns = [TableColumn(own, "date and time", origin="brought in", source=name), *others]
    return MemoryTable(key, columns, list(data.values()), len(data[own]))


def without_totals(table: TableSource) -> TableSource:
    """A table without its last row where that holds totals: a row of all others is none of them."""
    if not isinstance(table, Stage) or not table.totals:
        return table
    return chosen(table, np.arange(table.height - 1, dtype=np.int64), ("rows", table.key))


def _all_headings(parts: Sequence[tuple[Snapshot, TableSource]], newest: TableSource) -> list[TableColumn]:
    """The columns of all dates; the newest headings are the truest, and older columns stand behind them."""
    known = {one.name: one for one in newest.columns}
    for _, part in reversed(parts):
        for one in part.columns:
            known.setdefault(one.name, one)
    return list(known.values())
