"""Services, their keys and the vault. A key goes in and never comes out."""

from __future__ import annotations

import asyncio
from datetime import UTC, datetime

from fastapi import APIRouter

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import fail
from tin_bucket.engine.network.http import CALLER
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.preview.check import check_service
from tin_bucket.engine.workspace.secrets import store_secret
from tin_bucket.web.context import Context, Here, allowance_info, key_info
from tin_bucket.web.models.service import (
    About,
    AdvertisedLimitsInfo,
    CheckOut,
    ExpiresIn,
    KeyIn,
    PassphraseIn,
    ServiceIn,
    ServiceInfo,
)

router = APIRouter(prefix="/api")


@router.get("/services")
async def services(here: Here) -> list[ServiceInfo]:
    """Every service, by name."""
    found = await asyncio.to_thread(here.workspace.services.all)
    lanes = here.engine.lanes(found)
    return await asyncio.to_thread(lambda: [_info(here, service, lanes[service.id]) for service in found])


@router.post("/services", status_code=201)
async def add(here: Here, body: ServiceIn) -> ServiceInfo:
    """Add a service; its id is made of its name."""

    def store() -> Service:
        service = body.service.model_copy(update={"id": here.workspace.services.free_id(body.service.name)})
        here.workspace.services.save(service)
        return service

    service = await asyncio.to_thread(store)
    return await _told(here, service)


@router.put("/services/{service_id}")
async def save(here: Here, service_id: str, body: ServiceIn) -> ServiceInfo:
    """Change a service. Its key stays bound to the origin that it was stored for."""
    service = body.service.model_copy(update={"id": service_id})

    def store() -> None:
        here.workspace.services.get(service_id)
        here.workspace.services.save(service)

    await asyncio.to_thread(store)
    here.engine.credentials.tell(service_id)
    return await _told(here, service)


@router.delete("/services/{service_id}", status_code=204)
async def delete(here: Here, service_id: str) -> None:
    """Delete a service that no query asks, and its key."""
    await asyncio.to_thread(here.workspace.services.delete, service_id)
    here.engine.credentials.tell(service_id)


@router.put("/services/{service_id}/key")
async def store_key(here: Here, service_id: str, body: KeyIn) -> ServiceInfo:
    """Store a service's key, in place of the one it had; a run that waits for it resumes."""
    service = await asyncio.to_thread(here.workspace.services.get, service_id)
    if service.key is None:
        raise fail(
            "key-unwanted",
            f"{service.name} needs no key.",
            where=f"service {service.name}",
            do="Say in the service where its key goes first.",
        )
    if service.key.source.pasted:
        here.engine.credentials.take_token(service, body.secret.get("token", ""))
        return await _told(here, service)
    missing = [name for name in service.key.required_fields() if name not in body.secret]
    if missing:
        raise fail(
            "key-empty",
            f"The key has no {missing[0].replace('_', ' ')}.",
            where=f"key of {service.name}",
            do="Fill in every field.",
        )
    expires, now = _moment(body.expires), here.engine.clock.now()
    await asyncio.to_thread(store_secret, here.workspace, service, body.secret, now, expires)
    here.engine.credentials.tell(service_id)
    return await _told(here, service)


@router.put("/services/{service_id}/key/expires")
async def set_expires(here: Here, service_id: str, body: ExpiresIn) -> ServiceInfo:
    """Say when a key ends, or that it does not."""
    await asyncio.to_thread(here.workspace.vault.expires, service_id, _moment(body.expires))
    return await _told(here, await asyncio.to_thread(here.workspace.services.get, service_id))


def _moment(text: str | None) -> datetime | None:
    if not text:
        return None
    try:
        moment = datetime.fromisoformat(text)
    except ValueError as error:
        raise fail(
            "date-unfit", f"“{text}” is not a date.", where="the end of the key", do="Write it as YYYY-MM-DD."
        ) from error
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


@router.delete("/services/{service_id}/key")
async def forget_key(here: Here, service_id: str) -> ServiceInfo:
    """Delete a service's key."""
    await asyncio.to_thread(here.workspace.vault.forget, service_id)
    here.engine.credentials.tell(service_id)
    return await _told(here, here.workspace.services.get(service_id))


@router.post("/services/{service_id}/check")
async def check(here: Here, service_id: str) -> CheckOut:
    """Ask the service's check address and say how far that got."""
    service = await asyncio.to_thread(here.workspace.services.get, service_id)
    found = await check_service(here.engine.connections, service)
    return CheckOut(reading=found.reading, what=found.what, do=found.do)


@router.post("/key-fields")
def key_fields(body: Key) -> list[str]:
    """The fields of the secret that a person puts in for a key, whether it is saved or not."""
    return body.required_fields()


@router.get("/about")
def about(here: Here) -> About:
    """What holds for the whole program."""
    vault = here.workspace.vault
    lock = "closed" if vault.wants_passphrase else "passphrase" if vault.has_passphrase else "key file"
    return About(caller=CALLER, reach=here.engine.fetcher.reach, folder=str(here.workspace.settings.folder), vault=lock)


@router.post("/vault/open")
async def open_vault(here: Here, body: PassphraseIn) -> About:
    """Open the vault with its passphrase, until the program ends."""
    await asyncio.to_thread(here.workspace.vault.unlock, body.passphrase or "")
    for service in here.workspace.services.all():
        here.engine.credentials.tell(service.id)
    return about(here)


@router.put("/vault/passphrase")
async def set_passphrase(here: Here, body: PassphraseIn) -> About:
    """Seal every key under a passphrase, or without one under the key file again. Whoever changes a passphrase knows
    the old one."""
    await asyncio.to_thread(here.workspace.vault.change_passphrase, body.old or "", body.passphrase)
    return about(here)


async def _told(here: Context, service: Service) -> ServiceInfo:
    """What is known of a service, with its limits as they are now."""
    lanes = here.engine.lanes([service])
    return await asyncio.to_thread(_info, here, service, lanes[service.id])


def _info(here: Context, service: Service, lane: LaneView) -> ServiceInfo:
    waiting = {query for query, one in here.engine.waiting().items() if one.service_id == service.id}
    told = lane.advertised
    known = {(window.calls, window.seconds) for window in service.limits}
    new = [window for window in told.windows if (window.calls, window.seconds) not in known] if told else []
    return ServiceInfo(
        service=service,
        key=key_info(here, service),
        used_by=here.workspace.services.used_by(service.id),
        waiting=[name for number, name in here.workspace.queries.names().items() if number in waiting],
        allowances=[allowance_info(one) for one in lane.left],
        advertised=AdvertisedLimitsInfo(words=told.words, windows=new) if told is not None else None,
    )
