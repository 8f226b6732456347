"""All dates of a query as one table: the rows of each below those of the one before, with the date as a column."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

MOST_ROWS = 5_000_000


def not_too_long(query_name: str, dates: int, height: int) -> None:
    """Refuse more rows than can be looked at together.

    Raises:
        ProblemError: ``history-too-long``.
    """
    if height > MOST_ROWS:
        raise fail(
            "history-too-long",
            f"{dates:,} dates of “{query_name}” have {height:,} rows together; up to {MOST_ROWS:,} are taken.",
            where="the dates that it starts from",
            do="Take fewer days.",
        )


class HistoryTable:
    """Several snapshots of a query, one below the other. A row that many of them have is read once."""

    def __init__(self, workspace: Workspace, query_name: str, dates: list[Snapshot], column: str) -> None:
        """
        Args:
            dates: the oldest first.
            column: what the column of the date is called, where no other one is called so.

        Raises:
            ProblemError: ``history-too-long``.
        """
        height = sum(one.rows for one in dates)
        not_too_long(query_name, len(dates), height)
        self._workspace = workspace
        self.dates = dates
        known: dict[str, TableColumn] = {}
        # The newest headings are the truest; older columns stand behind them.
        for snapshot in reversed(dates):
            for one in snapshot.columns:
                known.setdefault(one.name, one)
        self.date_column = free_name(column, set(known))
        self.columns = [TableColumn(self.date_column, "date and time", origin="brought in", source=query_name)]
        # How many rows of one date have a value says nothing of all.
        self.columns += [replace(one, filled=None, nulls=None) for one in known.values()]
        self.height = height
        self.key: tuple[Any, ...] = ("history", column, *((one.id, one.version) for one in dates))
        self._ends = np.cumsum([one.rows for one in dates], dtype=np.int64)
        lists = [workspace.snapshots.row_ids(one.id) for one in dates]
        self.ids: Ints = np.concatenate(lists) if lists else np.zeros(0, dtype=np.int64)

    def date_of(self, rows: Ints) -> Ints:
        """Of which date some rows are, as indices. Shape (rows,)."""
        return np.searchsorted(self._ends, rows, side="right").astype(np.int64)

    def stored_at(self, row: int) -> tuple[Snapshot, int]:
        """The snapshot that a row is of, and where it stands in it."""
        at = int(self.date_of(np.array([row]))[0])
        return self.dates[at], row - (int(self._ends[at - 1]) if at else 0)

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        heading = next((one for one in self.columns if one.name == name), None)
        if heading is None:
            return None
        if name == self.date_column:
            out: list[Any] = []
            for one in self.dates:
                out += [one.taken] * one.rows
            return heading, out
        if not self.dates:
            return heading, []
        held = self._workspace.through_time.column(self.dates[0].query_id, name)
        return heading, list(map(held.values.__getitem__, held.at(self.ids).tolist()))

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self.at(np.arange(start, min(start + count, self.height), dtype=np.int64))

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        if not len(rows):
            return []
        names = [one.name for one in self.columns[1:]]
        taken = [self.dates[at].taken for at in self.date_of(rows).tolist()]
        found = self._workspace.through_time.rows(self.dates[0].query_id, self.ids[rows])
        return [(moment, *(values.get(name) for name in names)) for moment, values in zip(taken, found, strict=True)]

    def rows_with(self, text: str) -> Ints | None:
        """All rows are looked at."""
        return None
