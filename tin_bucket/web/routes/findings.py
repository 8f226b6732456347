"""“Is there more?”: finding out by asking, and what was found before."""

from __future__ import annotations

import asyncio

from fastapi import APIRouter

from tin_bucket.core.problem import fail
from tin_bucket.engine.preview.find_more import find_out
from tin_bucket.store.findings import finding_document
from tin_bucket.web.context import Here, kept_preview
from tin_bucket.web.models.query import AskedInfo, FindIn, FindingInfo

router = APIRouter(prefix="/api")


@router.post("/previews/{number}/more")
async def find_more(here: Here, number: int, body: FindIn) -> FindingInfo:
    """Find out by asking, with few calls, whether there is more than a preview's first answer holds."""
    preview, engine = kept_preview(here, number), here.engine
    ask = preview.brief.ask
    if ask is None:
        raise fail("no-question", "This query makes no call.", where="turn pages", do="Refresh it.")
    service = await asyncio.to_thread(here.workspace.services.get, ask.service)
    found = await find_out(
        here.workspace, engine.clock, engine.connections, preview, service, body.reads, body.query_id
    )
    finding = found.finding
    told = finding_document(found)
    return FindingInfo(id=0, asked=found.asked, state=finding.state, pages=finding.pages, **told)


@router.get("/findings")
def findings(here: Here, most: int = 100) -> list[AskedInfo]:
    """What was found out about further pages, of all queries, the newest first."""
    return [
        AskedInfo(
            query_id=one.query_id,
            query_name=one.query_name,
            finding=FindingInfo(id=one.id, asked=one.asked, state=one.state, **one.document),
        )
        for one in here.workspace.findings.latest(max(0, min(most, 500)))
    ]
