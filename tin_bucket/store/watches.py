"""What is watched on the desk: rows, and figures of tables."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.analysis.watch import Watch
from tin_bucket.core.problem import fail

from .database import Database

MOST = 200  # Of a workspace.


@dataclass(frozen=True, slots=True)
class Watched:
    """Something that is watched, of which query."""

    id: int
    query_id: int
    query_name: str
    watch: Watch


class Watches:
    """The watch list of a workspace."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[Watched]:
        """What is watched, in the order in which it was added."""
        with self._database.read() as db:
            found = db.execute(
                "SELECT watch.id, query_id, query.name, document FROM watch JOIN query ON query.id = query_id"
                " ORDER BY watch.id"
            ).fetchall()
        return [
            Watched(row["id"], row["query_id"], row["name"], Watch.model_validate_json(row["document"]))
            for row in found
        ]

    def add(self, query_id: int, watch: Watch) -> int:
        """Watch something; gives its number. What is watched already keeps its own.

        Raises:
            ProblemError: ``too-many-watches``.
        """
        document = watch.model_dump_json()
        with self._database.write() as db:
            if db.execute("SELECT count(*) FROM watch").fetchone()[0] >= MOST:
                raise fail(
                    "too-many-watches",
                    f"{MOST} rows and figures are watched already.",
                    where="watch list",
                    do="Take one off the desk first.",
                )
            db.execute("INSERT OR IGNORE INTO watch (query_id, document) VALUES (?, ?)", (query_id, document))
            found = db.execute(
                "SELECT id FROM watch WHERE query_id = ? AND document = ?", (query_id, document)
            ).fetchone()
        return int(found["id"])

    def remove(self, number: int) -> None:
        """Watch something no more."""
        with self._database.write() as db:
            db.execute("DELETE FROM watch WHERE id = ?", (number,))
