"""What was looked at last, query by query, and what changed in all of them."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from .database import Database


@dataclass(frozen=True, slots=True)
class Unseen:
    """What nobody has looked at yet.

    Attributes:
        taken: the date that was looked at last, ISO 8601.
        dates: how many dates there are after it.
    """

    taken: str
    dates: int


@dataclass(frozen=True, slots=True)
class ChangeLine:
    """What a snapshot changed. `since` is as :class:`Snapshot` has it; `seen` is whether somebody looked at it."""

    query_id: int
    query_name: str
    snapshot_id: int
    taken: str
    rows: int
    state: str
    since: dict[str, int]
    seen: bool


class Looked:
    """Remembers what was looked at."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def look(self, query_id: int) -> None:
        """The newest date of a query is looked at."""
        with self._database.write() as db:
            db.execute(
                "INSERT INTO looked SELECT :query, max(taken) FROM snapshot WHERE query_id = :query"
                " HAVING max(taken) IS NOT NULL"
                " ON CONFLICT (query_id) DO UPDATE SET taken = max(taken, excluded.taken)",
                {"query": query_id},
            )

    def unseen(self) -> dict[int, Unseen]:
        """By query, of those that somebody has looked at before, what came after."""
        with self._database.read() as db:
            found = db.execute(
                "SELECT query_id, taken, (SELECT count(*) FROM snapshot WHERE snapshot.query_id = looked.query_id"
                " AND snapshot.taken > looked.taken) AS dates FROM looked"
            ).fetchall()
        return {row["query_id"]: Unseen(row["taken"], row["dates"]) for row in found if row["dates"]}

    def changes(self, since: datetime, most: int = 2_000) -> list[ChangeLine]:
        """What all snapshots from a moment on changed, the newest first."""
        with self._database.read() as db:
            found = db.execute(
                "SELECT snapshot.id, snapshot.query_id, query.name, snapshot.taken, rows, state, since,"
                " coalesce(snapshot.taken <= looked.taken, 0) AS seen FROM snapshot"
                " JOIN query ON query.id = snapshot.query_id LEFT JOIN looked ON looked.query_id = query.id"
                " WHERE snapshot.taken >= ? ORDER BY snapshot.taken DESC, snapshot.id DESC LIMIT ?",
                (since.isoformat(timespec="seconds"), most),
            ).fetchall()
        return [
            ChangeLine(
                row["query_id"], row["name"], row["id"], row["taken"], row["rows"], row["state"],
                json.loads(row["since"]), bool(row["seen"]),
            )
            for row in found
        ]  # fmt: skip
