"""The history of runs and of their calls."""

from __future__ import annotations

import json
import sqlite3
import threading
from dataclasses import dataclass, field, replace
from datetime import datetime

from tin_bucket.core.auth.source import SIGN_IN
from tin_bucket.core.document.report import RunReport
from tin_bucket.core.problem import Problem, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.parameters.values import Bindings
from tin_bucket.core.response.response import Answer

from .archive import pack, unpack
from .database import Database

# complete: every row is there, and that is proved; unverified: nothing tells; incomplete: rows are missing, or may be;
# the others kept nothing.
STATES = ("running", "complete", "unverified", "incomplete", "failed", "cancelled", "interrupted")

STOPPED = Problem("cancelled", "The run was stopped.", "", "Refresh again when you like.")
INTERRUPTED = Problem(
    "interrupted",
    "The program ended in the middle of this run.",
    "",
    "Resume from its saved answers, or refresh again. Earlier snapshots are unchanged.",
)


@dataclass(slots=True)
class Run:
    """One refresh, or one that was asked for.

    `fields` are the places that its answers had, with the kind of their values; they are written, and read by
    :meth:`Runs.fields_before` alone. `resumed_from` is the run whose saved answers it took over. `iterations` are the
    values that the question was asked for. `report` holds what people should know of a run that is no problem: gaps,
    costs, new and lost fields, lookups that missed.
    """

    id: int
    query_id: int
    cause: str
    state: str
    started: str
    ended: str | None = None
    calls: int = 0
    records: int = 0
    rows: int = 0
    stated_total: int | None = None
    stop: str | None = None
    bindings: Bindings = field(default_factory=dict)
    iterations: list[Iteration] = field(default_factory=lambda: [{}])
    report: RunReport = field(default_factory=RunReport)
    problem: Problem | None = None
    snapshot_id: int | None = None
    query_name: str = ""
    resumed_from: int | None = None
    fields: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class MadeCall:
    """A call that was made, and its answer. The call is without its key; the answer is scrubbed of it.

    `used` is false where the answer is no part of the table, such as one that was refused and asked again. `state` is
    ``answered``, ``unchanged``, ``missing``, ``again`` or ``failed``. `saved`: the answer is one of an earlier run.
    """

    number: int
    call: Call
    answer: Answer
    sent: str
    records: int
    problem: Problem | None
    used: bool = True
    state: str = "answered"
    saved: bool = False

    def without_use(self) -> MadeCall:
        """The same call, whose answer is no part of the table."""
        return replace(self, used=False)


@dataclass(frozen=True, slots=True)
class CallRecord:
    """A call as the history shows it."""

    number: int
    stage: str
    label: str
    method: str
    address: str
    headers: list[list[str]]
    status: int
    answer_headers: dict[str, str]
    sent: str
    seconds: float
    size: int
    records: int
    has_answer: bool
    problem: Problem | None
    used: bool = True
    iteration: int = 0
    note: str = ""
    body: bytes | None = None
    turn: int = 0
    state: str = "answered"
    saved: bool = False

    @property
    def came_as(self) -> int:
        """The status that came; that of a saved answer which is up to date is not the saved one."""
        return 304 if self.state == "unchanged" and not self.saved else self.status

    @property
    def can_be_taken(self) -> bool:
        """Whether a run that goes on can take the saved answer instead of making the call."""
        return self.used and self.has_answer and self.problem is None

    def call(self) -> Call:
        """The call again, without its key."""
        headers = tuple((name, value) for name, value in self.headers)
        return Call(self.method, self.address, headers, self.stage, self.label, self.body, self.iteration, self.turn)


_SELECT = (
    "SELECT run.*, query.name AS query_name, snapshot.id AS snapshot_id FROM run"
    " JOIN query ON query.id = run.query_id LEFT JOIN snapshot ON snapshot.run_id = run.id"
)


@dataclass(frozen=True, slots=True)
class TablelessRun:
    """A run that left no snapshot; `what` says why, where that is known."""

    id: int
    started: str
    state: str
    what: str


class Runs:
    """Reads and writes runs."""

    def __init__(self, database: Database) -> None:
        self._database = database
        # The ends that a full disk did not take; another dictionary takes its place, it is never changed.
        self._unwritten: dict[int, Run] = {}
        self._ending = threading.Lock()

    def begin(
        self,
        query_id: int,
        brief: str,
        bindings: Bindings,
        cause: str,
        now: datetime,
        iterations: list[Iteration] | None = None,
        resumed_from: int | None = None,
    ) -> int:
        """Note that a run has begun; returns its number."""
        with self._database.write() as db:
            cursor = db.execute(
                "INSERT INTO run (query_id, brief, bindings, cause, process, state, started, iterations, resumed_from)"
                " VALUES (?, ?, ?, ?, ?, 'running', ?, ?, ?)",
                (
                    query_id,
                    brief,
                    json.dumps(bindings),
                    cause,
                    self._database.process,
                    now.isoformat(timespec="milliseconds"),
                    json.dumps(iterations or [{}]),
                    resumed_from,
                ),
            )
            return int(cursor.lastrowid or 0)

    def add_calls(self, run_id: int, made: list[MadeCall]) -> None:
        """Store calls with their answers."""
        rows, bodies = [], []
        for one in made:
            digest = None
            # The answer to a sign-in holds a token and is never kept; one that is too large to hold is not kept either.
            if one.answer.failure is None and one.call.stage != SIGN_IN and one.answer.spool is None:
                digest, body = pack(one.answer.body)
                bodies.append((digest, body))
            rows.append(
                (
                    run_id,
                    one.number,
                    one.call.stage,
                    one.call.label,
                    one.call.method,
                    one.call.address,
                    json.dumps(one.call.headers),
                    one.answer.status,
                    json.dumps(one.answer.headers),
                    one.sent,
                    one.answer.seconds,
                    one.answer.length,
                    one.records,
                    digest,
                    _problem_text(one.problem),
                    int(one.used),
                    one.call.iteration,
                    one.answer.note,
                    one.call.body,
                    one.call.turn,
                    one.state,
                    int(one.saved),
                )
            )
        with self._database.write() as db:
            db.executemany("INSERT OR IGNORE INTO answer (digest, body) VALUES (?, ?)", bodies)
            db.executemany(f"INSERT INTO call VALUES ({','.join('?' * 22)})", rows)

    def mark_unused(self, run_id: int, numbers: list[int]) -> None:
        """Note that the answers of some calls are no part of the table after all."""
        with self._database.write() as db:
            db.executemany(
                "UPDATE call SET used = 0 WHERE run_id = ? AND number = ?", [(run_id, number) for number in numbers]
            )

    def end(self, db: sqlite3.Connection, run: Run, now: datetime) -> None:
        """Write how a run ended, inside the caller's transaction."""
        db.execute(
            "UPDATE run SET state=:state, ended=:ended, calls=:calls, records=:records, rows=:rows,"
            " stated_total=:total, stop=:stop, report=:report, problem=:problem, fields=:fields WHERE id=:id",
            {
                "id": run.id,
                "state": run.state,
                "ended": now.isoformat(timespec="milliseconds"),
                "calls": run.calls,
                "records": run.records,
                "rows": run.rows,
                "total": run.stated_total,
                "stop": run.stop,
                "report": run.report.model_dump_json(exclude_defaults=True),
                "problem": _problem_text(run.problem),
                "fields": pack(json.dumps(run.fields).encode())[1] if run.fields else None,
            },
        )

    def finish(self, run: Run, now: datetime) -> None:
        """Write how a run without a snapshot ended. Where the workspace does not take it, the end is remembered, shown,
        and written by :meth:`write_ends`: no run seems to run for ever.

        Raises:
            ProblemError: it could not be written yet.
        """
        run.ended = now.isoformat(timespec="milliseconds")
        with self._ending:
            self._unwritten = {**self._unwritten, run.id: run}
        self.write_ends()

    def write_ends(self) -> None:
        """Write the ends of runs that the workspace did not take before.

        Raises:
            ProblemError: they cannot be written now either.
        """
        with self._ending:
            if not self._unwritten:
                return
            with self._database.write() as db:
                for run in self._unwritten.values():
                    self.end(db, run, datetime.fromisoformat(run.ended or run.started))
            self._unwritten = {}

    def unwritten(self) -> list[Run]:
        """The runs that ended and whose ends the workspace did not take yet."""
        return list(self._unwritten.values())

    def rewrite_report(self, db: sqlite3.Connection, run_id: int, state: str, rows: int, report: RunReport) -> None:
        """Write the report of a run whose snapshot was rebuilt, inside the caller's transaction."""
        text = report.model_dump_json(exclude_defaults=True)
        db.execute("UPDATE run SET state = ?, rows = ?, report = ? WHERE id = ?", (state, rows, text, run_id))

    def mark_interrupted(self) -> int:
        """Mark the running runs whose process is gone; returns how many there were."""
        with self._database.read() as db:
            processes = [row[0] for row in db.execute("SELECT DISTINCT process FROM run WHERE state = 'running'")]
        gone = [process for process in processes if not self._database.is_alive(process)]
        if not gone:
            return 0
        marks = ",".join("?" * len(gone))
        with self._database.write() as db:
            return db.execute(
                "UPDATE run SET state = 'interrupted', problem = ?, ended = coalesce((SELECT max(sent) FROM call"
                " WHERE run_id = run.id), started),"
                " calls = (SELECT count(*) FROM call WHERE run_id = run.id AND NOT saved),"
                " records = (SELECT coalesce(sum(records), 0) FROM call"
                " WHERE run_id = run.id AND stage = 'pages' AND used)"
                f" WHERE state = 'running' AND process IN ({marks})",
                (_problem_text(INTERRUPTED), *gone),
            ).rowcount

    def get(self, run_id: int) -> Run:
        """One run.

        Raises:
            ProblemError: ``run-unknown``.
        """
        with self._database.read() as db:
            row = db.execute(f"{_SELECT} WHERE run.id = ?", (run_id,)).fetchone()
        if row is None:
            raise fail(
                "run-unknown",
                f"There is no run {run_id}.",
                where=f"run {run_id}",
                do="Choose one on the page Runs.",
            )
        return self._read(row)

    def brief_of(self, run_id: int) -> str:
        """The brief, as JSON text, that a run was made with."""
        with self._database.read() as db:
            return str(db.execute("SELECT brief FROM run WHERE id = ?", (run_id,)).fetchone()[0])

    def latest(self, query_id: int | None = None, most: int = 100) -> list[Run]:
        """Runs, the newest first; of one query, or of all."""
        where, values = ("WHERE run.query_id = ?", (query_id, most)) if query_id is not None else ("", (most,))
        with self._database.read() as db:
            rows = db.execute(f"{_SELECT} {where} ORDER BY run.id DESC LIMIT ?", values).fetchall()
        return [self._read(row) for row in rows]

    def without_table(self, query_id: int) -> list[TablelessRun]:
        """The runs of a query that failed or broke off and left no snapshot, the oldest first."""
        with self._database.read() as db:
            found = db.execute(
                "SELECT id, started, state, problem FROM run WHERE query_id = ? AND state IN ('failed', 'interrupted')"
                " AND NOT EXISTS (SELECT 1 FROM snapshot WHERE run_id = run.id) ORDER BY started, id",
                (query_id,),
            ).fetchall()
        return [
            TablelessRun(row["id"], row["started"], row["state"], json.loads(row["problem"] or "{}").get("what", ""))
            for row in found
        ]

    def running(self) -> list[Run]:
        """The running runs."""
        with self._database.read() as db:
            found = [self._read(row) for row in db.execute(f"{_SELECT} WHERE run.state = 'running'").fetchall()]
        return [run for run in found if run.state == "running"]

    def _read(self, row: sqlite3.Row) -> Run:
        run = _run(row)
        return self._unwritten.get(run.id, run) if run.state == "running" else run

    def fields_before(self, query_id: int, run_id: int) -> dict[str, str]:
        """The places that the answers of the refresh before a run had, with the kinds of their values; empty when
        there was none."""
        with self._database.read() as db:
            row = db.execute(
                "SELECT run.fields FROM run JOIN snapshot ON snapshot.run_id = run.id"
                " WHERE run.query_id = ? AND run.id < ? AND run.fields IS NOT NULL ORDER BY run.id DESC LIMIT 1",
                (query_id, run_id),
            ).fetchone()
        return {} if row is None else dict(json.loads(unpack(row["fields"])))

    def last_refresh(self, query_id: int) -> datetime | None:
        """When the newest refresh began whose table is not incomplete; where all are, when the newest of them began.
        What counts from it asks again for the rows that an incomplete one lacks."""
        with self._database.read() as db:
            row = db.execute(
                "SELECT max(CASE WHEN snapshot.state <> 'incomplete' THEN run.started END) AS whole,"
                " max(run.started) AS any FROM run JOIN snapshot ON snapshot.run_id = run.id WHERE run.query_id = ?",
                (query_id,),
            ).fetchone()
        started = row["whole"] or row["any"]
        return datetime.fromisoformat(started) if started else None

    def calls(self, run_id: int) -> list[CallRecord]:
        """A run's calls in the order in which they were made."""
        with self._database.read() as db:
            rows = db.execute("SELECT * FROM call WHERE run_id = ? ORDER BY number", (run_id,)).fetchall()
        return [_call(row) for row in rows]


def _problem_text(problem: Problem | None) -> str | None:
    return None if problem is None else json.dumps(problem.as_dict())


def _problem(text: str | None) -> Problem | None:
    return None if text is None else Problem(**json.loads(text))


def _run(row: sqlite3.Row) -> Run:
    return Run(
        id=row["id"],
        query_id=row["query_id"],
        cause=row["cause"],
        state=row["state"],
        started=row["started"],
        ended=row["ended"],
        calls=row["calls"],
        records=row["records"],
        rows=row["rows"],
        stated_total=row["stated_total"],
        stop=row["stop"],
        bindings=json.loads(row["bindings"]),
        iterations=json.loads(row["iterations"]),
        report=RunReport.model_validate_json(row["report"]),
        problem=_problem(row["problem"]),
        snapshot_id=row["snapshot_id"],
        query_name=row["query_name"],
        resumed_from=row["resumed_from"],
    )


def _call(row: sqlite3.Row) -> CallRecord:
    return CallRecord(
        number=row["number"],
        stage=row["stage"],
        label=row["label"],
        method=row["method"],
        address=row["address"],
        headers=json.loads(row["headers"]),
        status=row["status"],
        answer_headers=json.loads(row["answer_headers"]),
        sent=row["sent"],
        seconds=row["seconds"],
        size=row["size"],
        records=row["records"],
        has_answer=row["answer"] is not None,
        problem=_problem(row["problem"]),
        used=bool(row["used"]),
        iteration=row["iteration"],
        note=row["note"],
        body=row["body"],
        turn=row["turn"],
        state=row["state"],
        saved=bool(row["saved"]),
    )
