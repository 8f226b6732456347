"""What a feed is given, and what came of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, Protocol, TypeVar

import numpy as np

from tin_bucket.core.hand_over.feed import FeedModel
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.traffic.address_policy import Reach

from .folders import Folders
from .workbook.rows import TableRows

_CHUNK = 4_096


@dataclass(frozen=True, slots=True)
class Dated:
    """A table of one date.

    Attributes:
        title: the query's name.
        taken: when it was taken, with its zone.
        state: ``complete``, ``unverified`` or ``incomplete``.
        evidence: what proves that, or what is missing.
        rows: its rows, without hidden columns.
        source: where it comes from, in words.
    """

    title: str
    taken: datetime
    state: str
    evidence: str
    rows: TableRows
    source: str = ""

    @property
    def as_of(self) -> str:
        """As of when it is and whether it is complete, in a sentence."""
        told = f"As of {self.taken:%Y-%m-%d %H:%M}, {self.state}"
        return f"{told}: {self.evidence}" if self.state != "complete" and self.evidence else told


@dataclass(frozen=True, slots=True)
class DateOf:
    """A date of a query.

    Attributes:
        key: what tells it from others, also from one of the same day.
        taken: when it was taken, with its zone.
        state: ``complete``, ``unverified`` or ``incomplete``.
        read: gives the table.
    """

    key: str
    taken: datetime
    state: str
    read: Callable[[], Dated]


@dataclass(frozen=True, slots=True)
class Delivery:
    """What a feed hands over.

    Attributes:
        table: the table, or the rows of it that the feed wants.
        match: the columns whose values say which row is which.
        memory: what the feed remembers of the last time.
        folders: where it may write.
        versions: the folder for versions of files that are replaced.
        now: the moment of the delivery.
        other: gives the newest table of another query by its name.
        dates: gives the dates of the query, from the oldest.
        password: gives the password that a feed is kept with; an empty text where there is none.
        reach: which network addresses may be called.
        whole: whether the table has all rows, so that what it lacks is gone.
    """

    table: Dated
    match: Sequence[str]
    memory: Mapping[str, Any]
    folders: Folders
    versions: Path
    now: datetime
    other: Callable[[str], Dated]
    dates: Callable[[], Sequence[DateOf]]
    password: Callable[[FeedModel], str]
    reach: Reach
    whole: bool = True


@dataclass(slots=True)
class Handed:
    """What came of a feed, or would.

    Attributes:
        places: what is written, such as paths.
        there: what is there now, in a sentence; empty for nothing.
        told: what was done, or would be, a sentence each.
        warned: what deserves a look.
        rows: how many rows are written.
        nothing: whether nothing had to be written.
        memory: what the feed remembers for the next time.
    """

    places: list[str] = field(default_factory=list)
    there: str = ""
    told: list[str] = field(default_factory=list)
    warned: list[str] = field(default_factory=list)
    rows: int = 0
    nothing: bool = False
    memory: dict[str, Any] = field(default_factory=dict)


M_contra = TypeVar("M_contra", bound=FeedModel, contravariant=True)


class FeedCode(Protocol[M_contra]):
    """The code of a kind of feed."""

    def ahead(self, feed: M_contra, delivery: Delivery) -> Handed:
        """What it would do; nothing is written.

        Raises:
            ProblemError: it cannot.
        """

    def deliver(self, feed: M_contra, delivery: Delivery) -> Handed:
        """Hand the table over.

        Raises:
            ProblemError: it cannot; what was there is as it was.
        """


class Shown:
    """The columns of a table that are handed on, which the hidden ones are not."""

    def __init__(self, rows: TableRows) -> None:
        self._rows = rows
        self._picks = [at for at, column in enumerate(rows.columns) if not column.hidden]
        self._all = len(self._picks) == len(rows.columns)
        self.columns: Sequence[TableColumn] = [rows.columns[at] for at in self._picks]
        self.height = rows.height

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""
        return self._shown(self._rows.window(start, count))

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""
        return self._shown(self._rows.at(numbers))

    def _shown(self, rows: list[tuple[Any, ...]]) -> list[tuple[Any, ...]]:
        return rows if self._all else [tuple([row[at] for at in self._picks]) for row in rows]


class Picked:
    """Some rows of a table."""

    def __init__(self, rows: TableRows, numbers: Ints) -> None:
        self._rows, self._numbers = rows, numbers
        self.columns = rows.columns
        self.height = len(numbers)

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""
        some = self._numbers[start : start + count]
        return self._rows.at(some) if len(some) else []

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""
        return self._rows.at(self._numbers[numbers]) if len(numbers) else []


class With:
    """A table with a further column, in front or behind, that has one value in all rows or one for each."""

    def __init__(self, rows: TableRows, column: TableColumn, values: Any, first: bool = False) -> None:
        """
        Args:
            values: one value, or a list with one for each row.
        """
        self._rows, self._values, self._first = rows, values, first
        name, number = column.name, 2
        taken = {one.name for one in rows.columns}
        while name in taken:
            name, number = f"{column.name} ({number})", number + 1
        self.added = TableColumn(name, column.kind)
        self.columns: Sequence[TableColumn] = [self.added, *rows.columns] if first else [*rows.columns, self.added]
        self.height = rows.height

    def window(self, start: int, count: int) -> list[tuple[Any, ...]]:
        """Some rows, one after the other."""
        rows = self._rows.window(start, count)
        return self._with(rows, range(start, start + len(rows)))

    def at(self, numbers: Ints) -> list[tuple[Any, ...]]:
        """The rows of some numbers."""
        return self._with(self._rows.at(numbers), numbers)

    def _with(self, rows: list[tuple[Any, ...]], numbers: Any) -> list[tuple[Any, ...]]:
        several = isinstance(self._values, list)
        out = []
        for row, number in zip(rows, numbers, strict=True):
            added = (self._values[number] if several else self._values,)
            out.append((*added, *row) if self._first else (*row, *added))
        return out


def rows_in_order(rows: TableRows) -> Iterator[tuple[Any, ...]]:
    """Every row, read a chunk at a time."""
    for start in range(0, rows.height, _CHUNK):
        yield from rows.window(start, _CHUNK)


def first_rows(rows: TableRows, most: int | None) -> TableRows:
    """No more than so many rows."""
    return rows if most is None or rows.height <= most else Picked(rows, np.arange(most, dtype=np.int64))


def counted(count: int, one: str, many: str = "") -> str:
    """1 row, 2 rows."""
    return f"{count:,} {one if count == 1 else many or f'{one}s'}"
