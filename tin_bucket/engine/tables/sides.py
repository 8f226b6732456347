"""The two sides of a comparison: dates of a query, tables of other queries, sheets, and drafts that are looked at."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Literal

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.problem import fail
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.steps import Source
from tin_bucket.engine.work_out.match import match_of, match_of_start
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .browse import TableAt, Tables

Reading = Literal["today", "then", "taken"]
"""Which work-out lines are done to tables that are compared."""


@dataclass(frozen=True, slots=True)
class SideAt:
    """One of the two tables of a comparison, as it is asked for: just one of the first three.

    Attributes:
        snapshot: the table of a date.
        sheet: a sheet, by its name.
        preview: answers that are read as a draft says.
        query_id: a query that starts from tables, whose date the snapshot is; or the query of the draft.
    """

    snapshot: int | None = None
    sheet: str | None = None
    preview: int | None = None
    query_id: int | None = None


@dataclass(frozen=True, slots=True)
class Compared:
    """What is compared, and how.

    Attributes:
        then, now: the two tables.
        reading: which work-out lines are done to them: those of the saved brief, those of the brief that each was made
            with, or none.
        match: the columns that say which row is which; those of the query where absent.
        alike: what counts as the same; what the query says where absent.
        pairs: columns of the earlier table with their names in the later one, paired by hand; what the query says
            where absent.
    """

    then: SideAt
    now: SideAt
    reading: Reading = "taken"
    match: tuple[str, ...] | None = None
    alike: tuple[AlikeRule, ...] | None = None
    pairs: tuple[tuple[str, str], ...] | None = None


def two_dates(then: int, now: int, reading: Reading = "taken", query_id: int | None = None) -> Compared:
    """Two dates of one query."""
    return Compared(SideAt(then, query_id=query_id), SideAt(now, query_id=query_id), reading)


@dataclass(frozen=True, slots=True)
class Side:
    """One of the two tables of a comparison.

    Attributes:
        name: what it is called: a query, or a sheet.
        table: the table, with lines done to it.
        match: the columns whose values say which row is which.
        snapshot: whose date it is, where it has one.
        query: whose table it is, where it is of a query.
    """

    name: str
    table: TableSource
    match: list[str]
    snapshot: Snapshot | None = None
    query: Query | None = None

    @property
    def columns(self) -> list[TableColumn]:
        """Its headings."""
        return self.table.columns


class Sides:
    """Opens the tables that are compared."""

    def __init__(self, workspace: Workspace, tables: Tables) -> None:
        self._workspace = workspace
        self._tables = tables

    def open(self, at: SideAt, reading: Reading) -> Side:
        """A table as it is read.

        Raises:
            ProblemError: ``snapshot-unknown``, ``sheet-unknown``, ``preview-gone``, ``compared-unreadable``, or what is
                wrong with a line.
        """
        if at.sheet is not None:
            work_out = self._tables.work_out
            return Side(at.sheet, work_out.other(Source(sheet=at.sheet), work_out.undated(), (), None), [])
        if at.preview is not None and at.query_id is not None:
            query = self._workspace.queries.get(at.query_id)
            lines = query.brief.work_out if reading != "taken" else []
            return self._worked(query, None, TableAt(preview=at.preview, lines=lines, query_id=query.id))
        if at.snapshot is None:
            raise fail(
                "compared-unreadable",
                "One of the two tables is not named.",
                where="comparison",
                do="Choose a date, a query or a sheet.",
            )
        snapshot = self._workspace.snapshots.get(at.snapshot)
        query = self._workspace.queries.get(at.query_id or snapshot.query_id)
        if query.brief.start is not None:
            return self._started(query, snapshot, reading)
        lines = []
        if reading != "taken":
            lines = (brief_then(self._workspace, snapshot, query) if reading == "then" else query.brief).work_out
        return self._worked(query, snapshot, TableAt(snapshot.id, lines=lines))

    def _started(self, query: Query, snapshot: Snapshot, reading: Reading) -> Side:
        """The table of a query that starts from tables, as of the date of a snapshot."""
        brief = brief_then(self._workspace, snapshot, query) if reading == "then" else query.brief
        lines = [] if reading == "taken" else brief.work_out
        start = brief.start or query.brief.start
        at = TableAt(snapshot.id, lines=lines, query_id=query.id, start=start)
        match = brief.keep.match
        if not match and start is not None:
            self._tables.source(at)  # What is made of itself is refused here.
            match = match_of_start(self._workspace, self._tables.work_out, start, snapshot.taken)
        return self._worked(query, snapshot, at, match)

    def _worked(self, query: Query, snapshot: Snapshot | None, at: TableAt, match: list[str] | None = None) -> Side:
        table = self._tables.source(at)
        names = {one.name for one in table.columns}
        if match is None:
            # What is chosen today holds for all dates that have these columns.
            match = query.brief.keep.match
            if snapshot is not None and not (match and set(match) <= names):
                match = snapshot.match
        if any(not line.off for line in at.lines):
            match = match_of(match, self._tables.worked(at)[1])
        return Side(query.name, table, match, snapshot, query)

    def pairs(self, then: Side, now: Side) -> dict[str, str]:
        """The columns that are paired by hand, as the query of the later table says, else that of the earlier one."""
        for side in (now, then):
            if side.query is not None and side.query.brief.keep.renamed:
                return {one.then: one.now for one in side.query.brief.keep.renamed}
        return {}

    def alike(self, then: Side, now: Side) -> list[AlikeRule]:
        """What counts as the same, as the query of the later table says, else that of the earlier one."""
        for side in (now, then):
            if side.query is not None and side.query.brief.keep.alike:
                return list(side.query.brief.keep.alike)
        return []


def brief_then(workspace: Workspace, snapshot: Snapshot, query: Query) -> Brief:
    """The brief that a query had at a date: that which the snapshot was made with. A query that starts from tables has
    no snapshots of its own; its brief is the one that was saved last before the date, or its first.

    Raises:
        ProblemError: ``brief-unreadable`` or ``brief-newer``.
    """
    if query.brief.start is not None:
        return load_brief(json.loads(workspace.queries.brief_then(query.id, snapshot.taken)))
    return load_brief(json.loads(snapshot.brief or workspace.runs.brief_of(snapshot.run_id)))
