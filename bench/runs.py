"""Measures runs: how close to the least possible time limits are kept, several pages at a time, a million rows."""

from __future__ import annotations

import asyncio
import json
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import aiohttp
import orjson
from aiohttp import web

from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.demo.running import Running
from tin_bucket.demo.services.bookings import Bookings
from tin_bucket.engine.engine import Engine
from tin_bucket.store.workspace import Workspace

from .memory import peak_mb
from .serving import Served, ninety_fifth, served

NOW = datetime(2026, 11, 25, tzinfo=UTC)
QUERY = {
    "name": "bench",
    "ask": {"service": "bench", "path": "/data"},
    "take": {"records": "$.data[*]"},
    "keep": {"match": ["id"]},
}
PAGES = {"by": "number", "last_page": "$.meta.total_pages", "total": "$.meta.total", "most": 100_000}


@contextmanager
def server_of(pages: int, size: int, folder: Path) -> Iterator[str]:
    """A local server of numbered pages in a process of its own; gives its address."""
    port_file = folder / "port"
    command = [sys.executable, "-m", "bench.server", str(pages), str(size), str(port_file)]
    process = subprocess.Popen(command)
    try:
        while not port_file.with_suffix(".new").exists():
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port_file.read_text()}"
    finally:
        process.terminate()
        process.wait()


def refreshed(home: Path, base: str, at_once: int, **service: Any) -> float:
    """The seconds that a refresh of all pages takes."""
    workspace = Workspace(home, create=True)
    workspace.services.save(Service(id="bench", name="bench", base=base, at_once=at_once, **service))
    query = workspace.queries.add(load_brief({**QUERY, "pages": PAGES}), NOW)

    async def go() -> float:
        engine = Engine(workspace)
        start = time.perf_counter()
        run = await engine.refresh(query.id, {}, "by hand")
        took = time.perf_counter() - start
        assert run.state == "complete", run
        await engine.close()
        return took

    took = asyncio.run(go())
    workspace.close()
    return took


async def bare_loop(path: Path, base: str, pages: int, at_once: int) -> float:
    """The least that such a loop can do: fetch several pages at a time, parse, insert the records as they are."""
    start = time.perf_counter()
    db = sqlite3.connect(path)
    db.execute(f"CREATE TABLE t ({', '.join(f'c{at}' for at in range(17))})")
    gate = asyncio.Semaphore(at_once)
    async with aiohttp.ClientSession() as session:

        async def one(page: int) -> None:
            async with gate, session.get(f"{base}/data?page={page}") as response:
                data = orjson.loads(await response.read())["data"]
            db.executemany(f"INSERT INTO t VALUES ({','.join('?' * 17)})", map(plain_row, data))

        await asyncio.gather(*(one(page) for page in range(1, pages + 1)))
    db.commit()
    db.close()
    return time.perf_counter() - start


def plain_row(r: dict[str, Any]) -> tuple[Any, ...]:
    """A record as a script would store it."""
    v, c = r["vessel"], r["vessel"]["capacity"]
    return (r["id"], r["route"]["code"], r["route"]["name"], r["port_code"], r["departs"], v["name"], v["hull_id"],
            c["cars"], c["passengers"], r["weather"]["wind"], r["weather"]["sea"], r["status"], r["delay_min"],
            r["gate"], r["crew"], r["note"], json.dumps(r["fares"]))  # fmt: skip


class Counted(Bookings):
    """The bookings' limits over pages of next to nothing."""

    def refusal(self, request: web.Request) -> web.Response | None:
        """The limits, and no key."""
        refused = super().refusal(request)
        return refused if refused is not None and refused.status == 429 else None

    def routes(self) -> list[web.RouteDef]:
        """Numbered pages."""
        return [web.get("/data", self._page)]

    async def _page(self, request: web.Request) -> web.Response:
        page = int(request.query.get("page", "1"))
        return web.json_response({"meta": {"total_pages": self.pages, "total": self.pages}, "data": [{"id": page}]})

    pages = 300


def limits_kept(windows: list[tuple[int, float]], pages: int, at_once: int) -> tuple[float, float, int]:
    """Seconds that a run took, the least that its windows allow, and how many calls were refused."""
    service = Counted(NOW.date())
    service.windows, service.pages = tuple(windows), pages
    with Running(service.app()) as running, tempfile.TemporaryDirectory() as folder:
        limits = [Window(calls=calls, per=f"PT{int(seconds)}S") for calls, seconds in windows]
        took = refreshed(Path(folder) / "w", running.base, at_once, limits=limits)
    return took, least_time(windows, pages), service.refused


def least_time(windows: list[tuple[int, float]], calls: int) -> float:
    """When the last of so many calls may go, counted from the first, if each goes as early as it may."""
    sent: list[float] = []
    for at in range(calls):
        earliest = sent[-1] if sent else 0.0
        for most, seconds in windows:
            if at >= most:
                earliest = max(earliest, sent[at - most] + seconds)
        sent.append(earliest)
    return sent[-1]


def million_rows(pages: int, size: int) -> dict[str, Any]:
    """Peak memory of a serving program that refreshes so many rows, and how fast its interface answers meanwhile."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with server_of(pages, size, folder) as base:
            workspace = Workspace(folder / "w", create=True)
            workspace.services.save(Service(id="bench", name="bench", base=base))
            query = workspace.queries.add(load_brief({**QUERY, "pages": PAGES}), NOW)
            workspace.close()
            with served(folder / "w") as client:
                return _watched(client, query.id)


def _watched(client: Served, query_id: int) -> dict[str, Any]:
    start = time.perf_counter()
    run_id = client.post(f"/api/queries/{query_id}/refresh", {"values": {}})["run_id"]
    waited = []
    while True:
        before = time.perf_counter()
        run = client.get(f"/api/runs/{run_id}")
        waited.append(time.perf_counter() - before)
        if run["state"] != "running":
            break
        time.sleep(0.05)
    assert run["state"] == "complete", run
    return {
        "rows": run["rows"],
        "seconds": time.perf_counter() - start,
        "peak_mb": peak_mb(client.pid),
        "p95": ninety_fifth(waited),
        "worst": max(waited),
    }
