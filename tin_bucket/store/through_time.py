"""A query's rows through all its snapshots. Each distinct row is read once, however many snapshots have it."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import orjson

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.judge import same_value
from tin_bucket.core.table.row_expansion import Ints

from .database import Database
from .row_store import row_list, rows
from .snapshot import Snapshot
from .snapshots import Snapshots

_MOST_TOLD = 64 * 2**20  # Bytes of lists that are kept unpacked.
_SPREAD = 4  # How many times more numbers than rows there may be between the first row and the last.


@dataclass(frozen=True, slots=True)
class RowThen:
    """A row as a snapshot has it.

    Attributes:
        position: where it stands; the first one where its key stands for several.
        several: how many rows have the key.
        values: by the name of the column.
    """

    snapshot: Snapshot
    position: int
    several: int
    values: dict[str, Any]


class ThroughTime:
    """Reads what a query's snapshots have in common once."""

    def __init__(self, database: Database, snapshots: Snapshots) -> None:
        self._database = database
        self._snapshots = snapshots
        # Whoever looks at one row's story looks at others'.
        self._told: LockedCache[tuple[int, int, int], row_list.SharedList] = LockedCache(
            _MOST_TOLD, lambda one: one.size
        )

    def lists(self, query_id: int) -> Iterator[tuple[Snapshot, Ints]]:
        """Every snapshot of a query with the ids of its rows, the oldest first. The caller reads together."""
        with self._database.read() as db:
            for snapshot in self._snapshots.of_query(query_id):
                yield snapshot, self._snapshots.ids_in(db, snapshot.id)

    def row(self, query_id: int, match: Sequence[str], key: Sequence[Any]) -> list[tuple[Snapshot, RowThen | None]]:
        """A row in every snapshot of a query, the oldest first; nothing where a snapshot does not have it.

        Args:
            match: the columns that say which row is which.
            key: its values in them.
        """
        out: list[tuple[Snapshot, RowThen | None]] = []
        with self._database.read_together() as db:
            known = self._with_key(db, query_id, match, key)
            wanted = np.array(sorted(known), dtype=np.int64)
            for snapshot, places, row_id in self._places(db, query_id, wanted):
                if not len(places):
                    out.append((snapshot, None))
                    continue
                out.append((snapshot, RowThen(snapshot, int(places[0]), len(places), known[row_id])))
        return out

    def _places(self, db: sqlite3.Connection, query_id: int, wanted: Ints) -> Iterator[tuple[Snapshot, Ints, int]]:
        """Where some rows stand in each snapshot, the oldest first, and which of them stands first."""
        lists = {
            row["id"]: row
            for row in db.execute("SELECT id, base, rows, row_ids FROM snapshot WHERE query_id = ?", (query_id,))
        }
        before: int | None = None
        places = np.zeros(0, dtype=np.int64)
        ids_there = np.zeros(0, dtype=np.int64)
        for snapshot in self._snapshots.of_query(query_id):
            row = lists[snapshot.id]
            if row_list.is_shared(row["row_ids"]) and row["base"] == before and before is not None:
                key = (snapshot.id, snapshot.version, before)
                told = self._told.get_or_make(key, partial(row_list.shared, row["row_ids"]))
                places, ids_there = row_list.follow(told, places, ids_there, wanted)
            else:
                ids = self._snapshots.ids_in(db, snapshot.id)
                places = _places(ids, wanted)
                ids_there = ids[places]
            before = snapshot.id
            yield snapshot, places, int(ids_there[0]) if len(ids_there) else -1

    def _with_key(
        self, db: sqlite3.Connection, query_id: int, match: Sequence[str], key: Sequence[Any]
    ) -> dict[int, dict[str, Any]]:
        """Every distinct row that has a key, by its id."""
        out: dict[int, dict[str, Any]] = {}
        for batch in _batches(db, query_id):
            names = rows.layout_names(db, batch.layout)
            if not set(match) <= set(names):
                continue
            at = [names.index(name) for name in match]
            likely, texts = _likely(at, key)
            # The space in front, which is below all that a row begins with, says that it is not stored as most are.
            found = db.execute(
                f"SELECT id, content FROM row WHERE id BETWEEN ? AND ? AND (({likely}) OR content < X'21')",
                (batch.first, batch.first + batch.count - 1, *texts),
            )
            for row_id, content in found:
                values = rows.decode_row(content)
                if all(same_value(values[place], wanted) for place, wanted in zip(at, key, strict=True)):
                    out[row_id] = dict(zip(names, values, strict=True))
        return out

    def rows(self, query_id: int, ids: Ints) -> list[dict[str, Any]]:
        """Rows of a query by their ids, each by the name of the column."""
        with self._database.read_together() as db:
            batches = _batches(db, query_id)
            layouts = {batch.layout: rows.layout_names(db, batch.layout) for batch in batches}
            firsts = np.array([batch.first for batch in batches], dtype=np.int64)
            of = (np.searchsorted(firsts, ids, side="right") - 1).tolist()
            found = rows.load_rows(db, ids)
        return [
            dict(zip(layouts[batches[at].layout], values, strict=True)) for at, values in zip(of, found, strict=True)
        ]

    def column(self, query_id: int, name: str) -> ColumnOfAll:
        """A column of every distinct row of a query."""
        with self._database.read_together() as db:
            ids: list[int] = []
            values: list[Any] = []
            for batch in _batches(db, query_id):
                names = rows.layout_names(db, batch.layout)
                at = names.index(name) if name in names else None
                own, held = rows.load_stretch(db, batch.first, batch.first + batch.count - 1, at)
                ids += own
                values += held
        return ColumnOfAll(np.array(ids, dtype=np.int64), values)


@dataclass(frozen=True, slots=True)
class _Batch:
    first: int
    count: int
    layout: int


def _batches(db: sqlite3.Connection, query_id: int) -> list[_Batch]:
    found = db.execute(
        "SELECT first_row, count, layout_id FROM row_batch WHERE query_id = ? ORDER BY first_row", (query_id,)
    ).fetchall()
    out: list[_Batch] = []
    for row in found:
        last = out[-1] if out else None
        if last is not None and (last.layout, last.first + last.count) == (row["layout_id"], row["first_row"]):
            # Side by side: one question for both.
            out[-1] = _Batch(last.first, last.count + row["count"], last.layout)
        else:
            out.append(_Batch(row["first_row"], row["count"], row["layout_id"]))
    return out


def _likely(at: Sequence[int], key: Sequence[Any]) -> tuple[str, list[bytes]]:
    """What holds of every stored row that has some values, where it is stored as most are; with its parameters.

    Args:
        at: the places of the values in the row.
    """
    conditions, texts = [], []
    for place, value in zip(at, key, strict=True):
        text = _text_in_row(value)
        if place == 0 and isinstance(value, str) and text:
            # Where a row begins is seen without looking through it.
            conditions.append("content BETWEEN ? AND ?")
            texts += [b"[" + text, b"[" + text + b"\xff"]
        else:
            conditions.append("instr(content, ?)")
            texts.append(text)
    return " AND ".join(conditions), texts


def _text_in_row(value: Any) -> bytes:
    """What stands in every stored row that has a value, where it is stored as most are."""
    if isinstance(value, float) and value.is_integer():
        # A large one is written with an exponent, and may be stored as a whole number as well.
        return str(int(value)).encode() if abs(value) < 2**53 else b""
    if isinstance(value, int) and not isinstance(value, bool):
        return str(value).encode()
    try:
        return orjson.dumps(value)
    except TypeError:
        return b""  # Such as a lone surrogate; a row with one is not stored as most are.


def _places(ids: Ints, wanted: Ints) -> Ints:
    if len(wanted) > 8:
        return np.flatnonzero(np.isin(ids, wanted)).astype(np.int64)
    found = np.zeros(len(ids), dtype=bool)
    for one in wanted.tolist():
        found |= ids == one
    return np.flatnonzero(found).astype(np.int64)


class ColumnOfAll:
    """A column of every distinct row of a query.

    Attributes:
        values: in the order of the rows' ids.
    """

    def __init__(self, ids: Ints, values: list[Any]) -> None:
        """
        Args:
            ids: the rows, ascending. Shape (rows,).
            values: of each of them.
        """
        self._ids = ids
        self.values = values
        self._first = int(ids[0]) if len(ids) else 0
        spread = int(ids[-1]) - self._first + 1 if len(ids) else 0
        # A place for every number is quicker than looking each one up, where the numbers lie close.
        self._place: Ints | None = None
        if spread <= _SPREAD * max(1, len(ids)):
            self._place = np.zeros(spread, dtype=np.int64)
            self._place[ids - self._first] = np.arange(len(ids))

    def at(self, ids: Ints) -> Ints:
        """The places of some rows among the values. Shape (ids,)."""
        if self._place is not None:
            return self._place[ids - self._first]
        return np.searchsorted(self._ids, ids).astype(np.int64)
