"""A table of all dates with each thing once: as it was last, when it was seen first and last, and on how many dates."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import replace
from typing import Any

from tin_bucket.core.analysis.ever_seen import ever_seen
from tin_bucket.core.names import free_name
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn

from .history_table import HistoryTable
from .source import MemoryTable, TableSource, picked, rows_of

COLUMNS = (("first seen", "date and time"), ("last seen", "date and time"), ("dates seen", "whole number"))


class EachOnce:
    """Each thing of a table of all dates once.

    Attributes:
        table: the table of all dates.
        breaks: pairs of dates, ISO 8601, between which nothing is the same.
    """

    def __init__(
        self, table: HistoryTable | MemoryTable, moments: Sequence[str], heights: Sequence[int], match: list[str]
    ) -> None:
        """
        Args:
            table: its first column says of which date a row is.
            moments: the dates, the oldest first.
            heights: how many rows each of them has.
            match: the columns that say which row is which; the whole content where there are none.
        """
        found = ever_seen(_keys(table, match), heights)
        self.table: TableSource = table
        self._rows = found.last
        self.breaks = [(moments[at - 1], moments[at]) for at in found.breaks]
        own = table.columns[1:]
        taken = {one.name for one in own}
        extra = []
        for name, kind in COLUMNS:
            extra.append(TableColumn(free_name(name, taken), kind, origin="worked out"))
            taken.add(extra[-1].name)
        self.columns = [*(replace(one, filled=None, nulls=None) for one in own), *extra]
        self._extra: dict[str, list[Any]] = {
            extra[0].name: [moments[at] for at in found.first_date.tolist()],
            extra[1].name: [moments[at] for at in found.last_date.tolist()],
            extra[2].name: found.dates.tolist(),
        }
        self.height = len(found.last)
        self.key: tuple[Any, ...] = ("each once", table.key, *match)

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        heading = next((one for one in self.columns if one.name == name), None)
        if heading is None:
            return None
        if name in self._extra:
            return heading, self._extra[name]
        found = self.table.column(name)
        return None if found is None else (heading, picked(found[1], self._rows))

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self._some(slice(start, min(start + count, self.height)))

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers."""
        return self._some(rows)

    def _some(self, rows: Any) -> list[tuple[Any, ...]]:
        own = self.table.at(self._rows[rows])
        places = range(self.height)[rows] if isinstance(rows, slice) else rows.tolist()
        return [
            (*cells[1:], *(values[place] for values in self._extra.values()))
            for cells, place in zip(own, places, strict=True)
        ]

    def stored_row(self, row: int) -> int:
        """The row of the table of all dates that a row is."""
        return int(self._rows[row])

    def rows_with(self, text: str) -> Ints | None:
        """All rows are looked at."""
        return None


def _keys(table: HistoryTable | MemoryTable, match: list[str]) -> Sequence[Hashable]:
    """What each row is known by; true and 1 are two things."""
    columns = [found[1] for name in match if (found := table.column(name)) is not None]
    # A part of the match columns would take different things for one.
    if match and len(columns) == len(match):
        return [tuple((value.__class__ is bool, value) for value in cells) for cells in zip(*columns, strict=True)]
    if isinstance(table, HistoryTable):
        ids: list[Hashable] = table.ids.tolist()
        return ids
    return [tuple((value.__class__ is bool, value) for value in cells[1:]) for cells in rows_of(table)]
