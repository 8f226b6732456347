"""All queries at a glance, in one question to the database whatever their number and the length of their histories."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from pydantic import ValidationError

from tin_bucket.cache import LockedCache
from tin_bucket.core.document.made_with import MadeWith, changed_since
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.report import SchemaDrift
from tin_bucket.core.problem import Problem
from tin_bucket.core.schedule.models import AnySchedule

from .database import Database
from .queries import Scheduled
from .runs import Run, Runs

_COUNTS = 30  # Snapshots whose row counts are drawn.
_KEPT_LINES = 20_000


@dataclass(frozen=True, slots=True)
class BriefFacts:
    """What of a brief is shown where all queries are listed."""

    note: str
    service: str | None
    sheet: str
    parameters: int
    schedule: AnySchedule | None
    paused: bool
    services: tuple[str, ...]
    start: tuple[str, ...]
    handed_to: tuple[str, ...]
    matched: bool


@dataclass(frozen=True, slots=True)
class LastRun:
    """The newest run of a query that came to an end."""

    id: int
    state: str
    records: int
    problem: Problem | None
    gaps: tuple[str, ...]
    only_first: bool
    drift: SchemaDrift | None
    snapshot_id: int | None


@dataclass(frozen=True, slots=True)
class NewestSnapshot:
    """A query's newest snapshot, without its columns."""

    id: int
    run_id: int
    taken: str
    rows: int
    state: str
    evidence: str
    stated_total: int | None
    since: dict[str, int]
    rebuilt: str | None


@dataclass(frozen=True, slots=True)
class QueryOverview:
    """A query as it is listed: what it is, its newest snapshot, how its last run ended.

    Attributes:
        counts: the rows of its newest snapshots, the oldest first.
        scheduled: its schedule and when it was refreshed last; ``None`` when it is paused or refreshed by hand.
        unsaved: whether it has changes that are not saved.
        made_with: how its brief differs from the one that its newest snapshot was made with.
    """

    id: int
    name: str
    facts: BriefFacts
    snapshots: int
    counts: list[int]
    latest: NewestSnapshot | None
    last_run: LastRun | None
    scheduled: Scheduled | None
    unsaved: bool
    made_with: MadeWith | None


# What a line is made of has changed when one of these has. All of it is read from indexes.
_STATES = """
SELECT query.id, query.name, query.brief_id, run.id AS run, run.state AS state, kept.*, latest.version,
  coalesce(draft.unsaved, 0) AS unsaved
FROM query
LEFT JOIN draft ON draft.query_id = query.id
LEFT JOIN run ON run.id = (SELECT max(id) FROM run WHERE query_id = query.id)
LEFT JOIN (SELECT query_id, count(*), sum(rows), max(id) AS newest FROM snapshot GROUP BY query_id) AS kept
  ON kept.query_id = query.id
LEFT JOIN snapshot AS latest ON latest.id = kept.newest
ORDER BY query.id
"""
# The newest run that ended is looked for from the newest on, along the index of a query's runs.
_LINES = f"""
SELECT query.id, query.name, brief.saved, brief.document,
  (SELECT count(*) FROM snapshot WHERE query_id = query.id) AS snapshots,
  (SELECT json_group_array(rows) FROM (SELECT rows FROM snapshot WHERE query_id = query.id
     ORDER BY taken DESC, id DESC LIMIT {_COUNTS})) AS counts,
  (SELECT started FROM run WHERE query_id = query.id ORDER BY id DESC LIMIT 1) AS last_started,
  latest.id AS latest_id, latest.run_id, latest.taken, latest.rows, latest.state AS kept_state, latest.evidence,
  latest.stated_total, latest.since, latest.rebuilt,
  (SELECT coalesce(latest.brief, made.brief) FROM run AS made WHERE made.id = latest.run_id) AS made_with,
  coalesce((SELECT unsaved FROM draft WHERE query_id = query.id), 0) AS unsaved,
  ended.id AS ended_id, ended.state, ended.records, ended.problem, json_extract(ended.report, '$.gaps') AS gaps,
  json_extract(ended.report, '$.only_first') AS only_first,
  json_extract(ended.report, '$.drift') AS drift, (SELECT id FROM snapshot WHERE run_id = ended.id) AS kept
FROM query JOIN brief ON brief.id = query.brief_id
LEFT JOIN snapshot AS latest ON latest.id =
  (SELECT id FROM snapshot WHERE query_id = query.id ORDER BY taken DESC, id DESC LIMIT 1)
LEFT JOIN run AS ended ON ended.id =
  (SELECT id FROM run WHERE query_id = query.id AND state NOT IN ('running', 'cancelled') ORDER BY id DESC LIMIT 1)
WHERE query.id IN (SELECT value FROM json_each(?))
"""


class Overview:
    """Lists the queries of a workspace. Lines are kept until one of the things that they are made of changes."""

    def __init__(self, database: Database, runs: Runs) -> None:
        self._database = database
        self._runs = runs
        self._lines: LockedCache[tuple[Any, ...], QueryOverview] = LockedCache(_KEPT_LINES)

    def lines(self) -> list[QueryOverview]:
        """Every query, in the order in which they were made."""
        with self._database.read_together() as db:
            states = [tuple(row) for row in db.execute(_STATES).fetchall()]
            found = {state: self._lines.get(state) for state in states}
            missing = {state[0]: state for state in states if found[state] is None}
            if missing:
                for row in db.execute(_LINES, (json.dumps(list(missing)),)).fetchall():
                    line, state = _line(row), missing[row["id"]]
                    self._lines.put(state, line)
                    found[state] = line
        lines = [known for state in states if (known := found[state]) is not None]
        unwritten = {run.query_id: run for run in self._runs.unwritten()}
        return [_as_ended(line, unwritten.get(line.id)) for line in lines] if unwritten else lines


def _as_ended(line: QueryOverview, run: Run | None) -> QueryOverview:
    """The line with the end of a run that could not be written yet."""
    if run is None or run.state == "cancelled" or (line.last_run is not None and run.id < line.last_run.id):
        return line
    ended = LastRun(
        run.id,
        run.state,
        run.records,
        run.problem,
        tuple(run.report.gaps),
        run.report.only_first,
        run.report.drift,
        None,
    )
    return replace(line, last_run=ended)


def _line(row: sqlite3.Row) -> QueryOverview:
    brief = Brief.model_validate_json(row["document"])
    facts = _facts(brief)
    scheduled = None
    resumes = brief.keep.paused_until if facts.paused else None
    if facts.schedule is not None and (not facts.paused or resumes is not None):
        last = datetime.fromisoformat(row["last_started"]) if row["last_started"] else None
        scheduled = Scheduled(row["id"], facts.schedule, datetime.fromisoformat(row["saved"]), last, resumes)
    return QueryOverview(
        id=row["id"],
        name=row["name"],
        facts=facts,
        snapshots=row["snapshots"],
        counts=json.loads(row["counts"])[::-1],
        latest=_latest(row),
        last_run=_last_run(row),
        scheduled=scheduled,
        unsaved=bool(row["unsaved"]),
        made_with=made_with(row["made_with"], row["document"], brief),
    )


def made_with(made: str | None, document: str, brief: Brief) -> MadeWith | None:
    """How a brief differs from the JSON text of the one that a table was made with."""
    if made is None or made == document:
        return None
    try:
        return changed_since(Brief.model_validate_json(made), brief)
    except ValidationError:
        return None  # A format of old, of which nothing can be said.


def _facts(brief: Brief) -> BriefFacts:
    sheet = brief.sheet
    return BriefFacts(
        note=brief.note,
        service=brief.ask.service if brief.ask is not None else None,
        sheet="" if sheet is None else f"sheet {sheet.sheet}" if sheet.sheet else f"files {sheet.files}",
        parameters=len(brief.parameters),
        schedule=brief.keep.schedule,
        paused=brief.keep.paused,
        services=tuple(brief.services()),
        start=tuple(table.source.name for table in brief.start.tables) if brief.start is not None else (),
        handed_to=tuple(feed.place() for feed in brief.hand_over if not feed.off),
        matched=bool(brief.keep.match),
    )


def _latest(row: sqlite3.Row) -> NewestSnapshot | None:
    if row["latest_id"] is None:
        return None
    return NewestSnapshot(
        id=row["latest_id"],
        run_id=row["run_id"],
        taken=row["taken"],
        rows=row["rows"],
        state=row["kept_state"],
        evidence=row["evidence"],
        stated_total=row["stated_total"],
        since=json.loads(row["since"]),
        rebuilt=row["rebuilt"],
    )


def _last_run(row: sqlite3.Row) -> LastRun | None:
    if row["ended_id"] is None:
        return None
    return LastRun(
        id=row["ended_id"],
        state=row["state"],
        records=row["records"],
        problem=Problem(**json.loads(row["problem"])) if row["problem"] else None,
        gaps=tuple(json.loads(row["gaps"])) if row["gaps"] else (),
        only_first=bool(row["only_first"]),
        drift=SchemaDrift.model_validate_json(row["drift"]) if row["drift"] else None,
        snapshot_id=row["kept"],
    )
