"""Carrying: services, queries and reports out as a file, and in again."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated, cast

from fastapi import APIRouter, Query
from fastapi.responses import Response

from tin_bucket.core.interchange.bundle import ImportChoice, ImportPlan, bundle_text
from tin_bucket.core.problem import fail
from tin_bucket.engine.workspace.transfer import export_bundle, import_bundle, preview_import
from tin_bucket.web.context import Here
from tin_bucket.web.models.transfer import BundleIn, ImportPlanInfo, ItemInfo, LeftFile

router = APIRouter(prefix="/api/bundle")
_CHOICES = ("add", "keep", "replace", "beside")


@router.get("", response_model=None)
def out(here: Here, query: Annotated[list[str] | None, Query()] = None) -> Response:
    """Services, queries and reports as a file without any key; or the queries that are named, with their services."""
    now = here.engine.clock.now()
    text = bundle_text(export_bundle(here.workspace, query, now))
    name = f"tin-bucket-{now:%Y-%m-%d}.json"
    return Response(
        text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@router.post("/look")
def look(here: Here, body: BundleIn) -> ImportPlanInfo:
    """What bringing a file in would do. Nothing is changed."""
    return _info(preview_import(here.workspace, body.document, _choices(body)))


@router.post("/bring")
async def bring(here: Here, body: BundleIn) -> ImportPlanInfo:
    """Bring a file in: all that was chosen, or nothing."""
    now = here.engine.clock.now()
    import_plan = await asyncio.to_thread(import_bundle, here.workspace, body.document, _choices(body), now)
    for service in import_plan.services:
        here.engine.credentials.tell(service.id)
    here.schedule.renew()
    return _info(import_plan)


def _choices(body: BundleIn) -> dict[str, ImportChoice]:
    for name, choice in body.choices.items():
        if choice not in _CHOICES:
            raise fail(
                "choice-unknown", f"“{choice}” is not one of the choices.", where=name, do=f"Use {', '.join(_CHOICES)}."
            )
    return cast(dict[str, ImportChoice], body.choices)


def _info(import_plan: ImportPlan) -> ImportPlanInfo:
    return ImportPlanInfo(
        items=[ItemInfo(**asdict(item)) for item in import_plan.items],
        required_keys=import_plan.required_keys,
        required_sheets=import_plan.required_sheets,
        left_files=[LeftFile(title=title, path=path) for title, path in import_plan.left_files],
    )
