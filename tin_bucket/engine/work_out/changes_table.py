"""What a query's dates brought as one table: each row that is new, changed or gone against the date before."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW, STATES, Comparison
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.store.snapshot import Snapshot

from .source import MemoryTable, TableSource, in_order

MOST_CHANGES = 1_000_000
Lay = Callable[[TableSource, TableSource], Comparison]
_WORDS = {number: word for word, number in STATES.items()}


@dataclass(frozen=True, slots=True)
class Behind:
    """The cell that one of a change was taken from.

    Attributes:
        date: of which date it is.
        row: where its row stands in the table of that date.
        column: what it is called there.
    """

    date: Snapshot
    row: int
    column: str


class ChangesTable(MemoryTable):
    """The changes of several dates, one below the other; only what differs is kept.

    Attributes:
        date_column, change_column, changed_column: what the columns are called that say of which date a change is, what
            became of the row, and in which columns it changed.
    """

    def __init__(
        self,
        key: tuple[Any, ...],
        name: str,
        parts: Sequence[tuple[Snapshot, TableSource]],
        column: str,
        headings: Sequence[TableColumn],
        match: Sequence[str],
        lay: Lay,
    ) -> None:
        """
        Args:
            name: the query whose dates these are.
            parts: the dates with their tables, the oldest first. The first one is only what the next is laid over.
            column: what the column of the date is called, where no other one is called so.
            headings: the columns of the tables; those that a date lacks are empty in it.
            match: the columns that say which row is which; they do not change.
            lay: lays two tables over each other.

        Raises:
            ProblemError: ``history-too-long``.
        """
        self._dates = [snapshot for snapshot, _ in parts]
        taken = {one.name for one in headings}

        def free(wanted: str) -> str:
            taken.add(found := free_name(wanted, taken))
            return found

        self.date_column, self.change_column, self.changed_column = map(free, (column, "change", "changed in"))
        plain = [replace(one, filled=None, nulls=None) for one in headings]
        self._before = {free(f"{one.name}, before"): one.name for one in plain if one.name not in match}
        of_column = {own: before for before, own in self._before.items()}
        own_data: list[list[Any]] = [[] for _ in plain]
        was_data: dict[str, list[Any]] = {one.name: [] for one in plain if one.name in of_column}
        moments: list[str] = []
        states: list[str] = []
        self._moved: list[tuple[str, ...]] = []
        dates, now_at, then_at = [], [], []
        for at in range(1, len(parts)):
            (_, then), (snapshot, now) = parts[at - 1], parts[at]
            found = lay(then, now)
            differs = np.flatnonzero(np.isin(found.state, (NEW, GONE, CHANGED)))
            if len(moments) + len(differs) > MOST_CHANGES:
                raise _too_many(name, len(parts) - 1)
            state, now_rows, then_rows = found.state[differs], found.now_row[differs], found.then_row[differs]
            is_gone = state == GONE
            here = iter(in_order(plain, now.columns, now.at(now_rows[~is_gone])))
            there = iter(in_order(plain, then.columns, then.at(then_rows[state != NEW])))
            for one, position in zip(state.tolist(), now_rows.tolist(), strict=True):
                was = next(there) if one != NEW else None
                cells = next(here) if one != GONE else was
                assert cells is not None
                moved = found.changed_in.get(position, ()) if one == CHANGED else ()
                states.append(_WORDS[one])
                self._moved.append(tuple(moved))
                for index, (heading, value) in enumerate(zip(plain, cells, strict=True)):
                    own_data[index].append(value)
                    if heading.name in was_data:
                        was_data[heading.name].append(was[index] if was is not None and heading.name in moved else None)
            moments += [snapshot.taken] * len(differs)
            dates.append(np.full(len(differs), at, dtype=np.int64))
            now_at.append(now_rows)
            then_at.append(then_rows)
        nothing = np.zeros(0, dtype=np.int64)
        self._date_at: Ints = np.concatenate([nothing, *dates])
        self._now_at: Ints = np.concatenate([nothing, *now_at])
        self._then_at: Ints = np.concatenate([nothing, *then_at])
        columns = [
            TableColumn(self.date_column, "date and time", origin="brought in", source=name),
            TableColumn(self.change_column, "text", origin="brought in", source=name),
            TableColumn(self.changed_column, "text", origin="brought in", source=name),
        ]
        data: list[list[Any]] = [moments, states, [", ".join(one) or None for one in self._moved]]
        for heading, values in zip(plain, own_data, strict=True):
            columns.append(heading)
            data.append(values)
            if heading.name in of_column:
                columns.append(replace(heading, name=of_column[heading.name]))
                data.append(was_data[heading.name])
        super().__init__(key, columns, data, len(moments))

    def behind(self, row: int, column: str) -> Behind | None:
        """The cell that one was taken from; nothing where it is of none: what became of the row, and what a cell was
        that did not change."""
        if column in (self.date_column, self.change_column, self.changed_column):
            return None
        date, now, then = (int(one[row]) for one in (self._date_at, self._now_at, self._then_at))
        own = self._before.get(column)
        if own is not None:
            return Behind(self._dates[date - 1], then, own) if own in self._moved[row] else None
        return Behind(self._dates[date], now, column) if now >= 0 else Behind(self._dates[date - 1], then, column)


def _too_many(name: str, dates: int) -> ProblemError:
    return fail(
        "history-too-long",
        f"“{name}” changed in more than {MOST_CHANGES:,} rows over {dates:,} dates.",
        where="the dates that it starts from",
        do="Take fewer days; or choose match columns where there are none, so that a row that changed is not one gone"
        " and one new.",
    )
