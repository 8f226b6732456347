"""Saved answers: how much is kept, letting it go, and rebuilding past snapshots."""

from __future__ import annotations

import asyncio

from fastapi import APIRouter

from tin_bucket.engine.child_table import child_table
from tin_bucket.web.context import Here, snapshot_info
from tin_bucket.web.models.query import ChildTableIn, QueryDetail
from tin_bucket.web.models.run import RebuiltInfo, SavedInfo, SavedRunInfo

from .queries import detail

router = APIRouter(prefix="/api")


@router.get("/queries/{query_id}/saved")
def saved(here: Here, query_id: int) -> SavedInfo:
    """The runs of a query whose answers are kept."""
    archive = here.workspace.archive
    return SavedInfo(
        packed=archive.size(query_id),
        runs=[
            SavedRunInfo(
                run_id=one.run_id,
                started=one.started,
                calls=one.calls,
                packed=one.packed,
                size=one.size,
                snapshot_id=one.snapshot_id,
                rebuilt=one.rebuilt,
            )
            for one in archive.kept(query_id)
        ],
    )


@router.delete("/queries/{query_id}/saved")
def clear(here: Here, query_id: int, keep: int = 0) -> SavedInfo:
    """Let go of the saved answers of all but the newest runs. Snapshots stay as they are."""
    here.workspace.archive.prune(query_id, max(0, keep))
    here.engine.rereader.forget(query_id)
    return saved(here, query_id)


@router.post("/runs/{run_id}/rebuild")
async def rebuild(here: Here, run_id: int) -> RebuiltInfo:
    """Rebuild a run's snapshot from its saved answers with the query's saved brief."""
    made = await asyncio.to_thread(here.engine.rereader.rebuild, run_id)
    return RebuiltInfo(snapshot=snapshot_info(made.snapshot), absent=made.reading.absent)


@router.post("/queries/{query_id}/own-table", status_code=201)
async def make_child_table(here: Here, query_id: int, body: ChildTableIn) -> QueryDetail:
    """Make a query whose table is a list of this one's records, with the parent's match columns. Its first table is
    read from the saved answers, at no call."""
    made = await child_table(here.engine, query_id, body.brief, body.place, body.name)
    here.schedule.renew()
    return await asyncio.to_thread(detail, here, made)
