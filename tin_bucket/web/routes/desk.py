"""The desk: a line for each query, and what needs attention."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from typing import Any

from fastapi import APIRouter, Response

from tin_bucket.core.document.query import DailySchedule, EverySchedule
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.engine.attention import attention
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.run.progress import Waiting
from tin_bucket.store.overview import QueryOverview
from tin_bucket.web.cells import json_response
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.query import Desk

router = APIRouter(prefix="/api")


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
    found = attention(here.workspace, queries, running, waiting, lanes, here.engine.clock.now())
    return json_response(
        {
            "queries": [_line(here, query, names, running, waiting) for query in queries],
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
) -> dict[str, Any]:
    """A :class:`QueryLine`; thousands of them are written without a model for each."""
    facts, ended = query.facts, query.last_run
    problem = waiting[query.id].problem if query.id in waiting else None
    moment = here.schedule.next_time(query.scheduled) if query.scheduled is not None else None
    return {
        "id": query.id,
        "name": query.name,
        "note": facts.note,
        "service": facts.sheet if facts.service is None else names.get(facts.service, facts.service),
        "parameters": facts.parameters,
        "snapshots": query.snapshots,
        "counts": query.counts,
        "latest": query.latest,
        "records": ended.records if ended else None,
        "last_state": ended.state if ended else None,
        "running": running.get(query.id),
        "waiting": problem.what if problem else None,
        "next_time": moment.isoformat() if moment else None,
        "paused": facts.paused and facts.schedule is not None,
        "every_seconds": _span(facts.schedule),
        "unsaved": query.unsaved,
        "made_with": query.made_with,
        "drift": ended.drift.words if ended and ended.drift else "",
    }


def _span(schedule: EverySchedule | DailySchedule | None) -> int | None:
    """About how many seconds lie between two refreshes."""
    if isinstance(schedule, EverySchedule):
        duration = parse_duration(schedule.every)
        return duration.days * 86_400 + duration.seconds
    return 7 * 86_400 // len(set(schedule.days)) if schedule is not None else None
