"""Whether everything that is stored is still as it was stored: each row and each answer has a digest, each snapshot a
list of rows. Nothing is changed."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import zstandard

from tin_bucket.core.table.row_expansion import Ints

from .archive import is_intact, unpack
from .database import Database
from .row_store import column_copy, row_list, rows
from .snapshot import digest_of

_CHUNK = 20_000
# What reading bytes that are not what they were can raise, in any of the packages that unpack them.
_BROKEN = (ValueError, TypeError, IndexError, KeyError, OverflowError, MemoryError, zstandard.ZstdError, zlib.error)


@dataclass(frozen=True, slots=True)
class Damage:
    """Something that is not as it was stored.

    Attributes:
        where: what it belongs to, for people: a query and a snapshot, a run, a sheet.
        what: what is wrong with it.
        do: what can be done.
    """

    where: str
    what: str
    do: str


Part = Literal["rows", "list", "copy"]
"""What of a snapshot is damaged: rows that it has, its own list of them with all that belongs to it, or a copy of a
column, which its rows hold as well."""


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong with a snapshot."""

    part: Part
    what: str


@dataclass(slots=True)
class IntegrityReport:
    """What was read, and what was found damaged."""

    snapshots: int = 0
    rows: int = 0
    answers: int = 0
    sheets: int = 0
    damages: list[Damage] = field(default_factory=list)


def check_stored(database: Database, tell: Callable[[int, int], None] = lambda done, of: None) -> IntegrityReport:
    """Read everything that is stored, as it is at one moment.

    Args:
        tell: called with how many snapshots are read, and of all.

    Raises:
        ProblemError: ``workspace-unreadable``: the file cannot be read at all.
    """
    report = IntegrityReport()
    with database.read_together() as db:
        sound = db.execute("PRAGMA integrity_check(1)").fetchone()[0] == "ok"
        if not sound:
            do = "Restore a backup; export first what opens."
            report.damages.append(Damage("the workspace's file", "Its structure is damaged.", do))
        checks: list[Callable[[], None]] = [
            lambda: _check_snapshots(db, report, tell),
            lambda: _check_answers(db, report),
            lambda: _check_sheets(db, report),
        ]
        for check in checks:
            try:
                check()
            except (TypeError, ValueError, AttributeError, LookupError):
                # Where the structure is damaged, a record may hold anything; that is told above.
                if sound:
                    raise
    return report


def faults_of(database: Database, query_id: int, snapshot_id: int | None = None) -> dict[int, list[Fault]]:
    """What is wrong with the snapshots of a query, by their number; of one alone where it is named. Each that was read
    is in it.

    Raises:
        ProblemError: ``workspace-unreadable``: the file cannot be read at all.
    """
    with database.read_together() as db:
        broken, _ = broken_rows(db, query_id)
        owned = _owned(db, query_id)
        own = "SELECT id FROM snapshot WHERE query_id = ? AND (? IS NULL OR id = ?) ORDER BY taken, id"
        found = db.execute(own, (query_id, snapshot_id, snapshot_id)).fetchall()
        return {int(row["id"]): list(_faults(db, row["id"], owned, broken)) for row in found}


def broken_rows(db: sqlite3.Connection, query_id: int | None = None) -> tuple[Ints, int]:
    """The ids of rows whose content is not what its digest says, or that are gone; of one query's table where it is
    named. Shape (rows,). Then how many rows were read."""
    broken: list[int] = []
    read = 0
    batches = "SELECT first_row, count, digests FROM row_batch WHERE ? IS NULL OR query_id = ? ORDER BY first_row"
    for batch in db.execute(batches, (query_id, query_id)).fetchall():
        first, count = int(batch["first_row"]), int(batch["count"])
        read += count
        if len(batch["digests"]) != 16 * count:
            broken += range(first, first + count)
            continue
        digests = np.frombuffer(batch["digests"], dtype="<i8").reshape(-1, 2)
        for start in range(first, first + count, _CHUNK):
            end = min(start + _CHUNK, first + count)
            found = db.execute("SELECT id, content FROM row WHERE id >= ? AND id < ?", (start, end)).fetchall()
            ids = np.array([row[0] for row in found], dtype=np.int64)
            same = np.zeros(end - start, dtype=bool)
            if len(ids):
                given = rows.digests_of([bytes(row[1]) for row in found])
                same[ids - start] = np.all(given == digests[ids - first], axis=1)
            # Deleted with its snapshots.
            same |= np.all(digests[start - first : end - first] == rows.GONE_DIGEST, axis=1)
            broken += (np.flatnonzero(~same) + start).tolist()
    return np.array(broken, dtype=np.int64), read


def _check_snapshots(db: sqlite3.Connection, report: IntegrityReport, tell: Callable[[int, int], None]) -> None:
    broken, report.rows = broken_rows(db)
    found = db.execute(
        "SELECT snapshot.id, snapshot.query_id, snapshot.taken, query.name FROM snapshot"
        " JOIN query ON query.id = snapshot.query_id ORDER BY snapshot.query_id, snapshot.taken, snapshot.id"
    ).fetchall()
    owned: dict[int, Ints] = {}
    for at, row in enumerate(found):
        where = f"“{row['name']}”, the snapshot of {row['taken'][:16].replace('T', ' ')} UTC"
        if row["query_id"] not in owned:
            owned = {row["query_id"]: _owned(db, row["query_id"])}
        for fault in _faults(db, row["id"], owned[row["query_id"]], broken):
            do = "Repair it in the list of the query's snapshots, from its saved answers; or restore a backup."
            report.damages.append(Damage(where, fault.what, do))
        report.snapshots += 1
        tell(at + 1, len(found))


def _owned(db: sqlite3.Connection, query_id: int) -> Ints:
    """The ids of the rows of a query's table."""
    batches = db.execute("SELECT first_row, digests FROM row_batch WHERE query_id = ?", (query_id,)).fetchall()
    parts = []
    for first, packed in batches:
        digests = np.frombuffer(packed[: len(packed) // 16 * 16], dtype="<i8").reshape(-1, 2)
        parts.append(np.flatnonzero((digests != rows.GONE_DIGEST).any(axis=1)) + first)
    return np.concatenate(parts) if parts else np.zeros(0, dtype=np.int64)


def _faults(db: sqlite3.Connection, snapshot_id: int, owned: Ints, broken: Ints) -> Iterator[Fault]:
    row = db.execute("SELECT * FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
    try:
        ids = _ids(db, snapshot_id)
    except _BROKEN:
        yield Fault("list", "Its list of rows cannot be read.")
        return
    if len(ids) != row["rows"]:
        yield Fault("list", f"It has {len(ids):,} rows and was stored with {row['rows']:,}.")
    sealed = row["digest"]
    if sealed is not None and digest_of(ids, row["headings"], row["match"], row["origins"]) != sealed:
        yield Fault("list", "Its list of rows, its headings or its origins are not as they were stored.")
    foreign = int((~np.isin(ids, owned)).sum())
    if foreign:
        yield Fault("rows", f"{foreign:,} of its rows are not stored.")
    damaged = int(np.isin(ids, broken).sum())
    if damaged:
        words = "is not as it was" if damaged == 1 else "are not as they were"
        yield Fault("rows", f"{damaged:,} of its {len(ids):,} rows {words} stored.")
    try:
        names = {heading["name"] for heading in json.loads(row["headings"])}
        if names != set(rows.layout_names(db, row["layout_id"])):
            yield Fault("list", "Its headings do not fit its rows.")
    except _BROKEN:
        yield Fault("list", "Its headings cannot be read.")
    try:
        lengths = {len(column) for column in row_list.unpack_columns(row["origins"]) if column is not None}
        if lengths != {row["rows"]}:
            yield Fault("list", "Where its rows came from does not fit its rows.")
    except _BROKEN:
        yield Fault("list", "Where its rows came from cannot be read.")
    yield from _copy_faults(db, snapshot_id, ids, row["layout_id"], bool(damaged or foreign))


def _ids(db: sqlite3.Connection, snapshot_id: int, depth: int = 0) -> Ints:
    """A snapshot's row ids, read anew: what is in memory may be older than the damage."""
    row = db.execute("SELECT row_ids, base FROM snapshot WHERE id = ?", (snapshot_id,)).fetchone()
    if row is None or depth > 1000:
        raise ValueError("the list builds on one that is gone")
    base = _ids(db, row["base"], depth + 1) if row_list.is_shared(row["row_ids"]) else None
    return row_list.decode(row["row_ids"], base)


def _copy_faults(db: sqlite3.Connection, snapshot_id: int, ids: Ints, layout: int, damaged: bool) -> Iterator[Fault]:
    """Columns that are kept twice, for sorting: they must hold what the rows hold."""
    copied = [name for (name,) in db.execute("SELECT name FROM column_copy WHERE snapshot_id = ?", (snapshot_id,))]
    if not copied or damaged:
        return
    names = rows.layout_names(db, layout)
    for name in copied:
        try:
            same = name in names and column_copy.load(db, snapshot_id, name) == rows.load_column(
                db, ids, names.index(name)
            )
        except _BROKEN:
            same = False
        if not same:
            yield Fault("copy", f"The copy of its column “{name}”, which it is sorted by, is not what its rows hold.")


def _check_answers(db: sqlite3.Connection, report: IntegrityReport) -> None:
    for digest, body in db.execute("SELECT digest, body FROM answer"):
        report.answers += 1
        if not is_intact(digest, body):
            used = db.execute(
                "SELECT DISTINCT query.name, run.id FROM call JOIN run ON run.id = call.run_id"
                " JOIN query ON query.id = run.query_id WHERE call.answer = ? ORDER BY run.id",
                (digest,),
            ).fetchall()
            where = ", ".join(f"“{name}”, run {run}" for name, run in used[:5]) or "an answer that no run uses"
            what = "A saved answer is not as it was stored."
            report.damages.append(Damage(where, what, "Its snapshot is unharmed; refresh to save the answer again."))


def _check_sheets(db: sqlite3.Connection, report: IntegrityReport) -> None:
    for name, body in db.execute("SELECT name, body FROM sheet"):
        report.sheets += 1
        try:
            unpack(body)
        except _BROKEN:
            report.damages.append(Damage(f"the sheet “{name}”", "It cannot be read.", "Add the file again."))
