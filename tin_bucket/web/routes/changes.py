"""What changed: in all queries, and since somebody looked."""

from __future__ import annotations

from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Query

from tin_bucket.web.context import Here
from tin_bucket.web.models.query import ChangeInfo

router = APIRouter(prefix="/api")


@router.post("/queries/{query_id}/looked", status_code=204)
def looked(here: Here, query_id: int) -> None:
    """Somebody looks at the newest table of a query."""
    here.workspace.queries.get(query_id)
    here.workspace.looked.look(query_id)


@router.get("/changes")
def changes(here: Here, days: Annotated[int, Query(ge=1, le=3_660)] = 7) -> list[ChangeInfo]:
    """What the snapshots of the last days changed, of all queries, the newest first."""
    since = here.engine.clock.now() - timedelta(days=days)
    return [
        ChangeInfo(
            query_id=one.query_id,
            query_name=one.query_name,
            snapshot=one.snapshot_id,
            taken=one.taken,
            rows=one.rows,
            state=one.state,
            since=one.since,
            seen=one.seen,
        )
        for one in here.workspace.looked.changes(since)
    ]
