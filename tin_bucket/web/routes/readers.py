"""Readers of live addresses: their keys are made here, shown once, and revoked."""

from __future__ import annotations

from fastapi import APIRouter

from tin_bucket.web.context import Here, reader_info
from tin_bucket.web.models.feed import NewReader, ReaderIn, ReadersInfo

router = APIRouter(prefix="/api")


@router.get("/readers")
def readers(here: Here) -> ReadersInfo:
    """All readers, and what they can read."""
    return ReadersInfo(
        readers=[reader_info(one) for one in here.workspace.readers.all()], names=sorted(here.live.names())
    )


@router.post("/readers")
def add(here: Here, body: ReaderIn) -> NewReader:
    """Make a reader. Its key is told this once."""
    reader, key = here.workspace.readers.add(body.name, here.engine.clock.now())
    return NewReader(reader=reader_info(reader), key=key)


@router.delete("/readers/{reader_id}")
def revoke(here: Here, reader_id: int) -> ReadersInfo:
    """Revoke a key: it opens nothing any more."""
    here.workspace.readers.revoke(reader_id, here.engine.clock.now())
    return readers(here)
