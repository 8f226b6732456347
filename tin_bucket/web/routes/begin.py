"""Paste to begin: what was understood of a text, and the query that is made of it."""

from __future__ import annotations

import asyncio
from typing import Any, Literal

from fastapi import APIRouter

from tin_bucket.core.auth.sign import shown
from tin_bucket.core.document.fix import fix_parameters
from tin_bucket.core.document.moving import move_dates, near_dates
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.paste import Understood, take_apart
from tin_bucket.core.interchange.recognise import paste_kind
from tin_bucket.core.interchange.spreadsheet import SheetSettings, SheetTable
from tin_bucket.core.masking.looks import fingerprint, secrets_in
from tin_bucket.core.request.parameters.values import default_value
from tin_bucket.engine.run.plan import RunPlan
from tin_bucket.engine.workspace.secrets import beside_stored, store_secret, to_store
from tin_bucket.engine.workspace.sheet_files import READER
from tin_bucket.web.cells import shown as shown_cell
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.common import HeaderInfo
from tin_bucket.web.models.query import BeginIn, FirstCall, PasteIn, PasteOut, QueryDetail
from tin_bucket.web.models.sheet import SheetPreview

from .queries import detail, known_names

router = APIRouter(prefix="/api")
PASTED = "pasted"
KeyFor = Literal["service", "own", "leave"]
_LOOK_ROWS = 20


@router.post("/paste")
def paste(here: Here, body: PasteIn) -> PasteOut:
    """Take a pasted text apart. Nothing is sent and nothing is stored; a key in it is held for a while."""
    if paste_kind(body.text) == "sheet":
        # A text that is no call may hold a key all the same: it is no table before somebody says so.
        if seen := secrets_in(body.text):
            return PasteOut(kind="sheet", keys_seen=seen[:20])
        table = READER.read(PASTED, body.text.encode(), SheetSettings())
        return PasteOut(kind="sheet", sheet=sheet_preview(PASTED, table))
    services = here.workspace.services.all()
    understood = take_apart(body.text, services)
    known = next((service for service in services if service.id == understood.service_id), None)
    stored = beside_stored(here.workspace, known, understood.secret)
    if stored in ("other", "unfit"):
        # Of several services at one address the one that has this key is meant.
        for one in services:
            if known and one.base == known.base and beside_stored(here.workspace, one, understood.secret) == "same":
                known, stored = one, "same"
                understood = take_apart(body.text, [one])
                break
    understood.brief.name = here.workspace.queries.free_name(understood.brief.name)
    return PasteOut(
        kind="call",
        service_id=understood.service_id,
        service_name=known.name if known is not None else understood.base.partition("://")[2].partition("/")[0],
        base=understood.base,
        brief=understood.brief,
        key=understood.key,
        held=here.held.hold(understood.secret) if understood.secret else None,
        held_fields={
            name: "" if name in ("user", "password") else fingerprint(text) for name, text in understood.secret.items()
        },
        keys_seen=understood.keys_seen,
        stored_key=stored,
        asks_with_key=known is not None and known.key is not None,
        used_by=here.workspace.services.used_by(known.id) if known is not None else [],
        as_sent=_choices(here, understood, known, stored == "unfit")
        if stored in ("other", "unfit") and understood.key
        else {},
        near_dates=near_dates(understood.brief, here.engine.moment()),
        notes=understood.notes,
        call=_as_sent(here, understood, known),
    )


def _as_sent(here: Context, understood: Understood, known: Service | None) -> FirstCall:
    """The call that the draft would make, for comparing it with what was pasted."""
    return _shown(here, understood.brief, known or _new_service(understood))


def _new_service(understood: Understood) -> Service:
    return Service(id="new", name="new", base=understood.base, key=understood.key)


def _choices(here: Context, understood: Understood, known: Service | None, other_way: bool) -> dict[KeyFor, FirstCall]:
    """The call as it would be sent for each thing that can become of a key that is not the known service's."""
    assert known is not None
    kept = known.model_copy(update={"key": understood.key}) if other_way else known
    ways: dict[KeyFor, Service] = {"service": kept, "own": _new_service(understood), "leave": known}
    return {name: _shown(here, understood.brief, service) for name, service in ways.items()}


def _shown(here: Context, brief: Brief, service: Service) -> FirstCall:
    plan = _draft_plan(here, brief, service)
    told = shown(plan.call(0), service.key)
    headers = [HeaderInfo(name=name, value=value) for name, value in told.headers]
    return FirstCall(method=told.method, address=told.address, headers=headers, body=told.body)


def _draft_plan(here: Context, brief: Brief, service: Service) -> RunPlan:
    """A plan for a brief whose service need not be stored yet; parameters without a value are shown by their name."""
    moment = here.engine.moment()
    bindings: dict[str, Any] = {}
    for parameter in brief.parameters:
        value = default_value(parameter, moment)
        bindings[parameter.name] = value if value is not None else f"‹{parameter.name}›"
    assert brief.ask is not None
    return RunPlan(brief, {brief.ask.service: service}, bindings)


def sheet_preview(name: str, table: SheetTable, start: int = 0, count: int = _LOOK_ROWS) -> SheetPreview:
    """Some rows of a sheet, from the first on unless said otherwise, and what was found out about it."""
    rows = [
        [shown_cell(record.get(heading)) for heading in table.headings] if isinstance(record, dict) else [str(record)]
        for record in table.records[start : start + count]
    ]
    return SheetPreview(
        name=name,
        headings=table.headings or ["value"],
        rows=rows,
        count=len(table.records),
        found=table.found,
        tabs=table.tabs,
    )


@router.post("/begin", status_code=201)
async def begin(here: Here, body: BeginIn) -> QueryDetail:
    """Make a query, with its service and its key where they are new: all of it, or nothing."""
    secret = {**here.held.take(body.held), **{name: text for name, text in body.secret.items() if text}}
    workspace, now = here.workspace, here.engine.clock.now()

    def store() -> tuple[int, Service | None]:
        with workspace.write():
            moment, service = here.engine.moment(), body.service
            brief = fix_parameters(move_dates(body.brief, body.moving, moment), body.fixed, moment)
            if service is not None and brief.ask is not None:
                service = service.model_copy(update={"id": workspace.services.free_id(service.name)})
                workspace.services.save(service)
                brief = brief.model_copy(update={"ask": brief.ask.model_copy(update={"service": service.id})})
            elif brief.ask is not None:
                service = workspace.services.get(brief.ask.service)
                if body.key is not None:
                    service = service.model_copy(update={"key": body.key})
                    workspace.services.save(service)
            known_names(here, brief)
            if service is not None and to_store(workspace, service, secret, body.replace_key):
                store_secret(workspace, service, secret, now)
            return workspace.queries.add(brief, now).id, service

    try:
        query_id, service = await asyncio.to_thread(store)
    except BaseException:
        if secret:
            here.held.put_back(body.held, secret)
        raise
    if service is not None:
        here.engine.credentials.tell(service.id)
    here.schedule.renew()
    return await asyncio.to_thread(detail, here, query_id)
