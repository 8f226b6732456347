"""Feeds: what each remembers, and what it handed over. What a feed is, its query's brief says."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.problem import Problem

from .database import Database

_KEPT = 100  # Of each feed.


@dataclass(frozen=True, slots=True)
class FeedRecord:
    """What a feed remembers.

    Attributes:
        memory: what its kind noted the last time.
        snapshot_id: the snapshot that was handed over last.
        tries: how often it failed since.
        next_try: when it is tried again, ISO 8601; ``None`` for not by itself.
    """

    memory: Mapping[str, Any] = field(default_factory=dict)
    snapshot_id: int | None = None
    tries: int = 0
    next_try: str | None = None


@dataclass(frozen=True, slots=True)
class HandOver:
    """One time that a feed ran.

    Attributes:
        state: ``done``, ``nothing`` where nothing had to be written, or ``failed``.
        place: where it went to, in short.
        taken: as of when the table was.
        told: what was done, a sentence each.
    """

    query_id: int
    key: str
    place: str
    cause: str
    snapshot_id: int | None
    taken: str | None
    started: str
    ended: str
    state: str
    rows: int = 0
    told: list[str] = field(default_factory=list)
    problem: Problem | None = None
    id: int = 0
    query_name: str = ""


class Feeds:
    """Reads and writes what feeds remember."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def record(self, query_id: int, key: str) -> FeedRecord:
        """What a feed remembers; nothing before the first time."""
        with self._database.read() as db:
            row = db.execute("SELECT * FROM feed WHERE query_id = ? AND key = ?", (query_id, key)).fetchone()
        return FeedRecord() if row is None else _record(row)

    def records(self) -> dict[tuple[int, str], FeedRecord]:
        """What every feed remembers, by query and key."""
        with self._database.read() as db:
            return {(row["query_id"], row["key"]): _record(row) for row in db.execute("SELECT * FROM feed")}

    def due(self, now: str) -> list[tuple[int, str]]:
        """The feeds that are to be tried again by now: query and key."""
        with self._database.read() as db:
            rows = db.execute("SELECT query_id, key FROM feed WHERE next_try <= ? ORDER BY next_try", (now,))
            return [(row["query_id"], row["key"]) for row in rows]

    def note(self, done: HandOver, memory: Mapping[str, Any] | None, next_try: str | None) -> HandOver:
        """Note that a feed ran.

        Args:
            memory: what its kind remembers now; ``None`` keeps what it did.
            next_try: when it is tried again, where it failed.
        """
        problem = None if done.problem is None else json.dumps(done.problem.as_dict())
        failed = done.state == "failed"
        with self._database.write() as db:
            db.execute(
                """INSERT INTO feed (query_id, key, memory, snapshot_id, tries, next_try)
                VALUES (:query, :key, coalesce(:memory, '{}'), :snapshot, :failed, :next)
                ON CONFLICT (query_id, key) DO UPDATE SET
                  memory = coalesce(:memory, memory),
                  snapshot_id = CASE WHEN :failed THEN snapshot_id ELSE :snapshot END,
                  tries = CASE WHEN :failed THEN tries + 1 ELSE 0 END,
                  next_try = :next""",
                {
                    "query": done.query_id,
                    "key": done.key,
                    "memory": None if memory is None else json.dumps(memory),
                    "snapshot": None if failed else done.snapshot_id,
                    "failed": int(failed),
                    "next": next_try,
                },
            )
            made = db.execute(
                """INSERT INTO hand_over
                (query_id, key, place, cause, snapshot_id, taken, started, ended, state, rows, told, problem)
                VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
                (
                    done.query_id, done.key, done.place, done.cause, done.snapshot_id, done.taken, done.started,
                    done.ended, done.state, done.rows, json.dumps(done.told), problem,
                ),
            )  # fmt: skip
            db.execute(
                """DELETE FROM hand_over WHERE query_id = :query AND key = :key AND id NOT IN (
                  SELECT id FROM hand_over WHERE query_id = :query AND key = :key ORDER BY id DESC LIMIT :kept)""",
                {"query": done.query_id, "key": done.key, "kept": _KEPT},
            )
            number = made.lastrowid
        return next(one for one in self.history(done.query_id, done.key, 1) if one.id == number)

    def last(self) -> dict[tuple[int, str], HandOver]:
        """The last time that each feed ran, by query and key."""
        with self._database.read() as db:
            rows = db.execute(
                """SELECT hand_over.*, query.name AS query_name FROM hand_over JOIN query ON query.id = query_id
                WHERE hand_over.id IN (SELECT max(id) FROM hand_over GROUP BY query_id, key)"""
            )
            return {(row["query_id"], row["key"]): _hand_over(row) for row in rows}

    def history(self, query_id: int | None = None, key: str | None = None, most: int = 200) -> list[HandOver]:
        """What was handed over, the newest first; of a query or a feed where they are named."""
        with self._database.read() as db:
            rows = db.execute(
                """SELECT hand_over.*, query.name AS query_name FROM hand_over JOIN query ON query.id = query_id
                WHERE (:query IS NULL OR query_id = :query) AND (:key IS NULL OR key = :key)
                ORDER BY hand_over.id DESC LIMIT :most""",
                {"query": query_id, "key": key, "most": most},
            )
            return [_hand_over(row) for row in rows]

    def stop_trying(self, query_id: int, key: str) -> None:
        """Do not try a feed again by itself."""
        with self._database.write() as db:
            db.execute("UPDATE feed SET next_try = NULL WHERE query_id = ? AND key = ?", (query_id, key))


def _record(row: sqlite3.Row) -> FeedRecord:
    return FeedRecord(json.loads(row["memory"]), row["snapshot_id"], row["tries"], row["next_try"])


def _hand_over(row: sqlite3.Row) -> HandOver:
    problem = json.loads(row["problem"]) if row["problem"] else None
    return HandOver(
        query_id=row["query_id"],
        key=row["key"],
        place=row["place"],
        cause=row["cause"],
        snapshot_id=row["snapshot_id"],
        taken=row["taken"],
        started=row["started"],
        ended=row["ended"],
        state=row["state"],
        rows=row["rows"],
        told=json.loads(row["told"]),
        problem=None if problem is None else Problem(**problem),
        id=row["id"],
        query_name=row["query_name"],
    )
