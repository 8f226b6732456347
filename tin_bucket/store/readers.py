"""Readers of live addresses: programs and people, each with a key of its own. Of a key only its digest is kept."""

from __future__ import annotations

import hashlib
import secrets
import sqlite3
from dataclasses import dataclass
from datetime import datetime, timedelta

from tin_bucket.core.problem import fail

from .database import Database

PREFIX = "reader-"
_SHOWN = 4  # Characters of a key that tell it from others.
_NOTED = timedelta(minutes=1)  # When a key was used is not written more often.


@dataclass(frozen=True, slots=True)
class Reader:
    """A reader, without its key.

    Attributes:
        begins: how its key begins, to tell it from others.
        made, last_used, revoked: ISO 8601.
        report_id: the report that it reads, and nothing else; ``None`` where it reads tables.
    """

    id: int
    name: str
    begins: str
    made: str
    last_used: str | None
    revoked: str | None
    report_id: int | None = None


class Readers:
    """Makes, checks and revokes the keys of readers."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self, report_id: int | None = None) -> list[Reader]:
        """The readers of tables, or those of a report, the newest first."""
        with self._database.read() as db:
            found = db.execute("SELECT * FROM reader WHERE report_id IS ? ORDER BY id DESC", (report_id,))
            return [_reader(row) for row in found]

    def add(self, name: str, now: datetime, report_id: int | None = None) -> tuple[Reader, str]:
        """Make a reader of tables, or of one report; returns it and its key, which is shown this once.

        Raises:
            ProblemError: ``reader-unnamed``.
        """
        if not name.strip():
            raise fail("reader-unnamed", "A reader has a name.", where="name", do="Write who or what reads with it.")
        key = PREFIX + secrets.token_urlsafe(32)
        begins = key[: len(PREFIX) + _SHOWN]
        with self._database.write() as db:
            made = db.execute(
                "INSERT INTO reader (name, digest, begins, made, report_id) VALUES (?, ?, ?, ?, ?)",
                (name.strip()[:200], _digest(key), begins, now.isoformat(), report_id),
            )
            number = made.lastrowid
        return next(one for one in self.all(report_id) if one.id == number), key

    def revoke(self, reader_id: int, now: datetime) -> None:
        """Let a key open nothing any more.

        Raises:
            ProblemError: ``reader-unknown``.
        """
        with self._database.write() as db:
            done = db.execute(
                "UPDATE reader SET revoked = coalesce(revoked, ?) WHERE id = ?", (now.isoformat(), reader_id)
            )
            if not done.rowcount:
                raise fail("reader-unknown", "There is no such reader.", where="reader", do="Load the page again.")

    def opens(self, key: str, now: datetime) -> Reader | None:
        """The reader whose key it is; ``None`` where it is nobody's, or was revoked."""
        # A digest of 32 random bytes tells nothing of them, and looking it up tells nothing by the time that it takes.
        with self._database.read() as db:
            row = db.execute("SELECT * FROM reader WHERE digest = ? AND revoked IS NULL", (_digest(key),)).fetchone()
        if row is None:
            return None
        found = _reader(row)
        if found.last_used is None or now - datetime.fromisoformat(found.last_used) > _NOTED:
            with self._database.write() as db:
                db.execute("UPDATE reader SET last_used = ? WHERE id = ?", (now.isoformat(), found.id))
        return found


def _digest(key: str) -> bytes:
    return hashlib.sha256(key.encode("utf-8", "replace")).digest()


def _reader(row: sqlite3.Row) -> Reader:
    return Reader(
        row["id"], row["name"], row["begins"], row["made"], row["last_used"], row["revoked"], row["report_id"]
    )
