"""Services and their keys. A key goes in and never comes out."""

from __future__ import annotations

import asyncio

from fastapi import APIRouter

from tin_bucket.core.calls import origin
from tin_bucket.core.service import Service
from tin_bucket.engine.check import check_service

from .context import Context, Here
from .models import CheckOut, KeyIn, ServiceIn, ServiceInfo

router = APIRouter(prefix="/api/services")


@router.get("")
def services(here: Here) -> list[ServiceInfo]:
    """Every service, by name."""
    return [_info(here, service) for service in here.workspace.services.all()]


@router.post("", status_code=201)
def add(here: Here, body: ServiceIn) -> ServiceInfo:
    """Add a service; its id is made of its name."""
    service = body.service.model_copy(update={"id": here.workspace.services.free_id(body.service.name)})
    here.workspace.services.save(service)
    return _info(here, service)


@router.put("/{service_id}")
def save(here: Here, service_id: str, body: ServiceIn) -> ServiceInfo:
    """Change a service. Its key stays bound to the origin that it was stored for."""
    here.workspace.services.get(service_id)
    service = body.service.model_copy(update={"id": service_id})
    here.workspace.services.save(service)
    return _info(here, service)


@router.delete("/{service_id}", status_code=204)
def delete(here: Here, service_id: str) -> None:
    """Delete a service that no query asks, and its key."""
    here.workspace.services.delete(service_id)


@router.put("/{service_id}/key")
def store_key(here: Here, service_id: str, body: KeyIn) -> ServiceInfo:
    """Store a service's key, in place of the one it had."""
    service = here.workspace.services.get(service_id)
    here.workspace.vault.store(service_id, origin(service.base), body.secret, here.engine.clock.now())
    return _info(here, service)


@router.delete("/{service_id}/key")
def forget_key(here: Here, service_id: str) -> ServiceInfo:
    """Delete a service's key."""
    here.workspace.vault.forget(service_id)
    return _info(here, here.workspace.services.get(service_id))


@router.post("/{service_id}/check")
async def check(here: Here, service_id: str) -> CheckOut:
    """Ask the service's base address and say how far that got."""
    service = await asyncio.to_thread(here.workspace.services.get, service_id)
    found = await check_service(here.engine, service)
    return CheckOut(reading=found.reading, what=found.what, do=found.do)


def _info(here: Context, service: Service) -> ServiceInfo:
    state = here.workspace.vault.state(service.id)
    return ServiceInfo(
        service=service,
        key_stored=state.stored if state else None,
        key_last_used=state.last_used if state else None,
        key_bound_to=state.origin if state else None,
        key_fits=state is not None and state.origin == origin(service.base),
        used_by=here.workspace.services.used_by(service.id),
    )
