"""How large snapshots are, and letting some of them go: the others read the same afterwards."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints

from .database import Database
from .row_store import row_list
from .row_store.rows import GONE_DIGEST
from .snapshots import Snapshots

_CHUNK = 900  # Placeholders in one statement.


@dataclass(frozen=True, slots=True)
class Weight:
    """What snapshots take up.

    Attributes:
        rows: rows that only they have.
        size: bytes of those rows and of their own lists.
    """

    rows: int
    size: int


class Removal:
    """Weighs and deletes the snapshots of a query."""

    def __init__(self, database: Database, snapshots: Snapshots) -> None:
        self._database = database
        self._snapshots = snapshots

    def weights(self, query_id: int) -> dict[int, Weight]:
        """Snapshot → what would be free without it alone."""
        with self._database.read_together() as db:
            first, sizes = _row_sizes(db, query_id)
            lists = _list_sizes(db, query_id)
            holders = np.zeros(len(sizes), dtype=np.int32)
            for _, ids in self._distinct(db, lists):
                holders[ids - first] += 1
            out = {}
            for number, ids in self._distinct(db, lists):
                own = ids[holders[ids - first] == 1]
                out[number] = Weight(len(own), int(sizes[own - first].sum()) + lists[number])
        return out

    def whole_size(self, query_id: int) -> int:
        """Bytes of all rows and lists of a query's snapshots."""
        with self._database.read_together() as db:
            return int(_row_sizes(db, query_id)[1].sum()) + sum(_list_sizes(db, query_id).values())

    def freed(self, query_id: int, ids: Collection[int]) -> Weight:
        """What deleting some snapshots of a query would free.

        Raises:
            ProblemError: ``snapshot-unknown``.
        """
        with self._database.read_together() as db:
            chosen = _known(db, query_id, ids)
            return _weight(db, query_id, chosen, self._only_in(db, _list_sizes(db, query_id), chosen))

    def _distinct(self, db: sqlite3.Connection, numbers: Collection[int]) -> Iterator[tuple[int, Ints]]:
        for number in numbers:
            yield number, np.unique(self._snapshots.ids_in(db, number))

    def _only_in(self, db: sqlite3.Connection, numbers: Collection[int], chosen: set[int]) -> Ints:
        """The ids of the rows that are in some snapshots of a query and in no other one."""
        parts: dict[bool, list[Ints]] = {True: [], False: []}
        for number, ids in self._distinct(db, numbers):
            parts[number in chosen].append(ids)
        none = np.zeros(0, dtype=np.int64)
        inside, outside = (np.unique(np.concatenate([none, *parts[which]])) for which in (True, False))
        return np.setdiff1d(inside, outside, assume_unique=True)

    def delete(self, query_id: int, ids: Collection[int]) -> Weight:
        """Delete some snapshots of a query: both what only they hold and what is told of them.

        Raises:
            ProblemError: ``snapshot-unknown``, or ``last-snapshot`` when none would be left.
        """
        with self._database.write() as db:
            chosen = _known(db, query_id, ids)
            order = list(_list_sizes(db, query_id))
            if not chosen:
                return Weight(0, 0)
            if len(chosen) == len(order):
                raise fail(
                    "last-snapshot",
                    "No snapshot would be left.",
                    where="these snapshots",
                    do="Keep one of them; or delete the query.",
                )
            own = self._only_in(db, order, chosen)
            freed = _weight(db, query_id, chosen, own)
            self._rebase_lists(db, chosen)
            marks = ",".join("?" * len(chosen))
            db.execute(f"DELETE FROM snapshot WHERE id IN ({marks})", list(chosen))
            _delete_rows(db, query_id, own)
            for before, after in _new_neighbours(order, chosen):
                match = db.execute("SELECT match FROM snapshot WHERE id = ?", (after,)).fetchone()[0]
                self._snapshots.note_changes(db, before, after, json.loads(match))
        return freed

    def _rebase_lists(self, db: sqlite3.Connection, chosen: set[int]) -> None:
        """Write the lists that build on one that goes anew: on the nearest that stays, or in full."""
        found = db.execute("SELECT id, base FROM snapshot WHERE base IS NOT NULL ORDER BY id").fetchall()
        bases: dict[int, int | None] = dict(map(tuple, found))
        for number, base in bases.items():
            if number in chosen or base not in chosen:
                continue
            ids = self._snapshots.ids_in(db, number)
            while base is not None and base in chosen:
                base = bases.get(base)
            packed = row_list.encode(ids, self._snapshots.ids_in(db, base) if base is not None else None)
            if not row_list.is_shared(packed):
                base = None
            depth = 0
            if base is not None:
                depth = 1 + int(db.execute("SELECT depth FROM snapshot WHERE id = ?", (base,)).fetchone()[0])
            db.execute(
                "UPDATE snapshot SET row_ids = ?, base = ?, depth = ? WHERE id = ?", (packed, base, depth, number)
            )


def _known(db: sqlite3.Connection, query_id: int, ids: Collection[int]) -> set[int]:
    """Those ids, if they are all snapshots of the query.

    Raises:
        ProblemError: ``snapshot-unknown``.
    """
    known = set(_list_sizes(db, query_id))
    unknown = set(ids) - known
    if unknown:
        raise fail(
            "snapshot-unknown",
            f"This query has no snapshot {min(unknown)}.",
            where=f"snapshot {min(unknown)}",
            do="Choose among those that are there.",
        )
    return set(ids)


def _weight(db: sqlite3.Connection, query_id: int, chosen: set[int], own: Ints) -> Weight:
    """What some snapshots take up.

    Args:
        own: the ids of the rows that only they have.
    """
    first, sizes = _row_sizes(db, query_id)
    lists = _list_sizes(db, query_id)
    return Weight(len(own), int(sizes[own - first].sum()) + sum(lists[one] for one in chosen))


def _list_sizes(db: sqlite3.Connection, query_id: int) -> dict[int, int]:
    """Snapshot → bytes of its list of rows, its headings and its origins, the oldest first."""
    rows = db.execute(
        "SELECT id, length(row_ids) + length(origins) + length(headings) AS size FROM snapshot WHERE query_id = ?"
        " ORDER BY taken, id",
        (query_id,),
    ).fetchall()
    return {row["id"]: row["size"] for row in rows}


def _row_sizes(db: sqlite3.Connection, query_id: int) -> tuple[int, Ints]:
    """The id of a query's first row, and for each id from there on how many bytes the row takes."""
    ends = db.execute(
        "SELECT min(first_row) AS first, max(first_row + count) AS beyond FROM row_batch WHERE query_id = ?",
        (query_id,),
    ).fetchone()
    if ends["first"] is None:
        return 0, np.zeros(0, dtype=np.int64)
    first = int(ends["first"])
    sizes = np.zeros(int(ends["beyond"]) - first, dtype=np.int64)
    for batch in db.execute("SELECT first_row, count FROM row_batch WHERE query_id = ?", (query_id,)).fetchall():
        bounds = (batch["first_row"], batch["first_row"] + batch["count"] - 1)
        found = db.execute("SELECT id, length(content) FROM row WHERE id BETWEEN ? AND ?", bounds).fetchall()
        if found:
            pairs = np.array([tuple(row) for row in found], dtype=np.int64)
            sizes[pairs[:, 0] - first] = pairs[:, 1]
    return first, sizes


def _delete_rows(db: sqlite3.Connection, query_id: int, ids: Ints) -> None:
    """Delete rows, and what tells their content again: the id of one that is gone is never found for new content."""
    for start in range(0, len(ids), _CHUNK):
        some = ids[start : start + _CHUNK].tolist()
        db.execute(f"DELETE FROM row WHERE id IN ({','.join('?' * len(some))})", some)
    highest = db.execute("SELECT max(first_row) FROM row_batch").fetchone()[0]
    for batch in db.execute("SELECT * FROM row_batch WHERE query_id = ?", (query_id,)).fetchall():
        first, count = int(batch["first_row"]), int(batch["count"])
        low, high = np.searchsorted(ids, (first, first + count))
        if low == high:
            continue
        digests = np.frombuffer(batch["digests"], dtype="<i8").reshape(-1, 2).copy()
        digests[ids[low:high] - first] = GONE_DIGEST
        # The last batch says up to where ids were given: none is ever given twice.
        if first != highest and bool((digests == GONE_DIGEST).all()):
            db.execute("DELETE FROM row_batch WHERE first_row = ?", (first,))
        else:
            db.execute("UPDATE row_batch SET digests = ? WHERE first_row = ?", (digests.tobytes(), first))


def _new_neighbours(order: Sequence[int], chosen: set[int]) -> Iterator[tuple[int, int]]:
    """The snapshots that stand next to each other now, and did not before."""
    before: int | None = None
    gap = False
    for number in order:
        if number in chosen:
            gap = True
            continue
        if gap and before is not None:
            yield before, number
        before, gap = number, False
