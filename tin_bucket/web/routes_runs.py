"""Runs: history, calls, saved answers, live progress."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tin_bucket.core.brief import load_brief
from tin_bucket.core.keys import Key
from tin_bucket.core.lookup import lookup_service
from tin_bucket.core.problem import ProblemError

from .context import Here, problem_info, run_info, shown_call
from .models import CallInfo, RunInfo
from .routes_queries import answer_document

router = APIRouter(prefix="/api")


@router.get("/runs")
def runs(here: Here, query: int | None = None, most: int = 200) -> list[RunInfo]:
    """Runs, the newest first."""
    return [run_info(run) for run in here.workspace.runs.latest(query, min(most, 1000))]


@router.get("/runs/{run_id}")
def run(here: Here, run_id: int) -> RunInfo:
    """One run."""
    return run_info(here.workspace.runs.get(run_id))


@router.get("/runs/{run_id}/calls")
def calls(here: Here, run_id: int) -> list[CallInfo]:
    """A run's calls, key masked."""
    workspace = here.workspace
    brief = load_brief(json.loads(workspace.runs.brief_of(workspace.runs.get(run_id).id)))
    keys: dict[str, Key | None] = {}
    for service_id in brief.services():
        with suppress(ProblemError):
            keys[service_id] = workspace.services.get(service_id).key
    of_stage = {f"look up {one.name}": keys.get(lookup_service(brief, one)) for one in brief.look_up}
    if brief.ask is not None:
        of_stage["pages"] = keys.get(brief.ask.service)
    return [
        CallInfo(
            number=call.number,
            stage=call.stage,
            label=call.label,
            **shown_call(call.call(), of_stage.get(call.stage)),
            note=call.note,
            used=call.used,
            status=call.status,
            sent=call.sent,
            ms=round(call.seconds * 1000),
            size=call.size,
            records=call.records,
            has_answer=call.has_answer,
            problem=problem_info(call.problem),
        )
        for call in workspace.runs.calls(run_id)
    ]


@router.get("/runs/{run_id}/calls/{number}/answer", response_model=None)
def answer(here: Here, run_id: int, number: int) -> Any:
    """A saved answer."""
    return answer_document(here.workspace.archive.body(run_id, number))


@router.post("/runs/{run_id}/cancel", status_code=202)
async def cancel(here: Here, run_id: int) -> dict[str, bool]:
    """Stop a run."""
    return {"stopped": here.engine.cancel(run_id)}


@router.get("/runs/{run_id}/events", response_model=None)
async def events(here: Here, run_id: int) -> StreamingResponse:
    """Live progress, as server-sent events; ends with the run."""
    progress = here.engine.progress(run_id)

    async def lines() -> AsyncIterator[str]:
        if progress is None:
            ended = here.workspace.runs.get(run_id)
            summary = {
                "run_id": run_id, "query_id": ended.query_id, "state": ended.state, "stage": "", "calls": ended.calls,
                "rows": ended.rows, "rounds": len(ended.rounds), "rounds_done": len(ended.rounds), "waiting": None,
                "stated_total": ended.stated_total, "expected": None, "before_stage": 0,
                "problem": ended.problem.as_dict() if ended.problem else None, "snapshot_id": ended.snapshot_id,
                "tiles": [],
            }  # fmt: skip
            yield f"data: {json.dumps(summary)}\n\n"
            return
        async for summary in progress.listen():
            yield f"data: {json.dumps(summary)}\n\n"

    return StreamingResponse(lines(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
