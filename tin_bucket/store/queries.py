"""Queries and every saved version of their briefs."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass
from datetime import date, datetime

from pydantic import TypeAdapter

from tin_bucket.cache import LockedCache
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import queries_named, rename_queries
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.core.schedule.models import AnySchedule, Schedule

from .database import Database
from .drafts import rebase, rename_in_drafts

_SCHEDULE: TypeAdapter[AnySchedule] = TypeAdapter(Schedule)
_KEPT_BRIEFS = 1_000  # Read lately, by what was written: a saved version never changes.


@dataclass(frozen=True, slots=True)
class Query:
    """A query with the brief that was saved last."""

    id: int
    name: str
    brief_id: int
    brief: Brief


@dataclass(frozen=True, slots=True)
class Scheduled:
    """A query that is refreshed on a schedule.

    Attributes:
        saved: when its brief was saved.
        last: when its newest refresh began, if there was one.
        resumes: the day on which a pause ends; ``None`` where it is not paused.
        stopped: whether the newest refresh ended without a table.
    """

    id: int
    schedule: AnySchedule
    saved: datetime
    last: datetime | None
    resumes: date | None = None
    stopped: bool = False


class Queries:
    """Reads and writes queries."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._briefs: LockedCache[str, Brief] = LockedCache(_KEPT_BRIEFS)

    def all(self) -> list[Query]:
        """Every query, in the order in which they were made."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT query.id, query.name, query.brief_id, brief.document FROM query"
                " JOIN brief ON brief.id = query.brief_id ORDER BY query.id"
            ).fetchall()
        return [self._query(row) for row in rows]

    def names(self) -> dict[int, str]:
        """The name of every query, by its number, in the order in which they were made."""
        with self._database.read() as db:
            return {row["id"]: row["name"] for row in db.execute("SELECT id, name FROM query ORDER BY id")}

    def version(self) -> int:
        """A number that is another one whenever a query was saved or deleted."""
        with self._database.read() as db:
            row = db.execute("SELECT coalesce(max(id), 0) + (SELECT count(*) FROM query) * 1000000007 AS n FROM brief")
            return int(row.fetchone()["n"])

    def saved(self, query_id: int) -> datetime:
        """When the brief of a query was saved."""
        with self._database.read() as db:
            row = db.execute(
                "SELECT brief.saved FROM query JOIN brief ON brief.id = query.brief_id WHERE query.id = ?", (query_id,)
            ).fetchone()
        return datetime.fromisoformat(row["saved"])

    def scheduled(self, query_id: int | None = None) -> list[Scheduled]:
        """The queries that are refreshed on a schedule and not paused for good; of one query when it is named."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT query.id, brief.saved, json_extract(brief.document, '$.keep.schedule') AS schedule,"
                " CASE WHEN json_extract(brief.document, '$.keep.paused')"
                "  THEN json_extract(brief.document, '$.keep.paused_until') END AS resumes,"
                " run.started AS last, coalesce(run.state IN ('failed', 'cancelled', 'interrupted'), 0) AS stopped"
                " FROM query JOIN brief ON brief.id = query.brief_id LEFT JOIN run ON run.id ="
                " (SELECT max(id) FROM run AS newest WHERE newest.query_id = query.id)"
                " WHERE json_type(brief.document, '$.keep.schedule') = 'object'"
                " AND (NOT coalesce(json_extract(brief.document, '$.keep.paused'), 0)"
                "  OR json_extract(brief.document, '$.keep.paused_until') IS NOT NULL)"
                " AND (:query IS NULL OR query.id = :query) ORDER BY query.id",
                {"query": query_id},
            ).fetchall()
        return [
            Scheduled(
                row["id"],
                _SCHEDULE.validate_json(row["schedule"]),
                datetime.fromisoformat(row["saved"]),
                datetime.fromisoformat(row["last"]) if row["last"] else None,
                date.fromisoformat(row["resumes"]) if row["resumes"] else None,
                bool(row["stopped"]),
            )
            for row in rows
        ]

    def get(self, query_id: int) -> Query:
        """One query.

        Raises:
            ProblemError: ``query-unknown``.
        """
        with self._database.read() as db:
            row = db.execute(
                "SELECT query.id, query.name, query.brief_id, brief.document FROM query"
                " JOIN brief ON brief.id = query.brief_id WHERE query.id = ?",
                (query_id,),
            ).fetchone()
        if row is None:
            raise fail(
                "query-unknown",
                f"There is no query {query_id}.",
                where=f"query {query_id}",
                do="Choose one on the desk.",
            )
        return self._query(row)

    def brief_then(self, query_id: int, moment: str) -> str:
        """The version of a query's brief that was saved last at or before a moment, as JSON; its first one where the
        query was made later.

        Args:
            moment: ISO 8601, in UTC.

        Raises:
            ProblemError: ``query-unknown``.
        """
        with self._database.read() as db:
            row = db.execute(
                "SELECT document FROM brief WHERE query_id = ?"
                " ORDER BY saved <= ? DESC, CASE WHEN saved <= ? THEN -id ELSE id END LIMIT 1",
                (query_id, moment, moment),
            ).fetchone()
        return str(row[0]) if row is not None else self.get(query_id).brief.model_dump_json(by_alias=True)

    def find(self, name_or_id: str) -> Query:
        """A query by its name (any case) or its number.

        Raises:
            ProblemError: ``query-unknown``, with the names that there are.
        """
        names = self.names()
        for number, name in names.items():
            if name.lower() == name_or_id.lower() or str(number) == name_or_id:
                return self.get(number)
        have = ", ".join(f"“{name}”" for name in list(names.values())[:20]) or "none"
        raise fail(
            "query-unknown",
            f"There is no query “{name_or_id}”.",
            where=str(self._database.home),
            do=f"The workspace's queries: {have}.",
        )

    def add(self, brief: Brief, now: datetime) -> Query:
        """Save a new query.

        Raises:
            ProblemError: ``name-taken``.
        """
        with self._database.write() as db:
            try:
                cursor = db.execute(
                    "INSERT INTO query (name, made) VALUES (?, ?)",
                    (brief.name, now.isoformat(timespec="seconds")),
                )
            except sqlite3.IntegrityError as error:
                raise _taken(brief.name) from error
            query_id = int(cursor.lastrowid or 0)
            self._save_brief(db, query_id, brief, now)
        return self.get(query_id)

    def save(self, query_id: int, brief: Brief, now: datetime, based_on: int | None = None) -> Query:
        """Save a new version of a query's brief.

        Args:
            based_on: the version that the change was made to; a newer one in the store is never overwritten.

        Raises:
            ProblemError: ``query-unknown``, ``name-taken`` or ``brief-changed-meanwhile``.
        """
        query = self.get(query_id)
        if based_on is not None and based_on != query.brief_id:
            raise fail(
                "brief-changed-meanwhile",
                "The query was saved from another window meanwhile.",
                where=f"query “{query.name}”",
                do="Reload it, then make the change again.",
            )
        if brief != query.brief:
            with self._database.write() as db:
                try:
                    db.execute("UPDATE query SET name = ? WHERE id = ?", (brief.name, query_id))
                except sqlite3.IntegrityError as error:
                    raise _taken(brief.name) from error
                self._save_brief(db, query_id, brief, now)
                if brief.name != query.name:
                    self._rename_everywhere(db, query.name, brief.name, now)
        return self.get(query_id)

    def _rename_everywhere(self, db: sqlite3.Connection, old: str, new: str, now: datetime) -> None:
        """Queries that read this one's table use its new name."""
        for other in self.all():
            renamed = rename_queries(other.brief, {old: new})
            if renamed is not other.brief:
                self._save_brief(db, other.id, renamed, now, renamed=True)
        rename_in_drafts(db, {old: new})

    def used_by(self, name: str) -> list[str]:
        """The names of the queries that read a query's table."""
        return [query.name for query in self.all() if name in queries_named(query.brief)]

    def free_name(self, name: str) -> str:
        """The name, or the name with a number behind it when it is taken."""
        return free_name(name, set(self.names().values()))

    def delete(self, query_id: int) -> None:
        """Delete a query with its runs, snapshots, rows and saved answers.

        Raises:
            ProblemError: ``query-unknown``, or ``query-in-use`` with the queries that read its table.
        """
        name = self.get(query_id).name
        users = [user for user in self.used_by(name) if user != name]
        if users:
            raise fail(
                "query-in-use",
                f"The table of “{name}” is read by these queries: {', '.join(users)}.",
                where=f"query “{name}”",
                do="Let them take their values from elsewhere first.",
            )
        with self._database.write() as db:
            db.execute("UPDATE snapshot SET base = NULL WHERE query_id = ?", (query_id,))
            db.execute("DELETE FROM query WHERE id = ?", (query_id,))
            db.execute("DELETE FROM answer WHERE digest NOT IN (SELECT answer FROM call WHERE answer IS NOT NULL)")

    def _save_brief(
        self, db: sqlite3.Connection, query_id: int, brief: Brief, now: datetime, renamed: bool = False
    ) -> None:
        document = brief.model_dump_json(by_alias=True)
        (old,) = db.execute("SELECT brief_id FROM query WHERE id = ?", (query_id,)).fetchone()
        cursor = db.execute(
            "INSERT INTO brief (query_id, saved, document) VALUES (?, ?, ?)",
            (query_id, now.isoformat(timespec="seconds"), document),
        )
        new = int(cursor.lastrowid or 0)
        db.execute("UPDATE query SET brief_id = ? WHERE id = ?", (new, query_id))
        if old is not None:
            rebase(db, query_id, old, new, json.loads(document), renamed)

    def _query(self, row: sqlite3.Row) -> Query:
        document = row["document"]
        brief = self._briefs.get_or_make(document, lambda: Brief.model_validate_json(document))
        return Query(row["id"], row["name"], row["brief_id"], brief)


def _taken(name: str) -> Exception:
    return fail(
        "name-taken",
        f"There is already a query named “{name}”.",
        where="the query's name",
        do="Give it another name.",
    )
