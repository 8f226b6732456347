"""What every route needs: the engine, the workspace and the schedule."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Annotated

from fastapi import Depends, Request

from tin_bucket.core.calls import Call
from tin_bucket.core.problem import Problem
from tin_bucket.core.signing import Placement, masked_headers
from tin_bucket.core.table import TableColumn
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.schedule import Schedule
from tin_bucket.store.runs import Run
from tin_bucket.store.snapshots import Snapshot
from tin_bucket.store.workspace import Workspace

from .models import ColumnInfo, HeaderInfo, ProblemInfo, RunInfo, SnapshotInfo


@dataclass(frozen=True, slots=True)
class Context:
    """One application's parts."""

    engine: Engine
    schedule: Schedule

    @property
    def workspace(self) -> Workspace:
        """The workspace that is served."""
        return self.engine.workspace


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Here = Annotated[Context, Depends(_context)]


def problem_info(problem: Problem | None) -> ProblemInfo | None:
    """A problem for the browser."""
    return None if problem is None else ProblemInfo(**problem.as_dict())


def run_info(run: Run) -> RunInfo:
    """A run for the browser."""
    return RunInfo(**(asdict(run) | {"problem": problem_info(run.problem)}))


def snapshot_info(snapshot: Snapshot) -> SnapshotInfo:
    """A snapshot for the browser."""
    return SnapshotInfo(
        id=snapshot.id,
        run_id=snapshot.run_id,
        taken=snapshot.taken,
        rows=snapshot.rows,
        whole=snapshot.whole,
        stated_total=snapshot.stated_total,
        since=snapshot.since,
    )


def column_info(column: TableColumn) -> ColumnInfo:
    """A heading for the browser."""
    return ColumnInfo(**asdict(column))


def header_infos(call: Call, placement: Placement | None) -> list[HeaderInfo]:
    """A call's headers for the browser, key masked."""
    return [HeaderInfo(name=name, value=value) for name, value in masked_headers(call, placement)]
