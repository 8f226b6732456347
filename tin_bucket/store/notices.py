"""Notices of a workspace, what was told, and the messages."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import datetime

from pydantic import TypeAdapter

from tin_bucket.core.notices.channel import Channel
from tin_bucket.core.notices.channels.registry import AnyChannel
from tin_bucket.core.notices.facts import Finding
from tin_bucket.core.notices.model import Notice
from tin_bucket.core.problem import Problem, fail

from .database import Database

_CHANNEL: TypeAdapter[Channel] = TypeAdapter(AnyChannel)
_KEPT = 1_000  # Messages that are remembered.


@dataclass(frozen=True, slots=True)
class KeptNotice:
    """A notice as it is kept.

    Attributes:
        made, changed: ISO 8601.
    """

    id: int
    notice: Notice
    made: str
    changed: str


@dataclass(frozen=True, slots=True)
class Content:
    """What a message says: a line, plain text, HTML, and the same for programs as JSON."""

    title: str
    text: str
    html: str
    facts: str


@dataclass(frozen=True, slots=True)
class Message:
    """A message by one channel.

    Attributes:
        notice: what the notice is called.
        state: ``waiting``, ``sent``, or ``failed`` for good.
        made, next_try, sent: ISO 8601.
        problem: why it was not sent the last time.
    """

    id: int
    notice_id: int | None
    notice: str
    channel: Channel
    place: str
    content: Content
    made: str
    state: str
    next_try: str | None
    tries: int
    sent: str | None
    problem: Problem | None


class Notices:
    """Reads and writes notices and messages."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[KeptNotice]:
        """Every notice, in the order in which they were made."""
        with self._database.read() as db:
            return [_kept(row) for row in db.execute("SELECT * FROM notice ORDER BY id")]

    def any(self) -> bool:
        """Whether there is one."""
        with self._database.read() as db:
            return db.execute("SELECT 1 FROM notice LIMIT 1").fetchone() is not None

    def get(self, notice_id: int) -> KeptNotice:
        """One notice.

        Raises:
            ProblemError: ``notice-unknown``.
        """
        with self._database.read() as db:
            row = db.execute("SELECT * FROM notice WHERE id = ?", (notice_id,)).fetchone()
        if row is None:
            raise fail("notice-unknown", "There is no such notice.", where="notice", do="Load the page again.")
        return _kept(row)

    def add(self, notice: Notice, now: datetime) -> KeptNotice:
        """Keep a new notice."""
        with self._database.write() as db:
            made = db.execute(
                "INSERT INTO notice (document, made, changed) VALUES (?, ?, ?)",
                (notice.model_dump_json(), now.isoformat(), now.isoformat()),
            )
            number = int(made.lastrowid or 0)
        return self.get(number)

    def save(self, notice_id: int, notice: Notice, now: datetime) -> KeptNotice:
        """Keep a changed notice. Another cause begins anew.

        Raises:
            ProblemError: ``notice-unknown``.
        """
        before = self.get(notice_id)
        with self._database.write() as db:
            db.execute(
                "UPDATE notice SET document = ?, changed = ? WHERE id = ?",
                (notice.model_dump_json(), now.isoformat(), notice_id),
            )
            if before.notice.cause != notice.cause or (before.notice.off and not notice.off):
                db.execute("DELETE FROM notice_told WHERE notice_id = ?", (notice_id,))
        return self.get(notice_id)

    def remove(self, notice_id: int) -> None:
        """Delete a notice; what waits to be sent for it is not sent any more."""
        with self._database.write() as db:
            db.execute("DELETE FROM message WHERE notice_id = ? AND state = 'waiting'", (notice_id,))
            db.execute("DELETE FROM notice WHERE id = ?", (notice_id,))

    def told(self, notice_id: int) -> dict[str, str]:
        """What was told and is not over: subject → mark."""
        with self._database.read() as db:
            rows = db.execute("SELECT subject, mark FROM notice_told WHERE notice_id = ?", (notice_id,))
            return {row["subject"]: row["mark"] for row in rows}

    def note(
        self, kept: KeptNotice, found: Sequence[tuple[Finding, Content | None]], now: datetime, due: datetime
    ) -> int:
        """Note what a notice found, and make a message of each new finding for each of its channels, in one
        transaction: killed at any moment, nothing is told twice or never. Gives how many messages were made.

        Args:
            found: with what is said of it; nothing for what is over.
            due: when they may be sent.
        """
        made = 0
        with self._database.write() as db:
            for finding, content in found:
                key = (kept.id, finding.subject)
                row = db.execute("SELECT mark FROM notice_told WHERE notice_id = ? AND subject = ?", key).fetchone()
                before = row["mark"] if row is not None else ""
                if finding.mark == before:
                    continue
                if not finding.mark:
                    db.execute("DELETE FROM notice_told WHERE notice_id = ? AND subject = ?", key)
                    continue
                db.execute(
                    "INSERT INTO notice_told VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET mark = excluded.mark",
                    (*key, finding.mark),
                )
                if content is None:
                    continue
                for channel in kept.notice.to:
                    self._insert(db, kept, channel, content, now, due)
                    made += 1
            db.execute(
                "DELETE FROM message WHERE state <> 'waiting' AND id <= (SELECT max(id) FROM message) - ?", (_KEPT,)
            )
        return made

    def post(self, kept: KeptNotice, content: Content, now: datetime) -> None:
        """Make a message for each channel at once, whatever the cause."""
        with self._database.write() as db:
            for channel in kept.notice.to:
                self._insert(db, kept, channel, content, now, now)

    @staticmethod
    def _insert(
        db: sqlite3.Connection, kept: KeptNotice, channel: Channel, content: Content, now: datetime, due: datetime
    ) -> None:
        db.execute(
            "INSERT INTO message (notice_id, notice, channel, place, title, content, made, next_try)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (
                kept.id, kept.notice.name, channel.model_dump_json(), channel.place(), content.title,
                json.dumps(asdict(content)), now.isoformat(), due.isoformat(),
            ),
        )  # fmt: skip

    def messages(self, most: int = 200) -> list[Message]:
        """The newest messages first."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM message ORDER BY id DESC LIMIT ?", (most,)).fetchall()
        return [_message(row) for row in rows]

    def given_up(self, since: datetime) -> list[Message]:
        """The messages made since then that were given up, the newest first."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM message WHERE state = 'failed' ORDER BY id DESC LIMIT 50").fetchall()
        return [one for one in map(_message, rows) if datetime.fromisoformat(one.made) >= since]

    def due(self, now: datetime) -> list[Message]:
        """The messages that are to be sent now, the oldest first."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM message WHERE state = 'waiting' ORDER BY id").fetchall()
        return [one for one in map(_message, rows) if one.next_try and datetime.fromisoformat(one.next_try) <= now]

    def done(self, message_id: int, now: datetime) -> None:
        """Note that a message was sent."""
        with self._database.write() as db:
            db.execute(
                "UPDATE message SET state = 'sent', sent = ?, tries = tries + 1, next_try = NULL, problem = NULL"
                " WHERE id = ?",
                (now.isoformat(), message_id),
            )

    def failed(self, message_id: int, problem: Problem, next_try: datetime | None) -> None:
        """Note that a message was not sent; without a next try it is given up."""
        with self._database.write() as db:
            db.execute(
                "UPDATE message SET tries = tries + 1, problem = ?, next_try = ?, state = ? WHERE id = ?",
                (
                    json.dumps(problem.as_dict()), next_try.isoformat() if next_try is not None else None,
                    "waiting" if next_try is not None else "failed", message_id,
                ),
            )  # fmt: skip

    def again(self, message_id: int, now: datetime) -> None:
        """Let a message be tried once more, now."""
        with self._database.write() as db:
            db.execute(
                "UPDATE message SET state = 'waiting', next_try = ? WHERE id = ? AND state <> 'sent'",
                (now.isoformat(), message_id),
            )


def _kept(row: sqlite3.Row) -> KeptNotice:
    return KeptNotice(row["id"], Notice.model_validate_json(row["document"]), row["made"], row["changed"])


def _message(row: sqlite3.Row) -> Message:
    return Message(
        row["id"], row["notice_id"], row["notice"], _CHANNEL.validate_json(row["channel"]), row["place"],
        Content(**json.loads(row["content"])), row["made"], row["state"], row["next_try"], row["tries"], row["sent"],
        Problem(**json.loads(row["problem"])) if row["problem"] else None,
    )  # fmt: skip
