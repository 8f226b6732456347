"""A snapshot as it is told: all but its rows."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from dataclasses import dataclass
from functools import lru_cache

from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn

MOST_NAME, MOST_NOTE = 120, 2_000  # Characters of what people write to a snapshot.
FIELDS = "id, query_id, run_id, taken, headings, match, rows, state, evidence, stated_total, since,"
FIELDS += " rebuilt, brief, version, name, note, pinned"


@dataclass(frozen=True, slots=True)
class Snapshot:
    """A dated copy of a table, without its rows.

    `headings` is the JSON text of its columns.
    `state` is ``complete``, ``unverified`` or ``incomplete``; `evidence` is what proves that, in a sentence.
    `since` counts what differs from the snapshot before: ``new``, ``gone``, ``changed``; empty for the first one.
    `rebuilt`: when it was rebuilt from its saved answers, and `brief` by which brief, as JSON text. `version` is
    another one for every content that it ever had. `name`, `note` and `pinned` are people's.
    """

    id: int
    query_id: int
    run_id: int
    taken: str
    headings: str
    match: list[str]
    rows: int
    state: str
    evidence: str
    stated_total: int | None
    since: dict[str, int]
    rebuilt: str | None = None
    brief: str | None = None
    version: int = 0
    name: str = ""
    note: str = ""
    pinned: bool = False

    @property
    def columns(self) -> list[TableColumn]:
        """Its headings. They are read when they are wanted: a list of thousands of snapshots seldom wants them."""
        return list(_columns(self.headings))

    @property
    def labelled(self) -> bool:
        """Whether people said something of it."""
        return bool(self.name or self.note or self.pinned)

    @property
    def stays(self) -> bool:
        """Whether it stays whatever the rule of its query lets go."""
        return self.pinned or bool(self.name)


@lru_cache(maxsize=256)
def _columns(headings: str) -> tuple[TableColumn, ...]:
    return tuple(TableColumn(**heading) for heading in json.loads(headings))


def digest_of(ids: Ints, headings: str, match: str, origins: bytes) -> bytes:
    """A digest (BLAKE2b, RFC 7693, 16 bytes) of all that a snapshot is made of but the content of its rows, which have
    digests of their own."""
    parts = (ids.astype("<i8").tobytes(), headings.encode("utf-8", "surrogatepass"), match.encode(), origins)
    made = hashlib.blake2b(digest_size=16)
    for part in parts:
        made.update(len(part).to_bytes(8, "little") + part)
    return made.digest()


def read_snapshot(row: sqlite3.Row) -> Snapshot:
    """A snapshot from a row with :data:`FIELDS`."""
    return Snapshot(
        id=row["id"],
        query_id=row["query_id"],
        run_id=row["run_id"],
        taken=row["taken"],
        headings=row["headings"],
        match=json.loads(row["match"]),
        rows=row["rows"],
        state=row["state"],
        evidence=row["evidence"],
        stated_total=row["stated_total"],
        since=json.loads(row["since"]),
        rebuilt=row["rebuilt"],
        brief=row["brief"],
        version=row["version"],
        name=row["name"],
        note=row["note"],
        pinned=bool(row["pinned"]),
    )
