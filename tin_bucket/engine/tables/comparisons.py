"""Comparisons of two snapshots of a query, and windows of the merged table."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.compare import CHANGED, GONE, SAME, STATES, Comparison, compare, difference
from tin_bucket.core.analysis.difference_size import SizeFilter, difference_sizes, wanted
from tin_bucket.core.analysis.view import rows_with_text
from tin_bucket.core.document.made_with import other_values
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.engine.work_out.match import match_of, match_of_start
from tin_bucket.engine.work_out.source import KeptTable, TableSource, picked, rows_of
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .browse import TableAt, Tables

Reading = Literal["today", "then", "taken"]
"""Which work-out lines are done to tables that are compared."""
RowsShown = Literal["differs", "all", "same", "new", "gone", "changed"]
"""Which rows of a merged table are looked at: all that differ, all, or those of a state."""
_KEPT = 16
_KEPT_CHOICES = 4  # Of a million rows each takes 8 MB.
_SEARCHED = 4_096  # Rows that are searched at once.
_TOGETHER = 2_000  # Rows that are read at once.
_WORDS = {number: word for word, number in STATES.items()}


@dataclass(frozen=True, slots=True)
class RowChoice:
    """Which rows of a merged table are wanted.

    Attributes:
        show: all that differ, all, or those of a state.
        column: the rows that changed in this column alone, whatever `show` says; all when empty.
        size: which of these changes, where a column is named.
        find: a text that stands in a cell that is seen, now or then.
    """

    show: RowsShown = "differs"
    column: str = ""
    size: SizeFilter = field(default_factory=SizeFilter)
    find: str = ""


@dataclass(frozen=True, slots=True)
class MergedRow:
    """A row of the merged table: its state, its cells now and then, and the numbers of the columns that changed."""

    state: str
    now: tuple[Any, ...] | None
    then: tuple[Any, ...] | None
    changed: list[int]


@dataclass(frozen=True, slots=True)
class Side:
    """One of the two tables of a comparison.

    Attributes:
        snapshot: whose table it is.
        table: the table, with lines done to it.
        match: the columns whose values say which row is which.
    """

    snapshot: Snapshot
    table: TableSource
    match: list[str]

    @property
    def columns(self) -> list[TableColumn]:
        """Its headings."""
        return self.table.columns


class Comparisons:
    """Compares snapshots; the latest comparisons are kept, each for just the contents that it is of."""

    def __init__(self, workspace: Workspace, tables: Tables) -> None:
        self._workspace = workspace
        self._tables = tables
        self._kept: LockedCache[tuple[Any, ...], Comparison] = LockedCache(_KEPT)
        self._wanted: LockedCache[tuple[Any, ...], Ints] = LockedCache(_KEPT_CHOICES)

    def compare(
        self, then_id: int, now_id: int, reading: Reading = "taken", query_id: int | None = None
    ) -> tuple[Side, Side, Comparison]:
        """The two tables and what happened between them.

        Args:
            reading: which work-out lines are done to them: those of the saved brief, those of the brief that each was
                made with, or none.
            query_id: a query that starts from tables, whose dates these are.

        Raises:
            ProblemError: ``snapshot-unknown``, ``snapshots-apart``, or what is wrong with a line.
        """
        with self._workspace.read_together():
            then, now = self._workspace.snapshots.get(then_id), self._workspace.snapshots.get(now_id)
            start = self._workspace.queries.get(query_id) if query_id is not None else None
            if start is not None and start.brief.start is not None:
                old, new = self._started(start, then, reading), self._started(start, now, reading)
                return old, new, self._of_tables(old, new)
            if then.query_id != now.query_id:
                self._workspace.snapshots.compare(then_id, now_id)  # Says that they are apart.
            old, new = self._side(then, reading), self._side(now, reading)
            if isinstance(old.table, KeptTable) and isinstance(new.table, KeptTable):
                found = self._kept.get_or_make(
                    (then_id, then.version, now_id, now.version),
                    lambda: self._workspace.snapshots.compare(then_id, now_id),
                )
                return old, new, found
            return old, new, self._of_tables(old, new)

    def _of_tables(self, old: Side, new: Side) -> Comparison:
        match = [name for name in new.match if name in {column.name for column in old.columns}]
        return self._kept.get_or_make(
            (old.table.key, new.table.key, *match), lambda: compare_tables(old.table, new.table, match)
        )

    def _started(self, query: Query, snapshot: Snapshot, reading: Reading) -> Side:
        """The table of a query that starts from tables, as of the date of a snapshot."""
        brief = brief_then(self._workspace, snapshot, query) if reading == "then" else query.brief
        lines = [] if reading == "taken" else brief.work_out
        start = brief.start or query.brief.start
        at = TableAt(snapshot.id, lines=lines, query_id=query.id, start=start)
        match = brief.keep.match
        if not match and start is not None:
            self._tables.source(at)  # What is made of itself is refused here.
            match = match_of_start(self._workspace, self._tables.work_out, start, snapshot.taken)
        return self._worked(snapshot, at, match)

    def _side(self, snapshot: Snapshot, reading: Reading) -> Side:
        """A snapshot's table as it is read."""
        lines: Sequence[LineModel] = []
        if reading != "taken":
            query = self._workspace.queries.get(snapshot.query_id)
            lines = (brief_then(self._workspace, snapshot, query) if reading == "then" else query.brief).work_out
        return self._worked(snapshot, TableAt(snapshot.id, lines=lines), snapshot.match)

    def _worked(self, snapshot: Snapshot, at: TableAt, match: list[str]) -> Side:
        table = self._tables.source(at)
        if all(line.off for line in at.lines):
            return Side(snapshot, table, match)
        return Side(snapshot, table, match_of(match, self._tables.worked(at)[1]))

    def differing(
        self,
        then_id: int,
        now_id: int,
        reading: Reading = "taken",
        query_id: int | None = None,
        choice: RowChoice = RowChoice(),
    ) -> tuple[list[TableColumn], Iterator[tuple[Any, ...]]]:
        """The rows that differ, or those that :meth:`window` chooses, as a table: what became of each, its cells, and
        of a changed one what they were.

        Raises:
            ProblemError: as :meth:`window`.
        """
        old, new, _ = self.compare(then_id, now_id, reading, query_id)
        before = {heading.name: heading for heading in old.columns}
        both = [at for at, heading in enumerate(new.columns) if heading.name in before]
        taken = {heading.name for heading in new.columns}
        headings = [TableColumn(free_name("change", taken), "text"), *new.columns]
        taken.add(headings[0].name)
        for at in both:
            own = new.columns[at]
            name = free_name(f"{own.name}, before", taken)
            taken.add(name)
            was = before[own.name]
            headings.append(replace(was, name=name, hidden=own.hidden, filled=None, nulls=None))
        blank = (None,) * len(new.columns)
        # What cannot be chosen is said before the first row.
        self.window(then_id, now_id, choice, 0, 0, reading, query_id)

        def rows() -> Iterator[tuple[Any, ...]]:
            start, total = 0, 1
            while start < total:
                some, total = self.window(then_id, now_id, choice, start, _TOGETHER, reading, query_id)
                for row in some:
                    then = row.then if row.then is not None else blank
                    cells = row.now if row.now is not None else then
                    yield (row.state, *cells, *(then[at] if at in row.changed else None for at in both))
                start += _TOGETHER

        return headings, rows()

    def window(
        self,
        then_id: int,
        now_id: int,
        choice: RowChoice,
        start: int,
        count: int,
        reading: Reading = "taken",
        query_id: int | None = None,
    ) -> tuple[list[MergedRow], int]:
        """Some rows of the merged table, and how many there are of the chosen ones.

        Raises:
            ProblemError: ``column-unknown``.
        """
        with self._workspace.read_together():
            old, new, found = self.compare(then_id, now_id, reading, query_id)
            column = choice.column
            if column and all(column != one.name for one in (*new.columns, *old.columns)):
                raise fail(
                    "column-unknown",
                    f"There is no column “{column[:80]}” in these tables.",
                    where="column",
                    do="Name one of their columns.",
                )
            key = (old.table.key, new.table.key, tuple(new.match), choice)
            chosen = self._wanted.get_or_make(key, lambda: self._rows_wanted(old, new, found, choice))
            window = chosen[start : start + count]
            states, now_at, then_at = found.state[window], found.now_row[window], found.then_row[window]
            needs_then = (states == GONE) | (states == CHANGED)
            now_rows = iter(new.table.at(now_at[now_at >= 0]))
            then_rows = iter(_in_order(new.columns, old.columns, old.table.at(then_at[needs_then])))
        places = {heading.name: index for index, heading in enumerate(new.columns)}
        merged = [
            MergedRow(
                _WORDS[state],
                next(now_rows) if position >= 0 else None,
                next(then_rows) if older else None,
                [places[name] for name in found.changed_in.get(position, ())] if state == CHANGED else [],
            )
            for state, position, older in zip(states.tolist(), now_at.tolist(), needs_then.tolist(), strict=True)
        ]
        return merged, len(chosen)

    def _rows_wanted(self, old: Side, new: Side, found: Comparison, choice: RowChoice) -> Ints:
        """The merged rows of a choice, as their indices. Shape (wanted,)."""
        chosen = _chosen(found, choice.show, choice.column)
        if choice.column and not choice.size.takes_all:
            before, after = old.table.column(choice.column), new.table.column(choice.column)
            none: list[Any] = [None] * len(chosen)
            was = picked(before[1], found.then_row[chosen]) if before is not None else none
            now = picked(after[1], found.now_row[chosen]) if after is not None else none
            chosen = chosen[wanted(difference_sizes(was, now, choice.size.measure), choice.size)]
        if choice.find.strip():
            chosen = chosen[_stands_in(old, new, found, chosen, choice)]
        return chosen

    def asked_otherwise(self, then: Snapshot, now: Snapshot) -> list[tuple[str, Given, Given]]:
        """Parameters with another value then than now. Dates move with the calendar and are no news."""
        runs = self._workspace.runs
        old, new = runs.get(then.run_id).bindings, runs.get(now.run_id).bindings
        parameters = self._workspace.queries.get(now.query_id).brief.parameters
        return [(name, old.get(name), new.get(name)) for name in other_values(parameters, old, new)]


def brief_then(workspace: Workspace, snapshot: Snapshot, query: Query) -> Brief:
    """The brief that a query had at a date: that which the snapshot was made with. A query that starts from tables has
    no snapshots of its own; its brief is the one that was saved last before the date, or its first.

    Raises:
        ProblemError: ``brief-unreadable`` or ``brief-newer``.
    """
    if query.brief.start is not None:
        return load_brief(json.loads(workspace.queries.brief_then(query.id, snapshot.taken)))
    return load_brief(json.loads(snapshot.brief or workspace.runs.brief_of(snapshot.run_id)))


def compare_tables(then: TableSource, now: TableSource, match: list[str]) -> Comparison:
    """Lay two tables over each other that are stored nowhere: equal rows get equal numbers."""
    then_names, now_names = ([column.name for column in table.columns] for table in (then, now))
    then_order, now_order = (sorted(range(len(names)), key=names.__getitem__) for names in (then_names, now_names))
    then_rows = [tuple([row[at] for at in then_order]) for row in rows_of(then)]
    now_rows = [tuple([row[at] for at in now_order]) for row in rows_of(now)]
    known: dict[tuple[Any, ...], int] = {}
    then_ids, now_ids = (
        np.fromiter((known.setdefault(row, len(known)) for row in rows), dtype=np.int64, count=len(rows))
        for rows in (then_rows, now_rows)
    )
    if sorted(then_names) != sorted(now_names):
        # Rows of other columns are other rows, whatever stands in them.
        now_ids = now_ids + len(known)
    split = difference(then_ids, now_ids)
    return compare(
        then_ids, now_ids, split,
        [then_rows[at] for at in split.only_then.tolist()], [now_rows[at] for at in split.only_now.tolist()],
        sorted(then_names), sorted(now_names), match,
    )  # fmt: skip


def _in_order(new: list[TableColumn], old: list[TableColumn], found: list[tuple[Any, ...]]) -> list[tuple[Any, ...]]:
    """Older rows in the order of the newer table's columns; a column that the older one lacks is empty."""
    at = {column.name: index for index, column in enumerate(old)}
    order = [at.get(column.name) for column in new]
    return [tuple([None if index is None else row[index] for index in order]) for row in found]


def _stands_in(old: Side, new: Side, found: Comparison, chosen: Ints, choice: RowChoice) -> npt.NDArray[np.bool_]:
    """Which of some merged rows have a text in a cell that is seen: their own now, or what a gone or changed one was.
    Shape (chosen,)."""
    text = choice.find.strip()
    seen = [at for at, column in enumerate(new.columns) if not column.hidden or column.name == choice.column]
    out = np.zeros(len(chosen), dtype=np.bool_)
    older = np.isin(found.state[chosen], (GONE, CHANGED))
    for side, numbers, there in ((new, found.now_row[chosen], None), (old, found.then_row[chosen], older)):
        looked = (numbers >= 0) & ~out
        if there is not None:
            looked &= there
        likely = side.table.rows_with(text)
        if likely is not None:
            looked &= np.isin(numbers, likely)
        places = np.flatnonzero(looked)
        for start in range(0, len(places), _SEARCHED):
            some = places[start : start + _SEARCHED]
            rows = side.table.at(numbers[some])
            if side is old:
                rows = _in_order(new.columns, old.columns, rows)
            out[some] = rows_with_text(rows, text, seen)
    return out


def _chosen(found: Comparison, show: RowsShown, column: str) -> Ints:
    """The merged rows to show, as their indices. Shape (chosen,)."""
    if column:
        changed = [position for position, names in found.changed_in.items() if column in names]
        mask = (found.state == CHANGED) & np.isin(found.now_row, np.array(changed, dtype=np.int64))
    elif show == "all":
        mask = np.ones(len(found.state), dtype=bool)
    elif show == "differs":
        mask = found.state != SAME
    else:
        mask = found.state == STATES[show]
    return np.flatnonzero(mask).astype(np.int64)
