"""Reports of a workspace."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import datetime

from pydantic import ValidationError

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.report.model import Report

from .database import Database


@dataclass(frozen=True, slots=True)
class KeptReport:
    """A report as it is kept.

    Attributes:
        version: a number that grows with each change.
        changed: when it was changed last, ISO 8601.
    """

    id: int
    report: Report
    version: int
    changed: str


class Reports:
    """Reads and writes reports."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[KeptReport]:
        """Every report, by its title. One that a newer version of the program wrote is left out."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM report ORDER BY title COLLATE NOCASE, id").fetchall()
        out = []
        for row in rows:
            try:
                out.append(_kept(row))
            except ProblemError:
                continue
        return out

    def any(self) -> bool:
        """Whether there is one."""
        with self._database.read() as db:
            return db.execute("SELECT 1 FROM report LIMIT 1").fetchone() is not None

    def get(self, report_id: int) -> KeptReport:
        """One report.

        Raises:
            ProblemError: ``report-unknown``, ``report-unreadable``.
        """
        with self._database.read() as db:
            row = db.execute("SELECT * FROM report WHERE id = ?", (report_id,)).fetchone()
        if row is None:
            raise fail(
                "report-unknown", "There is no such report.", where="report", do="Choose one on the page Reports."
            )
        return _kept(row)

    def at(self, address: str) -> KeptReport | None:
        """The report of an address for readers."""
        with self._database.read() as db:
            row = db.execute("SELECT * FROM report WHERE address = ? AND address <> ''", (address,)).fetchone()
        return _kept(row) if row is not None else None

    def add(self, report: Report, now: datetime) -> KeptReport:
        """Keep a new report.

        Raises:
            ProblemError: ``address-taken``.
        """
        moment = now.isoformat()
        with self._database.write() as db:
            _check_address(db, report.address, None)
            made = db.execute(
                "INSERT INTO report (title, address, document, made, changed) VALUES (?, ?, ?, ?, ?)",
                (report.title, report.address, report.model_dump_json(), moment, moment),
            )
            number = int(made.lastrowid or 0)
        return KeptReport(number, report, 1, moment)

    def save(self, report_id: int, report: Report, now: datetime, based_on: int) -> KeptReport:
        """Keep a changed report.

        Args:
            based_on: the version that was changed.

        Raises:
            ProblemError: ``report-unknown``, ``address-taken``, ``report-changed`` where somebody else changed it
                meanwhile.
        """
        with self._database.write() as db:
            _check_address(db, report.address, report_id)
            done = db.execute(
                "UPDATE report SET title = ?, address = ?, document = ?, changed = ?, version = version + 1"
                " WHERE id = ? AND version = ?",
                (report.title, report.address, report.model_dump_json(), now.isoformat(), report_id, based_on),
            )
            known = done.rowcount or db.execute("SELECT 1 FROM report WHERE id = ?", (report_id,)).fetchone()
        if not known:
            raise fail("report-unknown", "There is no such report.", where="report", do="It was deleted elsewhere.")
        if not done.rowcount:
            raise fail(
                "report-changed",
                "The report was changed elsewhere since this page loaded it.",
                where=f"report “{report.title}”",
                do="Copy what you wrote, load the page again, and write it there.",
            )
        return KeptReport(report_id, report, based_on + 1, now.isoformat())

    def remove(self, report_id: int) -> None:
        """Delete a report, and the keys of its readers."""
        with self._database.write() as db:
            db.execute("DELETE FROM report WHERE id = ?", (report_id,))


def _check_address(db: sqlite3.Connection, address: str, own: int | None) -> None:
    """
    Raises:
        ProblemError: ``address-taken``.
    """
    if not address:
        return
    row = db.execute("SELECT title FROM report WHERE address = ? AND id IS NOT ?", (address, own)).fetchone()
    if row is not None:
        raise fail(
            "address-taken",
            f"The report “{row['title']}” has the address “{address}”.",
            where="address",
            do="Choose another one.",
        )


def _kept(row: sqlite3.Row) -> KeptReport:
    try:
        report = Report.model_validate_json(row["document"])
    except ValidationError as error:
        raise fail(
            "report-unreadable",
            f"The report “{row['title']}” was written by a newer version of Tin Bucket.",
            where=f"report “{row['title']}”",
            do="Use that version.",
        ) from error
    return KeptReport(row["id"], report, row["version"], row["changed"])
