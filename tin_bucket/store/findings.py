"""What “Is there more?” tried and what it found, by query. Calls are without their keys."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.pagination.finding.finding import Finding

from .database import Database

_KEPT = 20  # Of each query.


@dataclass(frozen=True, slots=True)
class TriedCall:
    """A call that was made, its key masked; `status` is 0 where no answer came, and `rows` ``None`` where no rows."""

    sent: str
    method: str
    address: str
    status: int
    ms: int
    rows: int | None


@dataclass(frozen=True, slots=True)
class FoundOut:
    """What was found out, when, and by which calls."""

    asked: str
    finding: Finding
    calls: list[TriedCall] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class FindingLine:
    """What is kept of it: its document is what the screen shows."""

    id: int
    asked: str
    state: str
    document: dict[str, Any]
    query_id: int = 0
    query_name: str = ""


def finding_document(found: FoundOut) -> dict[str, Any]:
    """What is kept and shown of a finding."""
    finding = found.finding
    calls = [
        {
            "sent": trial.sent,
            "rows": trial.rows,
            "showed": trial.showed,
            "address": made.address,
            "method": made.method,
            "status": made.status,
            "ms": made.ms,
            "at": made.sent,
        }
        for trial, made in zip(finding.trials, found.calls, strict=True)
    ]
    return {"what": finding.what, "words": finding.words, "saves": finding.saves, "calls": calls}


class Findings:
    """The findings of a workspace."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, query_id: int | None, found: FoundOut) -> None:
        """Keep a finding; of each query the newest stay."""
        finding, document = found.finding, finding_document(found)
        with self._database.write() as db:
            db.execute(
                "INSERT INTO finding (query_id, asked, state, document) VALUES (?, ?, ?, ?)",
                (query_id, found.asked, finding.state, json.dumps(document)),
            )
            db.execute(
                "DELETE FROM finding WHERE query_id IS ? AND id NOT IN"
                " (SELECT id FROM finding WHERE query_id IS ? ORDER BY id DESC LIMIT ?)",
                (query_id, query_id, _KEPT),
            )

    def of_query(self, query_id: int) -> list[FindingLine]:
        """A query's findings, the newest first."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT id, asked, state, document FROM finding WHERE query_id = ? ORDER BY id DESC", (query_id,)
            ).fetchall()
        return [FindingLine(row["id"], row["asked"], row["state"], json.loads(row["document"])) for row in rows]

    def latest(self, most: int) -> list[FindingLine]:
        """The newest findings of all queries, the newest first."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT finding.id, asked, state, document, query_id, query.name FROM finding"
                " JOIN query ON query.id = finding.query_id ORDER BY finding.id DESC LIMIT ?",
                (most,),
            ).fetchall()
        return [
            FindingLine(
                row["id"], row["asked"], row["state"], json.loads(row["document"]), row["query_id"], row["name"]
            )
            for row in rows
        ]
