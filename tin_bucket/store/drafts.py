"""Drafts: what was changed in a query and not saved yet, with the steps that led there."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import ValidationError

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import rename_queries
from tin_bucket.core.problem import fail

from .database import Database

MOST_STEPS = 200  # Of each query; the oldest go first.

Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Step:
    """A state of the draft and the change that led to it; the first one's name is empty."""

    number: int
    name: str


@dataclass(frozen=True, slots=True)
class Draft:
    """The draft of a query.

    Attributes:
        based_on: the saved version of the brief that the draft was begun with.
        version: rises with every change, from any window.
        steps: the states that can be gone back or forth to, the oldest first.
        at: the number of the step in sight.
        document: the brief of that step, which may not be valid yet.
        unsaved: whether it differs from the saved brief.
        given: values for the next call that differ from the defaults.
    """

    query_id: int
    based_on: int
    version: int
    steps: list[Step]
    at: int
    document: Document
    unsaved: bool
    changed: str
    given: Document


class Drafts:
    """Reads and writes drafts. Their documents are kept as they came: also what is not valid yet is somebody's work."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, query_id: int) -> Draft | None:
        """The draft of a query, if something was ever changed in it."""
        with self._database.read_together() as db:
            return _draft(db, query_id)

    def change(
        self,
        query_id: int,
        version: int,
        document: Document,
        name: str,
        given: Mapping[str, Any],
        now: datetime,
        based_on: int,
    ) -> Draft:
        """Take a change as the next step; steps that were undone before it are gone.

        Args:
            version: of the draft that the change was made to, 0 where there was none.
            name: what the change did, in words.
            based_on: the saved version of the brief that the draft is to take the place of.

        Raises:
            ProblemError: ``draft-changed-meanwhile`` where another window made a newer one.
        """
        with self._database.write() as db:
            known = _draft(db, query_id)
            _same_version(known, version)
            saved = _saved(db, query_id, based_on)
            at, last = (known.at, known.document) if known is not None else (0, saved)
            if known is None:
                db.execute("INSERT INTO draft VALUES (?, ?, 0, 0, 0, '', '{}')", (query_id, based_on))
                _add(db, query_id, 0, "", saved)
            elif not known.unsaved and last != saved:
                at, last = at + 1, saved
                _add(db, query_id, at, "saved elsewhere", saved)
            if document != last:
                at += 1
                _add(db, query_id, at, name, document)
            db.execute("UPDATE draft SET based_on = ? WHERE query_id = ?", (based_on, query_id))
            _move(db, query_id, at, not _same(document, saved), now, given)
            return _there(_draft(db, query_id))

    def move(self, query_id: int, version: int, at: int, now: datetime) -> Draft:
        """Go back or forth to a step.

        Raises:
            ProblemError: ``draft-changed-meanwhile``, or ``step-unknown``.
        """
        with self._database.write() as db:
            known = _draft(db, query_id)
            _same_version(known, version)
            row = db.execute(
                "SELECT document FROM draft_step WHERE query_id = ? AND number = ?", (query_id, at)
            ).fetchone()
            if row is None or known is None:
                raise fail("step-unknown", "There is nothing to undo or redo.", where="the changes", do="Reload it.")
            saved = _saved(db, query_id, known.based_on)
            _move(db, query_id, at, not _same(json.loads(row["document"]), saved), now, known.given)
            return _there(_draft(db, query_id))


def rebase(db: sqlite3.Connection, query_id: int, old: int, new: int, document: Document, renamed: bool) -> None:
    """Within the saving of a brief: the draft that was just saved, or in which only names were renamed, goes on from
    the new version. A draft that somebody else saves over does not: its window is told."""
    known = _draft(db, query_id)
    if known is not None and known.based_on == old and (renamed or _same(known.document, document)):
        db.execute(
            "UPDATE draft SET based_on = ?, unsaved = ?, version = version + 1 WHERE query_id = ?",
            (new, not _same(known.document, document), query_id),
        )


def rename_in_drafts(db: sqlite3.Connection, names: dict[str, str]) -> None:
    """Within the renaming of queries: drafts that read their tables use the new names."""
    for row in db.execute("SELECT query_id, number, document FROM draft_step").fetchall():
        try:
            brief = Brief.model_validate_json(row["document"])
        except ValidationError:
            continue  # It names nothing that could be told yet.
        renamed = rename_queries(brief, names)
        if renamed is not brief:
            db.execute(
                "UPDATE draft_step SET document = ? WHERE query_id = ? AND number = ?",
                (renamed.model_dump_json(by_alias=True), row["query_id"], row["number"]),
            )


def _there(draft: Draft | None) -> Draft:
    assert draft is not None
    return draft


def _same_version(known: Draft | None, version: int) -> None:
    if version != (known.version if known is not None else 0):
        raise fail(
            "draft-changed-meanwhile",
            "This query was changed in another window meanwhile.",
            where="the changes that are not saved",
            do="Keep your change, or take the other window's.",
        )


def _same(document: Document, saved: Document) -> bool:
    """Whether both say the same; what is left out has its default."""
    if document == saved:
        return True
    try:
        return Brief.model_validate(document) == Brief.model_validate(saved)
    except ValidationError:
        return False


def _saved(db: sqlite3.Connection, query_id: int, brief_id: int) -> Document:
    row = db.execute("SELECT document FROM brief WHERE query_id = ? AND id = ?", (query_id, brief_id)).fetchone()
    if row is None:
        raise fail("query-unknown", "The query was deleted.", where=f"query {query_id}", do="Choose one on the desk.")
    document: Document = json.loads(row["document"])
    return document


def _add(db: sqlite3.Connection, query_id: int, number: int, name: str, document: Document) -> None:
    """Add a step; those that were undone before it, and the oldest of too many, are gone."""
    db.execute("DELETE FROM draft_step WHERE query_id = ? AND number >= ?", (query_id, number))
    db.execute("INSERT INTO draft_step VALUES (?, ?, ?, ?)", (query_id, number, name, json.dumps(document)))
    db.execute("DELETE FROM draft_step WHERE query_id = ? AND number <= ?", (query_id, number - MOST_STEPS))


def _move(
    db: sqlite3.Connection, query_id: int, at: int, unsaved: bool, now: datetime, given: Mapping[str, Any]
) -> None:
    db.execute(
        "UPDATE draft SET at = ?, unsaved = ?, changed = ?, given = ?, version = version + 1 WHERE query_id = ?",
        (at, unsaved, now.isoformat(timespec="seconds"), json.dumps(given), query_id),
    )


def _draft(db: sqlite3.Connection, query_id: int) -> Draft | None:
    row = db.execute(
        "SELECT draft.*, draft_step.document FROM draft JOIN draft_step"
        " ON draft_step.query_id = draft.query_id AND draft_step.number = draft.at WHERE draft.query_id = ?",
        (query_id,),
    ).fetchone()
    if row is None:
        return None
    steps = db.execute("SELECT number, name FROM draft_step WHERE query_id = ? ORDER BY number", (query_id,))
    return Draft(
        query_id=query_id,
        based_on=row["based_on"],
        version=row["version"],
        steps=[Step(one["number"], one["name"]) for one in steps.fetchall()],
        at=row["at"],
        document=json.loads(row["document"]),
        unsaved=bool(row["unsaved"]),
        changed=row["changed"],
        given=json.loads(row["given"]),
    )
