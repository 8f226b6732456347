"""A table after a line: its columns are picked from the tables before, and only what is new is held."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any

import numpy as np

from tin_bucket.core.columns.compressed import USUAL, Packed
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.shape import ColumnShape, Shape

from .row_memo import RowMemo, digest
from .sandbox import LARGEST, in_64_bits
from .source import KeptTable, TableSource, picked


class Shared(list[Any]):
    """A column in which equal values are one object: it is small as it is."""


class Values:
    """Values that a line made."""

    def __init__(self, values: Sequence[Any]) -> None:
        long = len(values) >= USUAL.packed_from and not isinstance(values, Packed | Shared)
        self._values = Packed(values) if long else values

    def all(self) -> Sequence[Any]:
        """All of them."""
        return self._values

    def at(self, rows: Ints) -> list[Any]:
        """Those of some rows; nothing for a number below 0."""
        return picked(self._values, rows)


class FromTable:
    """A column of a table that is read where it lies."""

    def __init__(self, table: TableSource, position: int) -> None:
        self.table = table
        self.position = position

    def all(self) -> Sequence[Any]:
        """All its values."""
        found = self.table.column(self.table.columns[self.position].name)
        return found[1] if found is not None else [None] * self.table.height

    def at(self, rows: Ints) -> list[Any]:
        """Those of some rows; nothing for a number below 0."""
        there = rows >= 0
        if there.all():
            return [row[self.position] for row in self.table.at(rows)]
        found = iter(self.table.at(rows[there]))
        return [next(found)[self.position] if one else None for one in there.tolist()]


@dataclass(frozen=True, slots=True)
class Cells:
    """A column of a stage: values somewhere, and for each row where it stands among them.

    Attributes:
        rows: for each row the number of its value, −1 for none; every value in order when absent. Shape (rows,).
        missing: what stands where there is none.
    """

    values: Values | FromTable
    rows: Ints | None = None
    missing: Any = None

    def all(self) -> Sequence[Any]:
        """All values, in the order of the rows."""
        whole = self.values.all()
        if self.rows is None:
            return whole
        found = picked(whole, self.rows)
        if self.missing is None:
            return found
        return [self.missing if row < 0 else value for row, value in zip(self.rows.tolist(), found, strict=True)]

    def at(self, rows: Ints) -> list[Any]:
        """The values of some rows."""
        numbers = rows if self.rows is None else self.rows[rows]
        found = self.values.at(numbers)
        if self.missing is None:
            return found
        return [self.missing if row < 0 else value for row, value in zip(numbers.tolist(), found, strict=True)]


@dataclass(frozen=True, slots=True)
class Note:
    """What a line says of what it did.

    Attributes:
        look: which rows it speaks of, as they can be looked at: ``dropped``, ``odd``, ``unmatched`` or ``several``.
        odd: whether it wants attention.
    """

    text: str
    look: str = ""
    odd: bool = False


@dataclass(frozen=True, slots=True)
class StoredRows:
    """Rows of a stage that are stored ones.

    Attributes:
        memo: what was worked out of stored rows by themselves.
        ids: of each row. Shape (rows,).
        made_of: column → what it is made of, for those whose value depends on the stored row alone.
    """

    memo: RowMemo
    ids: Ints
    made_of: dict[str, str]

    def at(self, rows: Ints) -> StoredRows:
        """Those at some places."""
        return StoredRows(self.memo, self.ids[rows], self.made_of)


@dataclass(slots=True)
class Stage:
    """A table after a line.

    Attributes:
        key: what it was made of and how; another one for everything that would make it stale.
        before: for each row the row of the table before that it is, −1 for none; the same rows when absent.
        counted: gives the rows of the table before that are counted in a row; absent without groups.
        brought: for each row the row of the other table whose columns it has, −1 for none.
        others: the other tables that it was made with.
        looks: the rows of the table before that a note speaks of.
        lit: names of the columns that are new or changed.
        totals: whether the last row is of all others.
        stored: where its rows are stored ones, what was worked out of them.
    """

    key: tuple[Any, ...]
    columns: list[TableColumn]
    cells: list[Cells]
    height: int
    as_of: str
    before: Ints | None = None
    counted: Callable[[int], Ints] | None = None
    brought: Ints | None = None
    others: list[TableSource] = field(default_factory=list)
    looks: dict[str, Ints] = field(default_factory=dict)
    notes: list[Note] = field(default_factory=list)
    lit: list[str] = field(default_factory=list)
    totals: bool = False
    stored: StoredRows | None = None
    _texts: dict[str, bool] = field(default_factory=dict)

    @classmethod
    def of(cls, table: TableSource, as_of: str, memo: RowMemo | None = None) -> Stage:
        """The table that the first line begins from.

        Args:
            memo: what was worked out of stored rows.
        """
        cells = [Cells(FromTable(table, at)) for at in range(len(table.columns))]
        stored = None
        if memo is not None and isinstance(table, KeptTable):
            # A row's id says what its columns are called, too.
            stored = StoredRows(memo, table.ids(), {column.name: column.name for column in table.columns})
        return cls(table.key, list(table.columns), cells, table.height, as_of, stored=stored)

    @property
    def names(self) -> list[str]:
        """The names of the columns."""
        return [column.name for column in self.columns]

    def values(self, name: str) -> Sequence[Any]:
        """All values of a column."""
        return self.cells[self.names.index(name)].all()

    def has_texts(self, name: str) -> bool:
        """Whether a column has texts among its values."""
        known = self._texts.get(name)
        if known is None and self.stored is not None and name in self.stored.made_of and not self._is_at_hand(name):
            what = digest("texts", self.stored.made_of[name])
            flags = self.stored.memo.values(what, self.stored.ids, lambda rows: _are_texts(self.some(name, rows)))
            known = self._texts[name] = any(flags)
        if known is None:
            values = self.values(name)
            types = values.all_types() if isinstance(values, Packed) else set(map(type, values))
            known = self._texts[name] = str in types or (int in types and _too_big(values))
        return known

    def _is_at_hand(self, name: str) -> bool:
        """Whether a column is read quickly as a whole, from its copy."""
        cells = self.cells[self.names.index(name)]
        origin = cells.values
        if cells.rows is not None or not isinstance(origin, FromTable) or not isinstance(origin.table, KeptTable):
            return False
        return origin.table.has_copy(name)

    def some(self, name: str, rows: Ints) -> list[Any]:
        """The values of a column in some rows; of most rows all are read at once."""
        cells = self.cells[self.names.index(name)]
        return picked(cells.all(), rows) if len(rows) * 3 > self.height else cells.at(rows)

    def shape(self) -> Shape:
        """The table as a line sees it."""
        columns = [
            ColumnShape(column.name, column.kind, column.unit, partial(self.has_texts, column.name))
            for column in self.columns
        ]
        return Shape(columns, self.as_of, self.distinct)

    def distinct(self, name: str) -> list[Any]:
        """The different values of a column, in the order in which they come first; what is missed is nothing."""
        return list(dict.fromkeys(plain(value) for value in self.values(name)))

    def behind(self, row: int) -> Ints:
        """The rows of the table before that are behind a row. Shape (rows behind,)."""
        if self.counted is not None:
            return self.counted(row)
        number = row if self.before is None else int(self.before[row])
        return np.array([number] if number >= 0 else [], dtype=np.int64)

    # As a table that can be looked at ----------------------------------------------------------------------------

    def column(self, name: str) -> tuple[TableColumn, Sequence[Any]] | None:
        """A heading with its values."""
        for heading, cells in zip(self.columns, self.cells, strict=True):
            if heading.name == name:
                return heading, cells.all()
        return None

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows after each other."""
        return self.at(np.arange(start, max(start, min(start + count, self.height)), dtype=np.int64))

    def at(self, rows: Ints) -> list[tuple[Any, ...]]:
        """The rows with some numbers. Each table behind is read once."""
        if not self.cells:
            return [()] * len(rows)
        numbers: dict[int, Ints] = {}
        tables: dict[tuple[int, int], list[tuple[Any, ...]]] = {}
        data: list[list[Any]] = []
        for cells in self.cells:
            own = numbers.get(id(cells.rows))
            if own is None:
                own = numbers[id(cells.rows)] = rows if cells.rows is None else cells.rows[rows]
            if not isinstance(cells.values, FromTable) or (len(own) and int(own.min()) < 0):
                data.append(cells.at(rows))
                continue
            key = (id(cells.values.table), id(cells.rows))
            if key not in tables:
                tables[key] = cells.values.table.at(own)
            position = cells.values.position
            data.append([row[position] for row in tables[key]])
        return list(zip(*data, strict=True))

    def rows_with(self, text: str) -> Ints | None:
        """All rows are looked at."""
        return None


def _too_big(values: Sequence[Any]) -> bool:
    """Whether there are whole numbers of more than 64 bits, which are texts to SQLite."""
    if in_64_bits(values):
        return False
    whole = [value for value in values if type(value) is int]
    return min(whole) < -LARGEST or max(whole) >= LARGEST


def _are_texts(values: list[Any]) -> list[bool]:
    """For each value whether it is a text to SQLite; where all are alike, they are not looked at one by one."""
    types = set(map(type, values))
    if types <= {float, bool, type(None)}:
        return [False] * len(values)
    if types == {str}:
        return [True] * len(values)
    if str not in types and in_64_bits(values):
        return [False] * len(values)
    return list(map(_is_text, values))


def _is_text(value: Any) -> bool:
    return isinstance(value, str) or (type(value) is int and not -LARGEST <= value < LARGEST)


def plain(value: Any) -> Any:
    """A value as it is compared: what a lookup missed is nothing."""
    return value if value is None or isinstance(value, str | int | float) else None
