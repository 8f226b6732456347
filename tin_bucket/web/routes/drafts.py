"""Drafts: every change is kept as it is made, and can be undone and redone step by step."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from tin_bucket.store.drafts import Draft
from tin_bucket.web.context import Here
from tin_bucket.web.models.query import DraftIn, DraftInfo, StepIn

router = APIRouter(prefix="/api")


def draft_info(draft: Draft) -> DraftInfo:
    """What is told of a draft."""
    told = asdict(draft)
    del told["query_id"]
    return DraftInfo.model_validate(told)


@router.get("/queries/{query_id}/draft")
def draft(here: Here, query_id: int) -> DraftInfo | None:
    """The draft of a query, if something was ever changed in it."""
    found = here.workspace.drafts.get(query_id)
    return None if found is None else draft_info(found)


@router.put("/queries/{query_id}/draft")
def change(here: Here, query_id: int, body: DraftIn) -> DraftInfo:
    """Keep a change as the draft's next step, as it is: it need not be valid yet."""
    now = here.engine.clock.now()
    return draft_info(
        here.workspace.drafts.change(query_id, body.version, body.document, body.name, body.given, now, body.based_on)
    )


@router.put("/queries/{query_id}/draft/at")
def move(here: Here, query_id: int, body: StepIn) -> DraftInfo:
    """Undo or redo: go to another step of the draft."""
    return draft_info(here.workspace.drafts.move(query_id, body.version, body.at, here.engine.clock.now()))
