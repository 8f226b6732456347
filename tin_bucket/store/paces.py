"""When calls were answered, so that the limits of services are kept over restarts and by several programs."""

from __future__ import annotations

from collections.abc import Sequence

from .database import Database


class Paces:
    """Reads and writes the times of calls; all are seconds since 1970."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, service_id: str, times: Sequence[float], keep: float) -> None:
        """Note calls that were answered, and delete those before `keep`."""
        with self._database.write() as db:
            db.execute("DELETE FROM paced WHERE service_id = ? AND at < ?", (service_id, keep))
            db.executemany(
                "INSERT INTO paced SELECT id, ?, ? FROM service WHERE id = ?",
                [(at, self._database.process, service_id) for at in times],
            )

    def since(self, service_id: str, moment: float, but: str) -> list[float]:
        """The calls after a moment that another process than `but` made."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT at FROM paced WHERE service_id = ? AND at > ? AND process <> ? ORDER BY at",
                (service_id, moment, but),
            ).fetchall()
        return [row[0] for row in rows]
