"""Snapshots: dated copies of a query's table, each an ordered list of row ids."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import AbstractContextManager
from dataclasses import asdict
from datetime import datetime
from operator import itemgetter
from secrets import randbits
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.alike.registry import Alike
from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.analysis.compare import PLAIN, Comparison, compare, difference
from tin_bucket.core.analysis.duplicates import duplicates_by_content, repeats_within_pages
from tin_bucket.core.document.made_with import changed_since, other_values
from tin_bucket.core.document.query import Brief
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import Table, TableColumn, count_filled
from tin_bucket.store.row_store import column_copy, row_list, rows

from .database import Database
from .row_store.tuning import USUAL, StoreTuning
from .snapshot import FIELDS, MOST_NAME, MOST_NOTE, Snapshot, digest_of, read_snapshot

MOST_DEPTH = 24  # How many lists may build on each other before one is written in full again.
_CACHED_LISTS = 24
_MOST_SEARCHED = 100_000  # Rows that are looked through for one row's earlier values.


def stored(db: sqlite3.Connection, query_id: int, table: Table, tuning: StoreTuning) -> tuple[int, Ints]:
    """Store a table's rows; gives their layout and ids."""
    names = [column.name for column in table.columns]
    layout = rows.layout_id(db, names)
    order = sorted(range(len(names)), key=names.__getitem__)
    ordered = [table.data[index] for index in order]
    if ordered and table.height >= tuning.long_from:
        return layout, rows.store_long(db, query_id, layout, ordered, table.height, tuning.part)
    contents = rows.encode_columns(ordered, table.height, tuning.part) if ordered else [b"[]"] * table.height
    return layout, rows.store_rows(db, query_id, layout, contents)


def sealed(ids: Ints, table: Table, match: list[str]) -> dict[str, str | bytes]:
    """A snapshot's headings, match columns and origins as they are stored, with the digest of it all."""
    headings = json.dumps([asdict(column) for column in count_filled(table)])
    matched = json.dumps(match)
    origins = row_list.pack_columns([table.page, table.record, *table.items])
    digest = digest_of(ids, headings, matched, origins)
    return {"headings": headings, "match": matched, "origins": origins, "digest": digest}


class Snapshots:
    """Reads and writes snapshots."""

    def __init__(self, database: Database, tuning: StoreTuning = USUAL) -> None:
        self._database = database
        self._tuning = tuning
        self._lists: LockedCache[tuple[int, int], Ints] = LockedCache(_CACHED_LISTS)

    def add(
        self,
        db: sqlite3.Connection,
        query_id: int,
        run_id: int,
        table: Table,
        *,
        match: list[str],
        state: str,
        evidence: str,
        stated_total: int | None,
        now: datetime,
    ) -> int:
        """Store a table as a snapshot, inside the caller's transaction; returns the snapshot's number."""
        layout, ids = stored(db, query_id, table, self._tuning)
        before = db.execute(
            "SELECT id, depth FROM snapshot WHERE query_id = ? ORDER BY taken DESC, id DESC LIMIT 1",
            (query_id,),
        ).fetchone()
        base_id, base, depth = None, None, 0
        if before is not None and before["depth"] < MOST_DEPTH:
            base_id, depth = before["id"], before["depth"] + 1
            base = self.ids_in(db, base_id)
        packed = row_list.encode(ids, base)
        if not row_list.is_shared(packed):
            base_id, depth = None, 0
        cursor = db.execute(
            "INSERT INTO snapshot (query_id, run_id, taken, headings, match, layout_id, rows, state, evidence,"
            " stated_total, since, base, depth, row_ids, origins, digest, version)"
            " VALUES (:query, :run, :taken, :headings, :match,"
            " :layout, :rows, :state, :evidence, :total, '{}', :base, :depth, :ids, :origins, :digest, :version)",
            {
                "query": query_id,
                "run": run_id,
                "taken": now.isoformat(timespec="seconds"),
                **sealed(ids, table, match),
                "layout": layout,
                "rows": table.height,
                "state": state,
                "evidence": evidence,
                "total": stated_total,
                "base": base_id,
                "depth": depth,
                "ids": packed,
                "version": _new_version(),
            },
        )
        snapshot_id = int(cursor.lastrowid or 0)
        column_copy.store(db, query_id, snapshot_id, table, self._tuning.copied_from)
        if before is not None:
            self.note_changes(db, before["id"], snapshot_id, match)
        return snapshot_id

    def rebuild(
        self, db: sqlite3.Connection, snapshot_id: int, table: Table, *, match: list[str], brief: str, now: datetime
    ) -> None:
        """Put another table in the place of a snapshot's, inside the caller's transaction. When it was taken, and what
        run made it, stays; it is marked as rebuilt."""
        query_id = int(db.execute("SELECT query_id FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()[0])
        layout, ids = stored(db, query_id, table, self._tuning)
        # Lists that build on this one are written in full before it changes.
        for row in db.execute("SELECT id FROM snapshot WHERE base = ?", (snapshot_id,)).fetchall():
            whole = row_list.encode(self.ids_in(db, row["id"]), None)
            db.execute("UPDATE snapshot SET row_ids = ?, base = NULL, depth = 0 WHERE id = ?", (whole, row["id"]))
        db.execute(
            "UPDATE snapshot SET headings = :headings, match = :match, layout_id = :layout, rows = :rows,"
            " base = NULL, depth = 0, row_ids = :ids, origins = :origins, digest = :digest, rebuilt = :now,"
            " brief = :brief, version = :version WHERE id = :id",
            {
                "id": snapshot_id,
                "version": _new_version(),
                **sealed(ids, table, match),
                "layout": layout,
                "rows": table.height,
                "ids": row_list.encode(ids, None),
                "now": now.isoformat(timespec="seconds"),
                "brief": brief,
            },
        )
        if self._newest(db, query_id) == snapshot_id:
            column_copy.store(db, query_id, snapshot_id, table, self._tuning.copied_from)
        order = [
            int(row["id"])
            for row in db.execute("SELECT id FROM snapshot WHERE query_id = ? ORDER BY taken, id", (query_id,))
        ]
        at = order.index(snapshot_id)
        for then, now_id in zip(order[max(0, at - 1) : at + 1], order[max(1, at) : at + 2], strict=False):
            own = json.loads(db.execute("SELECT match FROM snapshot WHERE id = ?", (now_id,)).fetchone()[0])
            self.note_changes(db, then, now_id, own)

    def restore(self, db: sqlite3.Connection, snapshot_id: int, table: Table, match: list[str]) -> bool:
        """Write a snapshot's list of rows, headings and origins again as they were stored, inside the caller's
        transaction, where a table is just what they were made of; gives whether it is.

        Args:
            table: what reading the snapshot's answers again gave.
        """
        row = db.execute("SELECT query_id, digest FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        layout, ids = stored(db, row["query_id"], table, self._tuning)
        parts = sealed(ids, table, match)
        if parts["digest"] != row["digest"]:
            return False
        # Lists that build on this one say what differs from these very rows.
        db.execute(
            "UPDATE snapshot SET headings = :headings, match = :match, origins = :origins, layout_id = :layout,"
            " rows = :rows, base = NULL, depth = 0, row_ids = :ids, version = :version WHERE id = :id",
            {
                **parts, "layout": layout, "rows": table.height, "ids": row_list.encode(ids, None),
                "version": _new_version(), "id": snapshot_id,
            },
        )  # fmt: skip
        if self._newest(db, row["query_id"]) == snapshot_id:
            column_copy.store(db, row["query_id"], snapshot_id, table, self._tuning.copied_from)
        return True

    def copy_columns(self, db: sqlite3.Connection, snapshot_id: int) -> None:
        """Copy the columns of a snapshot from its rows again, inside the caller's transaction."""
        snapshot = self.get(snapshot_id)
        found = self._load(db, snapshot_id, self.ids_in(db, snapshot_id))  # The copies are not asked.
        cells = list(zip(*found, strict=True)) or [() for _ in snapshot.columns]
        nowhere = np.zeros(snapshot.rows, dtype=np.int64)
        table = Table(snapshot.columns, [list(values) for values in cells], nowhere, nowhere)
        column_copy.store(db, snapshot.query_id, snapshot_id, table, self._tuning.copied_from)

    def _newest(self, db: sqlite3.Connection, query_id: int) -> int:
        newest = "SELECT id FROM snapshot WHERE query_id = ? ORDER BY taken DESC, id DESC LIMIT 1"
        return int(db.execute(newest, (query_id,)).fetchone()[0])

    def note_changes(self, db: sqlite3.Connection, then: int, now: int, match: list[str]) -> None:
        """Note what has changed between two snapshots that stand next to each other, inside the caller's transaction:
        rows, by what counts as the same for the query; or the query itself, which is no change of the data."""
        since = _other_query(db, then, now)
        if not since:
            since = self._compare(db, then, now, match, Judge(_alike(db, now))).differs()
        db.execute("UPDATE snapshot SET since = ? WHERE id = ?", (json.dumps(since), now))

    def same_content(self, db: sqlite3.Connection, snapshot_id: int, pages: Ints) -> tuple[int, bool]:
        """How many rows of a snapshot have the content of a row on an earlier page, and whether a page itself has
        rows alike.

        Args:
            pages: for each row its page, shape (rows,).
        """
        ids = self.ids_in(db, snapshot_id)
        same = duplicates_by_content(ids, pages)
        return same, bool(same) and repeats_within_pages(ids, pages)

    def label(self, snapshot_id: int, name: str, note: str, pinned: bool) -> None:
        """Give a snapshot a name and a note, and pin it or not.

        Raises:
            ProblemError: ``snapshot-unknown``, or ``label-too-long``.
        """
        self.get(snapshot_id)
        for what, text, most in (("name", name, MOST_NAME), ("note", note, MOST_NOTE)):
            if len(text) > most:
                raise fail(
                    "label-too-long",
                    f"The {what} has {len(text):,} characters, and up to {most:,} are kept.",
                    where=what,
                    do="Shorten it; nothing was changed.",
                )
        with self._database.write() as db:
            values = (name.strip(), note.strip(), int(pinned), snapshot_id)
            db.execute("UPDATE snapshot SET name = ?, note = ?, pinned = ? WHERE id = ?", values)

    def judge(self, db: sqlite3.Connection, snapshot_id: int, state: str, evidence: str) -> None:
        """Note what can be said of a snapshot as a whole table, inside the caller's transaction.

        Args:
            state: ``complete``, ``unverified`` or ``incomplete``.
            evidence: why, in words.
        """
        db.execute("UPDATE snapshot SET state = ?, evidence = ? WHERE id = ?", (state, evidence, snapshot_id))

    def reading(self) -> AbstractContextManager[object]:
        """One view of all snapshots for several questions, whatever is written meanwhile."""
        return self._database.read_together()

    # Reading ---------------------------------------------------------------------------------------------------

    def of_query(self, query_id: int) -> list[Snapshot]:
        """A query's snapshots, the oldest first."""
        with self._database.read() as db:
            found = db.execute(
                f"SELECT {FIELDS} FROM snapshot WHERE query_id = ? ORDER BY taken, id", (query_id,)
            ).fetchall()
        return [read_snapshot(row) for row in found]

    def versions(self, query_id: int) -> tuple[tuple[int, int], ...]:
        """The number and the version of each snapshot of a query, the oldest first: others for any other history."""
        with self._database.read() as db:
            found = db.execute("SELECT id, version FROM snapshot WHERE query_id = ? ORDER BY taken, id", (query_id,))
            return tuple((row["id"], row["version"]) for row in found)

    def count(self) -> int:
        """How many snapshots there are, of all queries."""
        with self._database.read() as db:
            return int(db.execute("SELECT count(*) FROM snapshot").fetchone()[0])

    def get(self, snapshot_id: int) -> Snapshot:
        """One snapshot.

        Raises:
            ProblemError: ``snapshot-unknown``.
        """
        with self._database.read() as db:
            row = db.execute(f"SELECT {FIELDS} FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        if row is None:
            raise _unknown(snapshot_id)
        return read_snapshot(row)

    def latest(self, query_id: int) -> Snapshot | None:
        """A query's newest snapshot, if it has one."""
        with self._database.read() as db:
            row = db.execute(
                f"SELECT {FIELDS} FROM snapshot WHERE query_id = ? ORDER BY taken DESC, id DESC LIMIT 1",
                (query_id,),
            ).fetchone()
        return None if row is None else read_snapshot(row)

    def as_of(self, query_id: int, moment: str) -> Snapshot | None:
        """A query's newest snapshot at or before a moment, ISO 8601 in UTC, if it has one."""
        with self._database.read() as db:
            row = db.execute(
                f"SELECT {FIELDS} FROM snapshot WHERE query_id = ? AND taken <= ? ORDER BY taken DESC, id DESC LIMIT 1",
                (query_id, moment),
            ).fetchone()
        return None if row is None else read_snapshot(row)

    def newest_moment(self) -> str | None:
        """When the newest snapshot of all queries was taken, ISO 8601; nothing without one."""
        with self._database.read() as db:
            found: str | None = db.execute("SELECT max(taken) FROM snapshot").fetchone()[0]
        return found

    def window(self, snapshot_id: int, start: int, count: int) -> list[tuple[Any, ...]]:
        """Rows `start` to `start + count` of a snapshot, in the order of its columns."""
        with self._database.read_together() as db:
            ids = self.ids_in(db, snapshot_id)[start : start + count]
            return self._load(db, snapshot_id, ids)

    def all_rows(self, snapshot_id: int, chunk: int = 10_000) -> Iterator[tuple[Any, ...]]:
        """Every row of a snapshot in order, read a chunk at a time: the rows that it has when this begins."""
        with self._database.read_together() as db:
            names = [column.name for column in self.get(snapshot_id).columns]
            copied = column_copy.rows_of(db, snapshot_id, names)
            if copied is None:
                ids, order = self.ids_in(db, snapshot_id), self._order(db, snapshot_id)
        if copied is not None:
            yield from copied
            return
        for start in range(0, len(ids), chunk):
            with self._database.read() as db:
                found = rows.load_rows(db, ids[start : start + chunk])
            yield from _ordered(found, order)

    def row_ids(self, snapshot_id: int) -> Ints:
        """The id of each row of a snapshot, in order: equal rows of a query have one. Shape (rows,)."""
        with self._database.read_together() as db:
            return self.ids_in(db, snapshot_id)

    def rows_at(self, snapshot_id: int, positions: Ints) -> list[tuple[Any, ...]]:
        """The rows at some positions of a snapshot."""
        with self._database.read_together() as db:
            return self._load(db, snapshot_id, self.ids_in(db, snapshot_id)[positions])

    def origin(self, snapshot_id: int, position: int) -> tuple[int, int, list[int]]:
        """Where a row came from: index of the page, of the record in it, and of the item in each list that was made
        rows."""
        with self._database.read() as db:
            data = db.execute("SELECT origins FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()[0]
        page, record, *items = row_list.unpack_columns(data)
        assert page is not None
        assert record is not None
        return int(page[position]), int(record[position]), [-1 if at is None else int(at[position]) for at in items]

    def has_copy(self, snapshot_id: int, name: str) -> bool:
        """Whether a column of a snapshot was copied, so that it is read without its rows."""
        with self._database.read() as db:
            return column_copy.exists(db, snapshot_id, name)

    def stretches_that_differ(
        self, one: tuple[int, str], other: tuple[int, str]
    ) -> Iterator[tuple[int, list[Any], list[Any]]] | None:
        """Where two columns of one length may differ row for row: where each such stretch begins, and its values in
        both. ``None`` where one of them was not copied.

        Args:
            one, other: a snapshot, and the name of a column of it.
        """
        with self._database.read() as db:
            return column_copy.that_differ(db, one, other)

    def column(self, snapshot_id: int, name: str) -> tuple[TableColumn, list[Any]] | None:
        """A column's heading and all its values, in the order of rows; ``None`` when there is no such column."""
        heading = next((one for one in self.get(snapshot_id).columns if one.name == name), None)
        if heading is None:
            return None
        with self._database.read_together() as db:
            copied = column_copy.load(db, snapshot_id, name)
            if copied is not None:
                return heading, copied
            ids = self.ids_in(db, snapshot_id)
            at = self._layout(db, snapshot_id).index(name)
            return heading, rows.load_column(db, ids, at)

    def columns(self, snapshot_id: int, names: Sequence[str]) -> dict[str, list[Any]]:
        """The values of several columns by their names, read in one pass; of those alone that there are."""
        with self._database.read_together() as db:
            layout = self._layout(db, snapshot_id)
            there = [name for name in dict.fromkeys(names) if name in layout]
            if not there or column_copy.exists(db, snapshot_id, there[0]):
                return {name: found[1] for name in there if (found := self.column(snapshot_id, name)) is not None}
            found_columns = rows.load_columns(db, self.ids_in(db, snapshot_id), [layout.index(name) for name in there])
            return dict(zip(there, found_columns, strict=True))

    def rows_with(self, snapshot_id: int, text: str) -> Ints | None:
        """The numbers of the rows that may have a text in them, in order; ``None`` when this is slow to find."""
        if not text.isascii():
            return None
        with self._database.read_together() as db:
            ids = self.ids_in(db, snapshot_id)
            found = rows.ids_with_text(db, ids, text)
            return np.flatnonzero(np.isin(ids, found)).astype(np.int64)

    def rows_starting(self, snapshot_id: int, starts: Sequence[str]) -> Ints:
        """The numbers of the rows that may have a text that starts with one of some characters, in order."""
        with self._database.read_together() as db:
            ids = self.ids_in(db, snapshot_id)
            return np.flatnonzero(np.isin(ids, rows.ids_starting(db, ids, starts))).astype(np.int64)

    def history(self, snapshot_id: int, position: int, name: str, most: int = 12) -> list[tuple[Snapshot, Any]]:
        """What a cell was in earlier snapshots, the newest first: the row is identified by the match columns of its own
        snapshot, and its history ends where it, the column or the match columns are not there."""
        own = self.get(snapshot_id)
        earlier = [one for one in self.of_query(own.query_id) if (one.taken, one.id) < (own.taken, own.id)]
        names = [column.name for column in own.columns]
        out: list[tuple[Snapshot, Any]] = []
        if not own.match or not set(own.match) <= set(names):
            return out
        with self._database.read_together() as db:
            row_id = int(self.ids_in(db, snapshot_id)[position])
            values = dict(
                zip(names, self._load(db, snapshot_id, self.ids_in(db, snapshot_id)[[position]])[0], strict=True)
            )
            key = [values[one] for one in own.match]
            after, value = snapshot_id, values.get(name)
            for one in reversed(earlier[-most:]):
                ids = self.ids_in(db, one.id)
                known = [column.name for column in one.columns]
                if name not in known or not set(own.match) <= set(known):
                    break
                if self._layout(db, one.id) != self._layout(db, after) or not (ids == row_id).any():
                    other = difference(ids, self.ids_in(db, after)).only_then
                    found = self._find(db, one, ids, other, own.match, key)
                    if found is None:
                        break
                    row_id, value = found[0], found[1][known.index(name)]
                out.append((one, value))
                after = one.id
        return out

    def _find(
        self, db: sqlite3.Connection, snapshot: Snapshot, ids: Ints, candidates: Ints, match: list[str], key: list[Any]
    ) -> tuple[int, tuple[Any, ...]] | None:
        """The row with some values in its match columns, among candidates."""
        names = [column.name for column in snapshot.columns]
        at = [names.index(one) for one in match]
        for start in range(0, min(len(candidates), _MOST_SEARCHED), 5_000):
            some = ids[candidates[start : start + 5_000]]
            for row_id, values in zip(some.tolist(), self._load(db, snapshot.id, some), strict=True):
                if [values[index] for index in at] == key:
                    return row_id, values
        return None

    def note_again(self, query_id: int) -> None:
        """What counts as the same for a query is another thing now: note anew what its newest snapshot changed."""
        with self._database.write() as db:
            found = db.execute(
                "SELECT id, match FROM snapshot WHERE query_id = ? ORDER BY taken DESC, id DESC LIMIT 2", (query_id,)
            ).fetchall()
            if len(found) == 2:
                self.note_changes(db, found[1]["id"], found[0]["id"], json.loads(found[0]["match"]))

    def compare(self, then_id: int, now_id: int, match: list[str] | None = None, judge: Judge = PLAIN) -> Comparison:
        """Lay two snapshots of one query over each other.

        Args:
            match: the columns that say which row is which; the newer one's match columns where absent.
            judge: what counts as the same.

        Raises:
            ProblemError: ``snapshot-unknown``, or ``snapshots-apart`` when they are of two queries.
        """
        then, now = self.get(then_id), self.get(now_id)
        if then.query_id != now.query_id:
            raise fail(
                "snapshots-apart",
                "These two snapshots are of different queries.",
                where=f"snapshots {then_id} and {now_id}",
                do="Choose two dates of one query.",
            )
        with self._database.read_together() as db:
            return self._compare(db, then_id, now_id, now.match if match is None else match, judge)

    def _compare(self, db: sqlite3.Connection, then_id: int, now_id: int, match: list[str], judge: Judge) -> Comparison:
        then_ids, now_ids = self.ids_in(db, then_id), self.ids_in(db, now_id)
        then_names, now_names = (self._layout(db, snapshot_id) for snapshot_id in (then_id, now_id))
        split = difference(then_ids, now_ids)
        return compare(
            then_ids,
            now_ids,
            split,
            rows.load_rows(db, then_ids[split.only_then]),
            rows.load_rows(db, now_ids[split.only_now]),
            then_names,
            now_names,
            match,
            judge,
        )

    def _layout(self, db: sqlite3.Connection, snapshot_id: int) -> list[str]:
        row = db.execute("SELECT layout_id FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        return rows.layout_names(db, row[0])

    def _load(self, db: sqlite3.Connection, snapshot_id: int, ids: Ints) -> list[tuple[Any, ...]]:
        return _ordered(rows.load_rows(db, ids), self._order(db, snapshot_id))

    def _order(self, db: sqlite3.Connection, snapshot_id: int) -> list[int]:
        """For each column of a snapshot its index in the stored rows."""
        row = db.execute("SELECT headings, layout_id FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        stored = {name: index for index, name in enumerate(rows.layout_names(db, row["layout_id"]))}
        return [stored[heading["name"]] for heading in json.loads(row["headings"])]

    def ids_in(self, db: sqlite3.Connection, snapshot_id: int) -> Ints:
        """A snapshot's row ids. The caller reads together: a list and its base must be of one moment."""
        row = db.execute("SELECT version FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        if row is None:
            raise _unknown(snapshot_id)
        # What a transaction wrote that is given up afterwards is found by nobody: its version is gone with it.
        return self._lists.get_or_make((snapshot_id, row["version"]), lambda: self._decoded(db, snapshot_id))

    def _decoded(self, db: sqlite3.Connection, snapshot_id: int) -> Ints:
        row = db.execute("SELECT row_ids, base FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
        base = self.ids_in(db, row["base"]) if row_list.is_shared(row["row_ids"]) else None
        ids = row_list.decode(row["row_ids"], base)
        ids.setflags(write=False)
        return ids


def _new_version() -> int:
    return randbits(62)


def _ordered(found: list[tuple[Any, ...]], order: list[int]) -> list[tuple[Any, ...]]:
    if len(order) < 2:
        return [tuple([values[index] for index in order]) for values in found]
    return list(map(itemgetter(*order), found))


def _unknown(snapshot_id: int) -> ProblemError:
    return fail(
        "snapshot-unknown",
        f"There is no snapshot {snapshot_id}.",
        where=f"snapshot {snapshot_id}",
        do="Choose one on the query's time line.",
    )


_ALIKE: TypeAdapter[list[AlikeRule]] = TypeAdapter(list[Alike])


def _alike(db: sqlite3.Connection, snapshot_id: int) -> list[AlikeRule]:
    """What counts as the same for the query of a snapshot, as its saved brief says."""
    row = db.execute(
        "SELECT json_extract(document, '$.keep.alike') AS alike FROM brief WHERE id = (SELECT brief_id FROM query"
        " WHERE id = (SELECT query_id FROM snapshot WHERE id = ?))",
        (snapshot_id,),
    ).fetchone()
    try:
        return _ALIKE.validate_json(row["alike"]) if row is not None and row["alike"] else []
    except ValidationError:
        return []  # A format that is newer, of which nothing can be said.


def _other_query(db: sqlite3.Connection, then: int, now: int) -> dict[str, int]:
    """Whether two snapshots were made by other questions (``asks``), other readings of the answers (``reads``), or
    other values of parameters (``values``)."""
    made = [
        db.execute(
            "SELECT coalesce(snapshot.brief, run.brief) AS brief, run.bindings FROM snapshot"
            " JOIN run ON run.id = snapshot.run_id WHERE snapshot.id = ?",
            (one,),
        ).fetchone()
        for one in (then, now)
    ]
    if made[0]["brief"] == made[1]["brief"] and made[0]["bindings"] == made[1]["bindings"]:
        return {}
    try:
        old, new = (Brief.model_validate_json(one["brief"]) for one in made)
    except ValidationError:
        return {}  # A format of old, of which nothing can be said.
    differs = changed_since(old, new)
    if differs is not None:
        return {"asks": 1} if differs.asks else {"reads": 1}
    was, values = (json.loads(one["bindings"]) for one in made)
    return {"values": 1} if other_values(new.parameters, was, values) else {}
