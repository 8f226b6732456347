"""Comparisons of any two tables, and windows of the merged table."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.analysis.column_pairs import other_kinds, renamed
from tin_bucket.core.analysis.compare import ALIKE, CHANGED, GONE, STATES, Comparison
from tin_bucket.core.analysis.difference_groups import DifferenceGroup, difference_groups
from tin_bucket.core.analysis.difference_totals import DifferenceTotals, difference_totals
from tin_bucket.core.document.made_with import other_values
from tin_bucket.core.names import free_name
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.engine.work_out.laying import lay
from tin_bucket.engine.work_out.source import RenamedTable, TableSource, all_values, in_order
from tin_bucket.feeds.comparison import KindOfChange
from tin_bucket.store.workspace import Workspace

from .browse import Tables
from .compared_tables import ComparedTables
from .row_choice import RowChoice, known_column, own_cells, rows_wanted
from .sides import Compared, Side, Sides

_KEPT = 16
_KEPT_CHOICES = 4  # Of a million rows each takes 8 MB.
_TOGETHER = 2_000  # Rows that are read at once.
_WORDS = {number: word for word, number in STATES.items()}


@dataclass(frozen=True, slots=True)
class MergedRow:
    """A row of the merged table: its state, its cells now and then, and the numbers of the columns that changed, and of
    those that differ in what counts as the same."""

    state: str
    now: tuple[Any, ...] | None
    then: tuple[Any, ...] | None
    changed: list[int]
    alike: list[int]


class Comparisons:
    """Compares tables; the latest comparisons are kept, each for just the contents that it is of."""

    def __init__(self, workspace: Workspace, tables: Tables) -> None:
        self._workspace = workspace
        self._sides = Sides(workspace, tables)
        self._kept: LockedCache[tuple[Any, ...], Comparison] = LockedCache(_KEPT)
        self._wanted: LockedCache[tuple[Any, ...], Ints] = LockedCache(_KEPT_CHOICES)

    def compare(self, asked: Compared) -> ComparedTables:
        """The two tables and what happened between them.

        Raises:
            ProblemError: ``snapshot-unknown``, ``preview-gone``, ``compared-unreadable``, or what is wrong with a line.
        """
        with self._workspace.read_together():
            old, new = self._sides.open(asked.then, asked.reading), self._sides.open(asked.now, asked.reading)
            by_hand = self._sides.pairs(old, new) if asked.pairs is None else dict(asked.pairs)
            names = renamed(old.columns, new.columns, by_hand)
            kinds = other_kinds([replace(one, name=names.get(one.name, one.name)) for one in old.columns], new.columns)
            rules = self._sides.alike(old, new) if asked.alike is None else list(asked.alike)
            judge = Judge(rules, [name for name, *_ in kinds])
            table: TableSource = RenamedTable(old.table, names) if names else old.table
            match = self._match(asked, old, new, table, names)
            found = self._kept.get_or_make(
                (table.key, new.table.key, tuple(match), judge.key),
                lambda: lay(self._workspace.snapshots, table, new.table, match, judge),
            )
        return ComparedTables(replace(old, table=table), new, found, names, by_hand, kinds, rules)

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
                columns.append(_before(heading, heading, taken))
                marks.append((heading.name, columns[-1].name))
                places.append((at, True))

        def changed() -> Iterator[tuple[Any, ...]]:
            for row in self._each(asked, RowChoice("changed")):
                now, was = row.now or (), row.then or ()
                yield tuple([_was(was[at], at in row.changed) if before else now[at] for at, before in places])

        counts = laid.found.counts()
        out = [KindOfChange("changed", columns, changed(), marks, counts["changed"])]
        for kind in ("new", "gone"):
            rows = (row.now or row.then or () for row in self._each(asked, RowChoice(kind)))
            out.append(KindOfChange(kind, own, rows, [], counts[kind]))
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
            headings.append(_before(before[own.name], own, taken))
        blank = (None,) * len(new.columns)
        # What cannot be chosen is said before the first row.
        self.window(asked, choice, 0, 0)

        def rows() -> Iterator[tuple[Any, ...]]:
            for row in self._each(asked, choice):
                then = row.then if row.then is not None else blank
                cells = row.now if row.now is not None else then
                yield (row.state, *cells, *(then[at] if at in row.changed else None for at in both))

        return headings, rows()

    def totals(self, asked: Compared, column: str) -> DifferenceTotals:
        """What the changes of a column come to.

        Raises:
            ProblemError: ``column-unknown``, and as :meth:`compare`.
        """
        with self._workspace.read_together():
            laid = self.compare(asked)
            known_column(laid, column)
            old, new = all_values(laid.then.table, column), all_values(laid.now.table, column)
            old, new = old or [None] * laid.then.table.height, new or [None] * laid.now.table.height
            return difference_totals(old, new, laid.found)

    def groups(self, asked: Compared, choice: RowChoice, column: str) -> list[DifferenceGroup]:
        """The rows of a choice that differ, counted by the values of a column, the largest group first.

        Raises:
            ProblemError: ``column-unknown``, and as :meth:`compare`.
        """
        with self._workspace.read_together():
            laid = self.compare(asked)
            known_column(laid, column)
            rows = rows_wanted(laid, replace(choice, group="", value="", sort=""))
            return difference_groups(own_cells(laid, column, rows), laid.found, rows)

    def window(self, asked: Compared, choice: RowChoice, start: int, count: int) -> tuple[list[MergedRow], int]:
        """Some rows of the merged table, and how many there are of the chosen ones.

        Raises:
            ProblemError: ``column-unknown``.
        """
        with self._workspace.read_together():
            laid = self.compare(asked)
            old, new, found = laid.then, laid.now, laid.found
            chosen = self._wanted.get_or_make((laid.key, choice), lambda: rows_wanted(laid, choice))
            window = chosen[start : start + count]
            states, now_at, then_at = found.state[window], found.now_row[window], found.then_row[window]
            needs_then = np.isin(states, (GONE, CHANGED, ALIKE))
            now_rows = iter(new.table.at(now_at[now_at >= 0]))
            then_rows = iter(in_order(new.columns, old.columns, old.table.at(then_at[needs_then])))
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


def _before(was: TableColumn, own: TableColumn, taken: set[str]) -> TableColumn:
    """The heading of what a column was, beside the column itself; its name is taken from now on."""
    name = free_name(f"{own.name}, before", taken)
    taken.add(name)
    return replace(was, name=name, hidden=own.hidden, filled=None, nulls=None)


def _was(value: Any, changed: bool) -> Any:
    """What a cell was, where it changed; that it was empty is said."""
    if not changed:
        return None
    return "empty" if value is None or value == "" else value
