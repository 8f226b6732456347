"""Rows whose moments of time are in one zone a column: cells have none, and other tables' headings cannot say it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import UTC, timedelta, timezone
from typing import Any

from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats.moments import ZonedColumn

from .rows import CHUNK, TableRows

_LOOKED_AT = 20  # Chunks in which a column's zone is looked for.


class ZonedRows:
    """Rows whose moments with an offset are all in the zone of their column.

    A column keeps the zone that it was fed in before: what is in the sheet stays comparable when the clocks change.
    """

    def __init__(self, rows: TableRows, known: Mapping[str, int]) -> None:
        """
        Args:
            known: name of a column → the zone that it was fed in before, in minutes east of UTC.
        """
        self._rows = rows
        self._zoned = {at: ZonedColumn() for at, column in enumerate(rows.columns) if column.kind == "date and time"}
        for at, zoned in self._zoned.items():
            minutes = known.get(rows.columns[at].name)
            if minutes is not None:
                zoned.zone = timezone(timedelta(minutes=minutes))
        self._told = dict.fromkeys(at for at, zoned in self._zoned.items() if zoned.zone is not None)
        self._look()

    def _look(self) -> None:
        """Find the zones that are not known: that of the first moment with an offset."""
        for start in range(0, min(self.height, _LOOKED_AT * CHUNK), CHUNK):
            if all(zoned.zone is not None for zoned in self._zoned.values()):
                break
            self.window(start, CHUNK)
        self._told.update(dict.fromkeys(at for at, zoned in self._zoned.items() if zoned.zone is not None))
        for zoned in self._zoned.values():
            zoned.zone = zoned.zone or UTC  # In whatever order the rest is read, it comes out the same.

    @property
    def columns(self) -> Sequence[TableColumn]:
        """The headings."""
        return self._rows.columns

    @property
    def height(self) -> int:
        """The number of rows."""
        return self._rows.height

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""
        return self._local(self._rows.window(start, count))

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""
        return self._local(self._rows.at(numbers))

    def _local(self, rows: list[tuple[Any, ...]]) -> list[tuple[Any, ...]]:
        if not self._zoned or not rows:
            return rows
        columns = list(zip(*rows, strict=True))
        for at, zoned in self._zoned.items():
            columns[at] = tuple(zoned.local(columns[at]))
        return list(zip(*columns, strict=True))

    def zones(self) -> dict[str, int]:
        """Name of a column → the zone that its moments are in, in minutes east of UTC."""
        return {self.columns[at].name: self._zoned[at].minutes() for at in self._told}

    def words(self) -> list[str]:
        """Which column is in which zone, a sentence each."""
        return [f"Times of “{self.columns[at].name}” are in {self._zoned[at].words()}." for at in self._told]


class MomentsAsTexts:
    """Rows whose moments of time are texts, as they came."""

    def __init__(self, rows: TableRows) -> None:
        self._rows = rows
        self.columns: Sequence[TableColumn] = [
            replace(column, kind="text") if column.kind == "date and time" else column for column in rows.columns
        ]

    @property
    def height(self) -> int:
        """The number of rows."""
        return self._rows.height

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""
        return self._rows.window(start, count)

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""
        return self._rows.at(numbers)
