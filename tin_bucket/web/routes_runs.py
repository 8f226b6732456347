"""Runs: history, calls, saved answers, live progress."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tin_bucket.core.calls import Call
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.signing import Placement

from .context import Here, header_infos, problem_info, run_info
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
    brief = json.loads(workspace.runs.brief_of(workspace.runs.get(run_id).id))
    placement: Placement | None = None
    try:
        service = workspace.services.get(brief["ask"]["service"])
        placement = service.key.placement() if service.key else None
    except ProblemError:
        pass
    out = []
    for call in workspace.runs.calls(run_id):
        plain = Call(call.method, call.address, tuple((name, value) for name, value in call.headers))
        out.append(
            CallInfo(
                number=call.number,
                stage=call.stage,
                label=call.label,
                method=call.method,
                address=call.address,
                headers=header_infos(plain, placement),
                status=call.status,
                sent=call.sent,
                ms=round(call.seconds * 1000),
                size=call.size,
                records=call.records,
                has_answer=call.has_answer,
                problem=problem_info(call.problem),
            )
        )
    return out


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
                "rows": ended.rows, "stated_total": ended.stated_total, "expected": None, "before_stage": 0,
                "problem": ended.problem.as_dict() if ended.problem else None, "snapshot_id": ended.snapshot_id,
                "tiles": [],
            }  # fmt: skip
            yield f"data: {json.dumps(summary)}\n\n"
            return
        async for summary in progress.listen():
            yield f"data: {json.dumps(summary)}\n\n"

    return StreamingResponse(lines(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})
