"""The desk: a line for each query, and what needs attention."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from typing import Any

from fastapi import APIRouter, Response

from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.schedule.models import AnySchedule, EverySchedule, MonthlySchedule
from tin_bucket.engine.attention import attention
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.run.progress import Waiting
from tin_bucket.store.overview import QueryOverview
from tin_bucket.store.worked_rows import WorkedRows
from tin_bucket.web.cells import json_response
from tin_bucket.web.context import Context, Here, snapshot_info
from tin_bucket.web.models.query import Desk

router = APIRouter(prefix="/api")
_PATIENCE = 0.1  # Seconds for rows that are not counted yet: most tables are small, and need no second look.


@router.get("/desk", response_model=Desk)
async def desk(here: Here) -> Any:
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
) -> Response:
    names = {service.id: service.name for service in services}
    queries = here.workspace.overview.lines()
    unseen = here.workspace.looked.unseen()
    started = [query.id for query in queries if query.facts.start]
    counted = here.engine.row_counting.of(started, _PATIENCE) if started else {}
    found = attention(here.workspace, queries, running, waiting, lanes, here.engine.clock.now())
    return json_response(
        {
            "queries": [
                _line(here, query, names, running, waiting, counted) | {"unseen": unseen.get(query.id)}
                for query in queries
            ],
            "attention": found,
            "services": len(services),
        }
    )


def _line(
    here: Context,
    query: QueryOverview,
    names: Mapping[str, str],
    running: Mapping[int, int],
    waiting: Mapping[int, Waiting],
    counted: Mapping[int, WorkedRows | None],
) -> dict[str, Any]:
    """A :class:`QueryLine`; thousands of them are written without a model for each."""
    facts, ended = query.facts, query.last_run
    latest: Any = query.latest
    dates = query.snapshots
    source = facts.sheet if facts.service is None else names.get(facts.service, facts.service)
    if facts.start:
        latest, dates = _started(here, counted[query.id])
        source = f"from {', '.join(facts.start)}"
    problem = waiting[query.id].problem if query.id in waiting else None
    moment = here.schedule.next_time(query.scheduled) if query.scheduled is not None else None
    return {
        "id": query.id,
        "name": query.name,
        "note": facts.note,
        "service": source,
        "starts": bool(facts.start),
        "counting": bool(facts.start) and counted[query.id] is None,
        "parameters": facts.parameters,
        "snapshots": dates,
        "counts": query.counts,
        "latest": latest,
        "records": ended.records if ended else None,
        "last_state": ended.state if ended else None,
        "running": running.get(query.id),
        "waiting": problem.what if problem else None,
        "next_time": moment.isoformat() if moment else None,
        "paused": facts.paused and facts.schedule is not None,
        "every_seconds": _span(facts.schedule),
        "unsaved": query.unsaved,
        "matched": facts.matched,
        "handed_to": list(facts.handed_to),
        "made_with": query.made_with,
        "drift": ended.drift.words if ended and ended.drift else "",
    }


def _started(here: Context, counted: WorkedRows | None) -> tuple[Any, int]:
    """The newest date of a query that starts from tables, with the rows that its lines make, and how many there are.
    It stores nothing of its own: its dates are those of what it starts from."""
    if counted is None or counted.snapshot_id is None:
        return None, 0
    try:
        newest = here.workspace.snapshots.get(counted.snapshot_id)
    except ProblemError:  # It was deleted just now.
        return None, 0
    told = snapshot_info(newest).model_dump() | {"since": {}, "stated_total": None, "rows": counted.rows}
    if counted.problem:
        told |= {"state": "incomplete", "evidence": counted.problem}
    return told, counted.dates


def _span(schedule: AnySchedule | None) -> int | None:
    """About how many seconds lie between two refreshes."""
    if isinstance(schedule, EverySchedule):
        duration = parse_duration(schedule.every)
        return duration.days * 86_400 + duration.seconds
    if isinstance(schedule, MonthlySchedule):
        return 30 * 86_400
    return (
        7 * 86_400 // (len(set(schedule.days)) * len({schedule.at, *schedule.also})) if schedule is not None else None
    )
