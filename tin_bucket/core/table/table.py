"""A table in memory: named columns of a kind, their values, and where each row came from."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from tin_bucket.core.columns.kind_registry import Kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.extraction import ValueSource

from .flatten import Cells, Repeated
from .row_expansion import Ints


@dataclass(frozen=True, slots=True)
class TableColumn:
    """What is known of a column.

    Attributes:
        name: distinct within its table.
        kind: what its values are.
        origin: ``taken`` from the records, the name of the lookup that brought it, or ``worked out`` or ``brought in``
            by a work-out line.
        place: plain JSONPath from the record, or from the lookup's answer.
        unit: what its numbers count, for the heading.
        filled: how many rows have a value here, where that was counted.
        nulls: how many of the empty ones are a null of the answer, where that is known; the others are absent.
        of: where a taken column comes from, see :class:`take.ColumnSpec`.
        note: what people wrote about it.
        hidden: kept, and neither shown nor handed on.
        list_words: how values of a list became one cell, in words; empty when there is no list.
        source: the query or sheet that a column was brought in from.
        asked: when the oldest of a lookup's answers was asked for, ISO 8601, where some are kept from before.
    """

    name: str
    kind: Kind
    origin: str = "taken"
    place: str = ""
    unit: str = ""
    filled: int | None = None
    nulls: int | None = None
    of: ValueSource = "record"
    note: str = ""
    hidden: bool = False
    list_words: str = ""
    source: str = ""
    asked: str = ""


@dataclass(slots=True)
class Table:
    """Columns and their values.

    Attributes:
        columns: the headings.
        data: for each column the list of its values, each of the same length.
        page: for each row which page it came from, counted from 0. Shape (rows,).
        record: for each row which record of that page. Shape (rows,).
        items: for each list that was made rows which of its items a row holds, −1 for none. Shapes (rows,).
    """

    columns: list[TableColumn]
    data: list[Cells]
    page: Ints
    record: Ints
    items: list[Ints] = field(default_factory=list)

    @property
    def height(self) -> int:
        """The number of rows."""
        return len(self.page)

    def column(self, name: str) -> Cells | None:
        """The values of the column with that name, or ``None``."""
        for heading, values in zip(self.columns, self.data, strict=True):
            if heading.name == name:
                return values
        return None

    def first(self, rows: int) -> Table:
        """The first rows alone."""
        cut: list[Cells] = [values[:rows] for values in self.data]
        return Table(
            self.columns, cut, self.page[:rows], self.record[:rows], [numbers[:rows] for numbers in self.items]
        )

    def chosen(self, rows: Ints) -> Table:
        """Some of the rows, by their numbers, in that order. How many of the empty cells are nulls is not known then.

        Args:
            rows: shape (rows of the new table,).
        """
        at = rows.tolist()
        data: list[Cells] = []
        for values in self.data:
            if isinstance(values, Repeated):
                data.append(Repeated(values.values, [values.record[row] for row in at]))
            else:
                whole = list(values)
                data.append([whole[row] for row in at])
        columns = [replace(column, nulls=None) for column in self.columns]
        return Table(columns, data, self.page[rows], self.record[rows], [numbers[rows] for numbers in self.items])

    def rows(self, start: int, stop: int) -> list[tuple[Any, ...]]:
        """The rows from `start` up to `stop`, each a tuple in column order."""
        if not self.data:
            return [()] * max(0, min(stop, self.height) - start)
        return list(zip(*(values[start:stop] for values in self.data), strict=True))


def empty_table() -> Table:
    """A table without rows and columns."""
    none = np.zeros(0, dtype=np.int64)
    return Table([], [], none, none)


def count_filled(table: Table) -> list[TableColumn]:
    """The headings with the number of rows that have a value; a missed lookup is none."""
    return [
        replace(heading, filled=_filled(cells, heading.origin != "taken"))
        for heading, cells in zip(table.columns, table.data, strict=True)
    ]


def _filled(cells: Cells, may_miss: bool) -> int:
    if isinstance(cells, Repeated):
        empty = np.fromiter((value is None for value in cells.values), dtype=bool, count=len(cells.values))
        if not empty.any():
            return len(cells)
        return int(len(cells) - empty[cells.record].sum())
    missed = sum(type(value) is Miss for value in cells) if may_miss else 0
    return len(cells) - cells.count(None) - missed
