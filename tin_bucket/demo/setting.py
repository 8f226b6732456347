"""The demo's workspace: a service, its key, queries, and a month of snapshots made by the real engine."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from tin_bucket.core.brief import Brief, load_brief
from tin_bucket.core.calls import origin
from tin_bucket.core.service import Service
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.store.workspace import Workspace

from .operations import KEY, KEY_HEADER, Operations
from .timetable import ROUTES

SERVICE_ID = "skerrywick-operations"
DAYS = 30


def operations_service(base: str) -> Service:
    """The operations service as a workspace knows it."""
    return Service.model_validate(
        {
            "id": SERVICE_ID,
            "name": "Skerrywick Operations",
            "base": base,
            "docs": base + "/",
            "note": "A simulated service that ships with Tin Bucket.",
            "timeout": 20,
            "key": {"name": "Operations desk", "header": KEY_HEADER},
        }
    )


def _pages() -> dict[str, Any]:
    return {
        "by": "number",
        "parameter": "page",
        "size_parameter": "per_page",
        "size": 100,
        "last_page": "$.meta.total_pages",
        "total": "$.meta.total",
    }


def _route(default: str) -> dict[str, Any]:
    choices = [{"code": "all", "label": "all routes"}, *({"code": r.code, "label": r.name} for r in ROUTES)]
    return {"name": "route", "kind": "choice", "choices": choices, "default": default}


def _day(name: str, offset: str) -> dict[str, Any]:
    return {"name": name, "kind": "date", "default": {"anchor": "today", "offset": offset}}


_QUESTION = [{"name": name, "value": f"{{{name}}}"} for name in ("route", "from", "to")]


def briefs() -> list[Brief]:
    """The demo's queries."""
    sailings = {
        "name": "Sailings by route",
        "note": "Every sailing of the week behind us and the week ahead.",
        "parameters": [_route("all"), _day("from", "-P7D"), _day("to", "P7D")],
        "ask": {"service": SERVICE_ID, "path": "/sailings", "query": _QUESTION},
        "pages": _pages(),
        "take": {
            "records": "$.data[*]",
            "columns": [
                {"place": "$.sailing_id", "name": "sailing_id"},
                {"place": "$.departs", "name": "departs", "kind": "date and time"},
                {"place": "$.route.name", "name": "route"},
                {"place": "$.port_code", "name": "port_code"},
                {"place": "$.vessel.name", "name": "vessel"},
                {"place": "$.status", "name": "status"},
                {"place": "$.delay_min", "name": "delay", "unit": "min"},
                {"place": "$.fares[1].amount", "name": "car fare", "unit": "SKC"},
                {"place": "$.vessel.hull_id", "name": "hull_id"},
                {"place": "$.legs", "name": "legs"},
            ],
        },
        "look_up": [
            {
                "name": "port",
                "path": "/ports/{port_code}",
                "with": {"port_code": "port_code"},
                "take": [{"place": "$.name", "name": "port"}, {"place": "$.zone", "name": "zone"}],
            }
        ],
        "keep": {"match": ["sailing_id"], "schedule": {"kind": "at", "at": "07:30", "days": [1, 2, 3, 4, 5, 6, 7]}},
    }
    fares = {
        "name": "Fares, week ahead",
        "note": "A row for each fare of each coming sailing.",
        "parameters": [_route("harl-oxnith"), _day("from", "P0D"), _day("to", "P7D")],
        "ask": {"service": SERVICE_ID, "path": "/sailings", "query": _QUESTION},
        "pages": _pages(),
        "take": {
            "records": "$.data[*]",
            "rows_for": "$.fares",
            "columns": [
                {"place": "$.sailing_id", "name": "sailing_id"},
                {"place": "$.departs", "name": "departs", "kind": "date and time"},
                {"place": "$.fares[*].class", "name": "class"},
                {"place": "$.fares[*].amount", "name": "fare", "unit": "SKC"},
                {"place": "$.route.name", "name": "route"},
                {"place": "$.vessel.name", "name": "vessel"},
            ],
        },
        "keep": {"match": ["sailing_id", "class"], "schedule": {"kind": "every", "every": "PT6H"}},
    }
    vessels = {
        "name": "Fleet today",
        "ask": {"service": SERVICE_ID, "path": "/vessels"},
        "take": {"records": "$.data[*]"},
        "look_up": [
            {
                "name": "berth",
                "path": "/ports/{at}",
                "with": {"at": "at"},
                "take": [{"place": "$.name", "name": "berthed at"}],
            }
        ],
        "keep": {"match": ["hull_id"], "schedule": {"kind": "at", "at": "06:00", "days": [1, 2, 3, 4, 5]}},
    }
    ports = {
        "name": "Ports",
        "ask": {"service": SERVICE_ID, "path": "/ports"},
        "pages": {"by": "none", "total": "$.meta.total"},
        "take": {"records": "$.data[*]"},
        "keep": {"match": ["code"]},
    }
    return [load_brief(document) for document in (sailings, fares, vessels, ports)]


async def furnish(
    home: Path,
    operations: Operations,
    base: str,
    last: date,
    days: int = DAYS,
    tell: Callable[[int, int], None] | None = None,
) -> None:
    """Make the demo's workspace in a folder: `days` days of snapshots that end with the day `last`.

    Args:
        operations: the running service, whose simulated day is moved along.
        base: its address.
        tell: called with the number of days that are done, and of all.
    """
    workspace = Workspace(home, create=True)
    clock = SetClock(datetime.now(UTC))
    engine = Engine(workspace, clock)
    service = operations_service(base)
    first = datetime.combine(last - timedelta(days=days), time(9, 12), UTC)
    workspace.services.save(service)
    workspace.vault.store(service.id, origin(base), KEY, first)
    queries = [workspace.queries.add(brief, first) for brief in briefs()]
    pause, operations.pause = operations.pause, 0.0
    for done in range(days):
        day = last - timedelta(days=days - 1 - done)
        operations.today = day
        for index, query in enumerate(queries):
            # The last morning may not have come yet; nothing is dated in the future.
            moment = datetime.combine(day, time(5, 30 + index), UTC)
            clock.set(min(moment, datetime.now(UTC)))
            if query.brief.keep.schedule is None and done % 10 != 0:
                continue
            await engine.refresh(query.id, {}, "schedule" if query.brief.keep.schedule else "by hand")
        if tell is not None:
            tell(done + 1, days)
    operations.pause = pause
    await engine.close()
    workspace.close()
