"""The saved answers: bodies by content, compressed (Zstandard, RFC 8878), each stored once."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import overload

import zstandard

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.rebuild import SavedPage

from .database import Database

_MOST_BYTES = 2**31
_TOGETHER = 16  # Answers that are unpacked together.


def pack(body: bytes) -> tuple[bytes, bytes]:
    """A body's digest and its compressed form."""
    return hashlib.blake2b(body, digest_size=20).digest(), zstandard.ZstdCompressor(level=1).compress(body)


def unpack(packed: bytes) -> bytes:
    """The body again."""
    return zstandard.ZstdDecompressor().decompress(packed, max_output_size=_MOST_BYTES)


def is_intact(digest: bytes, packed: bytes) -> bool:
    """Whether a compressed body is the one that was packed."""
    try:
        return hashlib.blake2b(unpack(packed), digest_size=20).digest() == digest
    except (zstandard.ZstdError, MemoryError):
        return False


class Archive:
    """Reads saved answers, and lets old ones go."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def answers(self, run_id: int, stage: str) -> SavedAnswers | None:
        """The answers of one stage of a run that its table was made of, in order, or ``None`` when some are no longer
        kept. They are read when they are wanted."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT number, status, answer_headers, seconds, iteration, size, answer IS NOT NULL AS has FROM call"
                " WHERE run_id = ? AND stage = ? AND used ORDER BY iteration, turn, number",
                (run_id, stage),
            ).fetchall()
        if any(row["status"] and not row["has"] for row in rows):
            return None
        heads = [
            _Head(row["number"], row["status"], row["answer_headers"], row["seconds"], row["iteration"], row["size"])
            for row in rows
        ]
        return SavedAnswers(self._database, run_id, heads)

    def kept(self, query_id: int) -> list[KeptRun]:
        """The runs of a query whose answers are kept, the newest first, with how large they are."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT run.id, run.started, count(*) AS calls, sum(length(answer.body)) AS packed,"
                " sum(call.size) AS size, snapshot.id AS snapshot_id, snapshot.rebuilt FROM run"
                " JOIN call ON call.run_id = run.id JOIN answer ON answer.digest = call.answer"
                " LEFT JOIN snapshot ON snapshot.run_id = run.id"
                " WHERE run.query_id = ? GROUP BY run.id ORDER BY run.id DESC",
                (query_id,),
            ).fetchall()
        return [
            KeptRun(row["id"], row["started"], row["calls"], row["packed"], row["size"], row["snapshot_id"],
                    row["rebuilt"])
            for row in rows
        ]  # fmt: skip

    def size(self, query_id: int) -> int:
        """How many bytes a query's saved answers take; one that several runs had counts once."""
        with self._database.read() as db:
            found = db.execute(
                "SELECT sum(length(body)) FROM answer WHERE digest IN (SELECT call.answer FROM call"
                " JOIN run ON run.id = call.run_id WHERE run.query_id = ?)",
                (query_id,),
            ).fetchone()[0]
        return int(found or 0)

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
            raise _gone(run_id, number)
        return unpack(row["body"])

    def prune(self, query_id: int, keep: int, before: str = "") -> int:
        """Let go of the answers of all but the newest runs of a query.

        Args:
            keep: of how many runs they are kept.
            before: also those of runs that began before this moment, ISO 8601.

        Returns:
            How many answers were deleted.
        """
        with self._database.write() as db:
            changed = db.execute(
                "UPDATE call SET answer = NULL WHERE answer IS NOT NULL AND run_id IN (SELECT id FROM run"
                " WHERE query_id = :query AND state <> 'running' AND (started < :before OR id NOT IN"
                " (SELECT id FROM run WHERE query_id = :query ORDER BY id DESC LIMIT :keep)))",
                {"query": query_id, "before": before, "keep": keep},
            ).rowcount
            if changed:
                db.execute("DELETE FROM answer WHERE NOT EXISTS (SELECT 1 FROM call WHERE call.answer = answer.digest)")
        return changed


def _gone(run_id: int, number: int) -> ProblemError:
    return fail(
        "answer-gone",
        "This answer is no longer kept, or there was none.",
        where=f"run {run_id}, call {number}",
        do="The brief says of how many refreshes answers are kept. Refresh to see new ones.",
    )


@dataclass(frozen=True, slots=True)
class KeptRun:
    """A run whose answers are kept: how many, their size packed and as they came, and its snapshot, if it made one."""

    run_id: int
    started: str
    calls: int
    packed: int
    size: int
    snapshot_id: int | None
    rebuilt: str | None


@dataclass(frozen=True, slots=True)
class _Head:
    number: int
    status: int
    headers: str
    seconds: float
    iteration: int
    size: int


class SavedAnswers(Sequence[SavedPage]):
    """The saved answers of a run, in order. A body is unpacked when it is wanted, and not held; one that was let go
    meanwhile is a ``ProblemError`` of kind ``answer-gone``."""

    def __init__(self, database: Database, run_id: int, heads: list[_Head]) -> None:
        self._database = database
        self._run = run_id
        self._heads = heads

    def __len__(self) -> int:
        return len(self._heads)

    @overload
    def __getitem__(self, at: int) -> SavedPage: ...
    @overload
    def __getitem__(self, at: slice) -> list[SavedPage]: ...
    def __getitem__(self, at: int | slice) -> SavedPage | list[SavedPage]:
        return self._load(self._heads[at]) if isinstance(at, slice) else self._load([self._heads[at]])[0]

    def __iter__(self) -> Iterator[SavedPage]:
        for start in range(0, len(self._heads), _TOGETHER):
            yield from self._load(self._heads[start : start + _TOGETHER])

    def sizes(self) -> list[int]:
        """The length of each body as it came, in bytes."""
        return [head.size for head in self._heads]

    def head(self, at: int) -> SavedPage:
        """An answer without its body."""
        one = self._heads[at]
        return SavedPage(Answer(one.status, json.loads(one.headers), b"", one.seconds, size=one.size), one.iteration)

    def _load(self, heads: list[_Head]) -> list[SavedPage]:
        marks = ",".join("?" * len(heads))
        with self._database.read() as db:
            rows = db.execute(
                "SELECT call.number, answer.body FROM call JOIN answer ON answer.digest = call.answer"
                f" WHERE call.run_id = ? AND call.number IN ({marks})",
                (self._run, *(head.number for head in heads)),
            ).fetchall()
        bodies = {row["number"]: row["body"] for row in rows}
        out = []
        for head in heads:
            packed = bodies.get(head.number)
            if packed is None and head.status:
                raise _gone(self._run, head.number)
            body = unpack(packed) if packed is not None else b""
            out.append(SavedPage(Answer(head.status, json.loads(head.headers), body, head.seconds), head.iteration))
        return out


class AnswersByAddress(Mapping[str, Answer]):
    """Saved answers of lookups, by how they were asked."""

    def __init__(self, stages: Sequence[tuple[Sequence[str], SavedAnswers]]) -> None:
        """
        Args:
            stages: for each lookup how its calls were asked, and their answers in the same order.
        """
        self._at = {address: (answers, at) for addresses, answers in stages for at, address in enumerate(addresses)}

    def __getitem__(self, address: str) -> Answer:
        answers, at = self._at[address]
        return answers[at].answer

    def __iter__(self) -> Iterator[str]:
        return iter(self._at)

    def __len__(self) -> int:
        return len(self._at)
