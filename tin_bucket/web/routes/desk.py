"""The desk: a line for each query, and what needs attention."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime

from fastapi import APIRouter

from tin_bucket.core.document.query import EverySchedule
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.engine.attention import attention
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.run.progress import Waiting
from tin_bucket.store.queries import Query
from tin_bucket.store.runs import Run
from tin_bucket.web.context import Context, Here, run_info, snapshot_info
from tin_bucket.web.models.query import AttentionInfo, Desk, QueryLine

router = APIRouter(prefix="/api")
_LINE = 30  # Snapshots in the small line of row counts.


@router.get("/desk")
async def desk(here: Here) -> Desk:
    """Everything that the desk shows."""
    services = await asyncio.to_thread(here.workspace.services.all)
    lanes, running, waiting = here.engine.lanes(services), here.engine.running(), here.engine.waiting()
    return await asyncio.to_thread(_desk, here, services, lanes, running, waiting)


def _desk(
    here: Context,
    services: Sequence[Service],
    lanes: Mapping[str, LaneView],
    running: Mapping[int, int],
    waiting: Mapping[int, Waiting],
) -> Desk:
    workspace = here.workspace
    names = {service.id: service.name for service in services}
    queries = [(query, _ended(here, query)) for query in workspace.queries.all()]
    times = here.schedule.next_times()
    found = attention(workspace, queries, running, waiting, lanes, here.engine.clock.now())
    return Desk(
        queries=[_line(here, query, run, names, running, waiting, times.get(query.id)) for query, run in queries],
        attention=[AttentionInfo(**asdict(one)) for one in found],
        services=len(services),
    )


def _ended(here: Context, query: Query) -> Run | None:
    """The newest run that came to an end."""
    runs = here.workspace.runs.latest(query.id, most=2)
    return next((run for run in runs if run.state not in ("running", "cancelled")), None)


def _source(query: Query, names: dict[str, str]) -> str:
    """Where a query's rows come from, in words."""
    if query.brief.ask is not None:
        return names.get(query.brief.ask.service, query.brief.ask.service)
    sheet = query.brief.sheet
    assert sheet is not None
    return f"sheet {sheet.sheet}" if sheet.sheet else f"files {sheet.files}"


def _line(
    here: Context,
    query: Query,
    ended: Run | None,
    names: dict[str, str],
    running: Mapping[int, int],
    waiting: Mapping[int, Waiting],
    moment: datetime | None,
) -> QueryLine:
    workspace = here.workspace
    snapshots = workspace.snapshots.of_query(query.id)
    latest = snapshots[-1] if snapshots else None
    schedule = query.brief.keep.schedule
    span = None
    if isinstance(schedule, EverySchedule):
        duration = parse_duration(schedule.every)
        span = duration.days * 86_400 + duration.seconds
    elif schedule is not None:
        span = 7 * 86_400 // len(set(schedule.days))
    problem = waiting[query.id].problem if query.id in waiting else None
    return QueryLine(
        id=query.id,
        name=query.name,
        note=query.brief.note,
        service=_source(query, names),
        parameters=len(query.brief.parameters),
        snapshots=len(snapshots),
        counts=[snapshot.rows for snapshot in snapshots[-_LINE:]],
        latest=snapshot_info(latest) if latest else None,
        records=ended.records if ended else None,
        last_run=run_info(ended) if ended else None,
        running=running.get(query.id),
        waiting=problem.what if problem else None,
        next_time=moment.isoformat() if moment else None,
        paused=query.brief.keep.paused and schedule is not None,
        drift=ended.report.drift.words if ended and ended.report.drift else "",
        every_seconds=span,
    )
