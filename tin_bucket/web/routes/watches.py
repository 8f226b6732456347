"""The watch list: rows and figures that the desk shows."""

from __future__ import annotations

from fastapi import APIRouter

from tin_bucket.store.watches import Watched
from tin_bucket.web.cells import shown
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.history import WatchIn, WatchInfo

router = APIRouter(prefix="/api/watches")


@router.get("")
def watched(here: Here) -> list[WatchInfo]:
    """What is watched, and how it stands."""
    return [_info(here, one) for one in here.workspace.watches.all()]


def _info(here: Context, one: Watched) -> WatchInfo:
    now = here.engine.watching.now(one)
    return WatchInfo(
        id=one.id,
        query_id=one.query_id,
        query_name=one.query_name,
        watch=one.watch,
        taken=now.taken,
        value=shown(now.value),
        before=shown(now.before),
        since=now.since,
        there=now.there,
        unit=now.unit,
        points=now.points,
        problem=now.problem,
    )


@router.post("", status_code=201)
def watch(here: Here, body: WatchIn) -> WatchInfo:
    """Watch a row or a figure."""
    here.workspace.queries.get(body.query_id)
    number = here.workspace.watches.add(body.query_id, body.watch)
    return next(_info(here, one) for one in here.workspace.watches.all() if one.id == number)


@router.delete("/{number}", status_code=204)
def leave(here: Here, number: int) -> None:
    """Watch something no more."""
    here.workspace.watches.remove(number)
