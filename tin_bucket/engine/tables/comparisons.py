"""Comparisons of two snapshots of a query, and windows of the merged table."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.analysis.column_pairs import other_kinds, renamed
from tin_bucket.core.analysis.compare import (
    ALIKE,
    CHANGED,
    GONE,
    NEW,
    PLAIN,
    STATES,
    Comparison,
    compare,
    difference,
)
from tin_bucket.core.analysis.compare_columns import Values, compare_columns
from tin_bucket.core.analysis.difference_size import SizeFilter, difference_sizes, wanted
from tin_bucket.core.analysis.view import ordered, rows_with_text
from tin_bucket.core.document.made_with import other_values
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.engine.work_out.source import KeptTable, TableSource, picked, rows_of
from tin_bucket.store.workspace import Workspace

from .browse import Tables
from .sides import Compared, Renamed, Side, Sides

RowsShown = Literal["differs", "all", "same", "new", "gone", "changed", "alike", "repeated"]
"""Which rows of a merged table are looked at: all that differ, all, those of a state, or those whose match values stand
for several rows."""
_KEPT = 16
_LONG = 20_000  # Rows of both from which they are compared column by column.
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
        sort, down: the column that they are sorted by, and whether the highest come first; of gone rows by what it was.
    """

    show: RowsShown = "differs"
    column: str = ""
    size: SizeFilter = field(default_factory=SizeFilter)
    find: str = ""
    sort: str = ""
    down: bool = False


@dataclass(frozen=True, slots=True)
class MergedRow:
    """A row of the merged table: its state, its cells now and then, and the numbers of the columns that changed, and of
    those that differ in what counts as the same."""

    state: str
    now: tuple[Any, ...] | None
    then: tuple[Any, ...] | None
    changed: list[int]
    alike: list[int]


@dataclass(frozen=True, slots=True)
class KindOfChange:
    """The rows of one kind of change, as a table.

    Attributes:
        kind: ``changed``, ``new``, or ``gone``.
        marks: names of a column and of the one behind it that says what it was.
    """

    kind: str
    columns: list[TableColumn]
    rows: Iterator[tuple[Any, ...]]
    marks: list[tuple[str, str]]


@dataclass(frozen=True, slots=True)
class Laid:
    """Two tables laid over each other.

    Attributes:
        then, now: the two; columns of the earlier one have the names that they have now.
        found: what happened between them.
        names: older columns that have another name now.
        kinds: columns that are of another kind now: name, kind then, kind now.
        rules: what counted as the same.
    """

    then: Side
    now: Side
    found: Comparison
    names: dict[str, str]
    kinds: list[tuple[str, str, str]]
    rules: list[AlikeRule]

    @property
    def rules_key(self) -> tuple[str, ...]:
        """What tells its rules from others."""
        return Judge(self.rules).key


class Comparisons:
    """Compares snapshots; the latest comparisons are kept, each for just the contents that it is of."""

    def __init__(self, workspace: Workspace, tables: Tables) -> None:
        self._workspace = workspace
        self._sides = Sides(workspace, tables)
        self._kept: LockedCache[tuple[Any, ...], Comparison] = LockedCache(_KEPT)
        self._wanted: LockedCache[tuple[Any, ...], Ints] = LockedCache(_KEPT_CHOICES)

    def compare(self, asked: Compared) -> Laid:
        """The two tables and what happened between them.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``, ``compared-unreadable``, or what is wrong with a line.
        """
        with self._workspace.read_together():
            old, new = self._sides.open(asked.then, asked.reading), self._sides.open(asked.now, asked.reading)
            names = renamed(old.columns, new.columns, dict(asked.pairs))
            kinds = other_kinds([replace(one, name=names.get(one.name, one.name)) for one in old.columns], new.columns)
            rules = self._sides.alike(old, new) if asked.alike is None else list(asked.alike)
            judge = Judge(rules, [name for name, *_ in kinds])
            table: TableSource = Renamed(old.table, names) if names else old.table
            match = self._match(asked, old, new, table, names)
            found = self._kept.get_or_make(
                (table.key, new.table.key, tuple(match), judge.key), lambda: self._laid(table, new.table, match, judge)
            )
        return Laid(replace(old, table=table), new, found, names, kinds, rules)

    def _match(self, asked: Compared, old: Side, new: Side, then: TableSource, names: Mapping[str, str]) -> list[str]:
        """The columns that say which row is which: those that are asked for, else those of the later table, else those
        of the earlier one."""
        if asked.match is not None:
            return list(asked.match)
        there = {one.name for one in then.columns}
        if new.match and set(new.match) <= there:
            return new.match
        earlier = [names.get(one, one) for one in old.match]
        if earlier and set(earlier) <= {one.name for one in new.columns}:
            return earlier
        return new.match

    def _laid(self, old: TableSource, new: TableSource, match: list[str], judge: Judge) -> Comparison:
        if not isinstance(old, KeptTable) or not isinstance(new, KeptTable):
            return compare_tables(old, new, match, judge)
        if old.snapshot.query_id != new.snapshot.query_id:
            return compare_tables(old, new, match, judge)
        return self._workspace.snapshots.compare(old.snapshot.id, new.snapshot.id, match, judge)

    def by_kind(self, asked: Compared) -> list[KindOfChange]:
        """What differs, kind by kind: what changed, what is new, what is gone; each with the columns that it needs.

        Raises:
            ProblemError: as :meth:`window`.
        """
        laid = self.compare(asked)
        own = laid.now.columns
        moved = {one.name for one in laid.found.columns}
        then = {one.name for one in laid.then.columns}
        taken = {one.name for one in own}
        columns: list[TableColumn] = []
        marks: list[tuple[str, str]] = []
        places: list[tuple[int, bool]] = []
        for at, heading in enumerate(own):
            columns.append(heading)
            places.append((at, False))
            if heading.name in moved & then:
                name = free_name(f"{heading.name}, before", taken)
                taken.add(name)
                columns.append(replace(heading, name=name, filled=None, nulls=None))
                marks.append((heading.name, name))
                places.append((at, True))

        def changed() -> Iterator[tuple[Any, ...]]:
            for row in self._each(asked, RowChoice("changed")):
                now, was = row.now or (), row.then or ()
                yield tuple([_was(was[at], at in row.changed) if before else now[at] for at, before in places])

        out = [KindOfChange("changed", columns, changed(), marks)]
        for kind in ("new", "gone"):
            rows = (row.now or row.then or () for row in self._each(asked, RowChoice(kind)))
            out.append(KindOfChange(kind, own, rows, []))
        return out

    def _each(self, asked: Compared, choice: RowChoice) -> Iterator[MergedRow]:
        """The rows of a choice, one after the other."""
        start, total = 0, 1
        while start < total:
            some, total = self.window(asked, choice, start, _TOGETHER)
            yield from some
            start += _TOGETHER

    def differing(
        self, asked: Compared, choice: RowChoice = RowChoice()
    ) -> tuple[list[TableColumn], Iterator[tuple[Any, ...]]]:
        """The rows that differ, or those that :meth:`window` chooses, as a table: what became of each, its cells, and
        of a changed one what they were.

        Raises:
            ProblemError: as :meth:`window`.
        """
        laid = self.compare(asked)
        old, new = laid.then, laid.now
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
        self.window(asked, choice, 0, 0)

        def rows() -> Iterator[tuple[Any, ...]]:
            for row in self._each(asked, choice):
                then = row.then if row.then is not None else blank
                cells = row.now if row.now is not None else then
                yield (row.state, *cells, *(then[at] if at in row.changed else None for at in both))

        return headings, rows()

    def window(self, asked: Compared, choice: RowChoice, start: int, count: int) -> tuple[list[MergedRow], int]:
        """Some rows of the merged table, and how many there are of the chosen ones.

        Raises:
            ProblemError: ``column-unknown``.
        """
        with self._workspace.read_together():
            laid = self.compare(asked)
            old, new, found = laid.then, laid.now, laid.found
            for column in filter(None, (choice.column, choice.sort)):
                if all(column != one.name for one in (*new.columns, *old.columns)):
                    raise fail(
                        "column-unknown",
                        f"There is no column “{column[:80]}” in these tables.",
                        where="column",
                        do="Name one of their columns.",
                    )
            key = (old.table.key, new.table.key, tuple(found.matched_by), laid.rules_key, choice)
            chosen = self._wanted.get_or_make(key, lambda: self._rows_wanted(old, new, found, choice))
            window = chosen[start : start + count]
            states, now_at, then_at = found.state[window], found.now_row[window], found.then_row[window]
            needs_then = np.isin(states, (GONE, CHANGED, ALIKE))
            now_rows = iter(new.table.at(now_at[now_at >= 0]))
            then_rows = iter(_in_order(new.columns, old.columns, old.table.at(then_at[needs_then])))
        places = {heading.name: index for index, heading in enumerate(new.columns)}
        merged = [
            MergedRow(
                _WORDS[state],
                next(now_rows) if position >= 0 else None,
                next(then_rows) if older else None,
                [places[name] for name in found.changed_in.get(position, ())] if state == CHANGED else [],
                [places[name] for name in found.alike_in.get(position, ())] if position >= 0 else [],
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
        if choice.sort:
            chosen = chosen[_sorted(old, new, found, chosen, choice)]
        return chosen

    def asked_otherwise(self, then: Side, now: Side) -> list[tuple[str, Given, Given]]:
        """Parameters of a query with another value then than now. Dates move with the calendar and are no news."""
        if then.snapshot is None or now.snapshot is None or now.query is None or then.query != now.query:
            return []
        if now.query.brief.start is not None:
            return []
        runs = self._workspace.runs
        old, new = runs.get(then.snapshot.run_id).bindings, runs.get(now.snapshot.run_id).bindings
        parameters = now.query.brief.parameters
        return [(name, old.get(name), new.get(name)) for name in other_values(parameters, old, new)]


def compare_tables(then: TableSource, now: TableSource, match: list[str], judge: Judge = PLAIN) -> Comparison:
    """Lay two tables over each other that have no rows' ids in common: by columns where these are at hand, else by
    rows that are read, of which equal ones get equal numbers."""
    if then.height + now.height > _LONG and _by_columns(then) and _by_columns(now):
        found = compare_columns(
            _values_of(then), _values_of(now), [one.name for one in then.columns],
            sorted(one.name for one in now.columns), match, judge,
        )  # fmt: skip
        if found is not None:
            return found
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
        sorted(then_names), sorted(now_names), match, judge,
    )  # fmt: skip


def _by_columns(table: TableSource) -> bool:
    """Whether each column is read without all the others."""
    return not isinstance(table, KeptTable) or all(table.has_copy(one.name) for one in table.columns[:1])


def _sorted(old: Side, new: Side, found: Comparison, chosen: Ints, choice: RowChoice) -> Ints:
    """The order of some merged rows by a column. Shape (chosen,)."""
    after, before = new.table.column(choice.sort), old.table.column(choice.sort)
    none: list[Any] = [None] * len(chosen)
    now = picked(after[1], found.now_row[chosen]) if after is not None else none
    was = picked(before[1], found.then_row[chosen]) if before is not None else none
    there = (found.now_row[chosen] >= 0).tolist()
    heading = (after or before or (TableColumn(choice.sort, "text"), none))[0]
    values = [new_one if is_there else old_one for new_one, old_one, is_there in zip(now, was, there, strict=True)]
    return ordered(values, heading, choice.down)


def _was(value: Any, changed: bool) -> Any:
    """What a cell was, where it changed; that it was empty is said."""
    if not changed:
        return None
    return "empty" if value is None or value == "" else value


def _values_of(table: TableSource) -> Values:
    def values(name: str) -> Sequence[Any]:
        found = table.column(name)
        return found[1] if found is not None else []

    return values


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
    older = np.isin(found.state[chosen], (GONE, CHANGED, ALIKE))
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
        mask = np.isin(found.state, (NEW, GONE, CHANGED))
    elif show == "repeated":
        return found.repeated.astype(np.int64)
    else:
        mask = found.state == STATES[show]
    return np.flatnonzero(mask).astype(np.int64)
