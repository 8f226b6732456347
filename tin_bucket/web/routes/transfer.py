"""Carrying: services and queries out as a file, and in again."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated, cast

from fastapi import APIRouter, Query
from fastapi.responses import Response

from tin_bucket.core.interchange.bundle import Arrival, Choice, parcel_text
from tin_bucket.core.problem import fail
from tin_bucket.engine.workspace.transfer import bring_in, look_at, take_out
from tin_bucket.web.context import Here
from tin_bucket.web.models import ArrivalInfo, ItemInfo, ParcelIn

router = APIRouter(prefix="/api/parcel")
_CHOICES = ("add", "keep", "replace", "beside")


@router.get("", response_model=None)
def out(here: Here, query: Annotated[list[str] | None, Query()] = None) -> Response:
    """Services and queries as a file without any key; everything, or the queries that are named."""
    now = here.engine.clock.now()
    text = parcel_text(take_out(here.workspace, query, now))
    name = f"tin-bucket-{now:%Y-%m-%d}.json"
    return Response(
        text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.post("/look")
def look(here: Here, body: ParcelIn) -> ArrivalInfo:
    """What bringing a file in would do. Nothing is changed."""
    return _info(look_at(here.workspace, body.document, _choices(body)))


@router.post("/bring")
async def bring(here: Here, body: ParcelIn) -> ArrivalInfo:
    """Bring a file in: all that was chosen, or nothing."""
    now = here.engine.clock.now()
    arrival = await asyncio.to_thread(bring_in, here.workspace, body.document, _choices(body), now)
    for service in arrival.services:
        here.engine.keeper.tell(service.id)
    here.schedule.renew()
    return _info(arrival)


def _choices(body: ParcelIn) -> dict[str, Choice]:
    for name, choice in body.choices.items():
        if choice not in _CHOICES:
            raise fail("choice-unknown", f"“{choice}” is no choice.", where=name, do=f"Use {', '.join(_CHOICES)}.")
    return cast(dict[str, Choice], body.choices)


def _info(arrival: Arrival) -> ArrivalInfo:
    return ArrivalInfo(
        items=[ItemInfo(**asdict(item)) for item in arrival.items],
        keys_wanted=arrival.keys_wanted,
        sheets_wanted=arrival.sheets_wanted,
    )
