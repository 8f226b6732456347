"""Runs: history, calls, saved answers, live progress."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter
from fastapi.responses import Response, StreamingResponse

from tin_bucket.core.formats.json import json_text
from tin_bucket.engine.run.progress import RunProgress, ended_progress
from tin_bucket.engine.workspace.run_archive import keys_of_stages, run_archive
from tin_bucket.web.context import Here, problem_info, run_info, shown_call
from tin_bucket.web.models.run import CallInfo, RunInfo, RunStarted

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
    of_stage = keys_of_stages(workspace, run_id)
    return [
        CallInfo(
            number=call.number,
            stage=call.stage,
            label=call.label,
            **shown_call(call.call(), of_stage.get(call.stage)),
            note=call.note,
            used=call.used,
            status=call.came_as,
            sent=call.sent,
            ms=round(call.seconds * 1000),
            size=call.size,
            records=call.records,
            has_answer=call.has_answer,
            problem=problem_info(call.problem),
            state=call.state,
            saved=call.saved,
        )
        for call in workspace.runs.calls(run_id)
    ]


@router.get("/runs/{run_id}/har", response_model=None)
def har(here: Here, run_id: int) -> Response:
    """A run's calls as an HTTP Archive (HAR 1.2), key masked."""
    document = run_archive(here.workspace, run_id)
    headers = {"Content-Disposition": f'attachment; filename="run-{run_id}.har"', "Cache-Control": "no-store"}
    return Response(json_text(document), media_type="application/json", headers=headers)


@router.post("/runs/{run_id}/resume", status_code=202)
async def resume(here: Here, run_id: int) -> RunStarted:
    """Go on from the saved answers of a run; only what is missing is asked for."""
    return RunStarted(run_id=await here.engine.resume(run_id))


@router.post("/runs/{run_id}/cancel", status_code=202)
async def cancel(here: Here, run_id: int) -> dict[str, bool]:
    """Stop a run."""
    return {"stopped": here.engine.cancel(run_id)}


@router.get("/runs/{run_id}/events", response_class=StreamingResponse, responses={200: {"model": RunProgress}})
async def events(here: Here, run_id: int) -> StreamingResponse:
    """Live progress, as server-sent events, each a :class:`RunProgress`; ends with the run."""
    progress = here.engine.progress(run_id)
    ended = await asyncio.to_thread(here.workspace.runs.get, run_id) if progress is None else None

    async def lines() -> AsyncIterator[str]:
        if progress is None:
            assert ended is not None
            yield _event(ended_progress(ended))
            return
        async for summary in progress.listen():
            yield _event(summary)

    return StreamingResponse(lines(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


def _event(progress: RunProgress) -> str:
    return f"data: {progress.model_dump_json()}\n\n"
