"""Sheets that are kept in the workspace: pasted cells and uploaded files, as they came."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict, dataclass
from datetime import datetime

from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.problem import fail

from .archive import pack, unpack
from .database import Database


@dataclass(frozen=True, slots=True)
class Sheet:
    """A kept sheet, without its body."""

    id: int
    name: str
    file: str
    settings: SheetSettings
    headings: list[str]
    rows: int
    added: str


class Sheets:
    """Reads and writes sheets."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[Sheet]:
        """Every sheet, by name."""
        with self._database.read() as db:
            rows = db.execute(f"SELECT {_FIELDS} FROM sheet ORDER BY name COLLATE NOCASE").fetchall()
        return [_sheet(row) for row in rows]

    def get(self, name: str) -> Sheet:
        """One sheet by its name.

        Raises:
            ProblemError: ``sheet-unknown``.
        """
        with self._database.read() as db:
            row = db.execute(f"SELECT {_FIELDS} FROM sheet WHERE name = ?", (name,)).fetchone()
        if row is None:
            have = ", ".join(f"“{sheet.name}”" for sheet in self.all()[:12]) or "none"
            raise fail(
                "sheet-unknown",
                f"There is no sheet “{name}”.",
                where=f"sheet {name}",
                do=f"The workspace's sheets: {have}.",
            )
        return _sheet(row)

    def body(self, name: str) -> bytes:
        """A sheet's bytes, as they came.

        Raises:
            ProblemError: ``sheet-unknown``.
        """
        self.get(name)
        with self._database.read() as db:
            return unpack(db.execute("SELECT body FROM sheet WHERE name = ?", (name,)).fetchone()["body"])

    def save(
        self, name: str, file: str, settings: SheetSettings, headings: list[str], rows: int, body: bytes, now: datetime
    ) -> Sheet:
        """Keep a sheet; one of the same name is replaced, and the queries that read it see the new one."""
        with self._database.write() as db:
            db.execute(
                "INSERT INTO sheet (name, file, settings, headings, rows, added, body)"
                " VALUES (:name, :file, :settings, :headings, :rows, :added, :body)"
                " ON CONFLICT (name) DO UPDATE SET file=:file, settings=:settings, headings=:headings, rows=:rows,"
                " added=:added, body=:body",
                {
                    "name": name,
                    "file": file,
                    "settings": json.dumps(asdict(settings)),
                    "headings": json.dumps(headings),
                    "rows": rows,
                    "added": now.isoformat(timespec="microseconds"),
                    "body": pack(body)[1],
                },
            )
        return self.get(name)

    def used_by(self, name: str) -> list[str]:
        """The names of the queries that read a sheet, ask for each of its rows, or bring it in."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT query.name FROM query JOIN brief ON brief.id = query.brief_id"
                " WHERE json_extract(brief.document, '$.sheet.sheet') = :name OR EXISTS (SELECT 1 FROM"
                " json_each(brief.document, '$.each') AS one WHERE json_extract(one.value, '$.sheet') = :name)"
                " OR EXISTS (SELECT 1 FROM json_tree(brief.document, '$.work_out') AS one WHERE one.key = 'sheet'"
                " AND one.value = :name)"
                " OR EXISTS (SELECT 1 FROM json_tree(brief.document, '$.start') AS one WHERE one.key = 'sheet'"
                " AND one.value = :name)"
                " ORDER BY query.id",
                {"name": name},
            ).fetchall()
        return [row["name"] for row in rows]

    def delete(self, name: str) -> None:
        """Delete a sheet.

        Raises:
            ProblemError: ``sheet-unknown``, or ``sheet-in-use`` with the queries that read it.
        """
        self.get(name)
        users = self.used_by(name)
        if users:
            raise fail(
                "sheet-in-use",
                f"“{name}” is read by these queries: {', '.join(users)}.",
                where=f"sheet {name}",
                do="Delete those queries first, or let them read another sheet.",
            )
        with self._database.write() as db:
            db.execute("DELETE FROM sheet WHERE name = ?", (name,))


_FIELDS = "id, name, file, settings, headings, rows, added"


def _sheet(row: sqlite3.Row) -> Sheet:
    settings = SheetSettings(**json.loads(row["settings"]))
    return Sheet(row["id"], row["name"], row["file"], settings, json.loads(row["headings"]), row["rows"], row["added"])
