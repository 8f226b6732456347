"""What became of the files that reports are written to."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from tin_bucket.core.problem import Problem

from .database import Database


@dataclass(frozen=True, slots=True)
class ReportFile:
    """A file of a report.

    Attributes:
        path: as the report names it.
        written: when it was written last, ISO 8601.
        place: where to.
        size: in bytes.
        problem: why it was not written the last time.
        next_try: when it is tried again, ISO 8601.
    """

    report_id: int
    path: str
    written: str | None = None
    place: str = ""
    size: int = 0
    problem: Problem | None = None
    next_try: str | None = None
    tries: int = 0


class ReportFiles:
    """Reads and notes what became of them."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, report_id: int) -> dict[str, ReportFile]:
        """The files of a report, by their paths."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM report_file WHERE report_id = ?", (report_id,)).fetchall()
        return {
            row["path"]: ReportFile(
                report_id, row["path"], row["written"], row["place"], row["size"],
                Problem(**json.loads(row["problem"])) if row["problem"] else None, row["next_try"], row["tries"],
            )
            for row in rows
        }  # fmt: skip

    def due(self, now: datetime) -> list[tuple[int, str]]:
        """The files that are to be tried again: report and path."""
        with self._database.read() as db:
            rows = db.execute("SELECT report_id, path, next_try FROM report_file WHERE next_try IS NOT NULL").fetchall()
        return [(row["report_id"], row["path"]) for row in rows if datetime.fromisoformat(row["next_try"]) <= now]

    def note(self, one: ReportFile) -> None:
        """Note what became of a file."""
        problem = json.dumps(one.problem.as_dict()) if one.problem is not None else None
        with self._database.write() as db:
            db.execute(
                "INSERT INTO report_file VALUES (?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET"
                " written = excluded.written, place = excluded.place, size = excluded.size, problem = excluded.problem,"
                " next_try = excluded.next_try, tries = excluded.tries",
                (one.report_id, one.path, one.written, one.place, one.size, problem, one.next_try, one.tries),
            )

    def forget(self, report_id: int, path: str) -> None:
        """A report is written to a file no more."""
        with self._database.write() as db:
            db.execute("DELETE FROM report_file WHERE report_id = ? AND path = ?", (report_id, path))
