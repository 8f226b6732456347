"""The saved answers: bodies by content, compressed (Zstandard, RFC 8878), each stored once."""

from __future__ import annotations

import hashlib
import json

import zstandard

from tin_bucket.core.problem import fail
from tin_bucket.core.replay import SavedPage
from tin_bucket.core.verdict import Answer

from .database import Database

KEPT_RUNS = 3  # The newest runs of each query whose answers are kept.
_MOST_BYTES = 2**31


def pack(body: bytes) -> tuple[bytes, bytes]:
    """A body's digest and its compressed form."""
    return hashlib.blake2b(body, digest_size=20).digest(), zstandard.ZstdCompressor(level=1).compress(body)


def unpack(packed: bytes) -> bytes:
    """The body again."""
    return zstandard.ZstdDecompressor().decompress(packed, max_output_size=_MOST_BYTES)


class Archive:
    """Reads saved answers, and lets old ones go."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def answers(self, run_id: int, stage: str, most: int | None = None) -> list[SavedPage] | None:
        """The answers of one stage of a run that its table was made of, in order, or ``None`` when some are no longer
        kept.

        Args:
            most: only so many, from the first on.
        """
        with self._database.read() as db:
            rows = db.execute(
                "SELECT call.status, call.answer_headers, call.seconds, call.round, answer.body FROM call"
                " LEFT JOIN answer ON answer.digest = call.answer"
                " WHERE call.run_id = ? AND call.stage = ? AND call.used ORDER BY call.round, call.turn, call.number"
                " LIMIT ?",
                (run_id, stage, -1 if most is None else most),
            ).fetchall()
        answers = []
        for row in rows:
            if row["body"] is None and row["status"]:
                return None
            body = unpack(row["body"]) if row["body"] is not None else b""
            answer = Answer(row["status"], json.loads(row["answer_headers"]), body, row["seconds"])
            answers.append(SavedPage(answer, row["round"]))
        return answers

    def body(self, run_id: int, number: int) -> bytes:
        """The body of one answer.

        Raises:
            ProblemError: ``answer-gone``.
        """
        with self._database.read() as db:
            row = db.execute(
                "SELECT answer.body FROM call JOIN answer ON answer.digest = call.answer"
                " WHERE call.run_id = ? AND call.number = ?",
                (run_id, number),
            ).fetchone()
        if row is None:
            raise fail(
                "answer-gone",
                "This answer is not kept any more, or there was none.",
                where=f"run {run_id}, call {number}",
                do=f"The answers of the newest {KEPT_RUNS} runs of each query are kept. Refresh to see new ones.",
            )
        return unpack(row["body"])

    def prune(self, query_id: int) -> None:
        """Let go of the answers of all but the newest runs of a query."""
        with self._database.write() as db:
            changed = db.execute(
                "UPDATE call SET answer = NULL WHERE answer IS NOT NULL AND run_id IN (SELECT id FROM run"
                " WHERE query_id = ? ORDER BY id DESC LIMIT -1 OFFSET ?)",
                (query_id, KEPT_RUNS),
            ).rowcount
            if changed:
                db.execute("DELETE FROM answer WHERE NOT EXISTS (SELECT 1 FROM call WHERE call.answer = answer.digest)")
