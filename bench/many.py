"""A program with much to do (thousands of queries, hundreds of schedules, a large export, hostile files): how long
its interface takes meanwhile."""

from __future__ import annotations

import sqlite3
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
from aiohttp import web

from tests.engine.hostile_sheets import hostile
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.demo.running import Running
from tin_bucket.store.workspace import Workspace

from .browser import seconds_until_rows
from .serving import ninety_fifth, served

NOW = datetime(2026, 11, 25, tzinfo=UTC)


def _table(height: int, width: int = 6, seed: int = 1) -> Table:
    chance = np.random.default_rng(seed)
    data: list[Any] = [[f"SK-{n:07}" for n in range(height)]]
    data += [chance.integers(0, 10_000, height).tolist() for _ in range(width - 1)]
    columns = [TableColumn(f"c{at}", guess_kind(values)) for at, values in enumerate(data)]
    return Table(columns, data, np.zeros(height, dtype=np.int64), np.arange(height, dtype=np.int64))


def _snapshot(workspace: Workspace, query_id: int, table: Table, moment: datetime) -> int:
    run = workspace.runs.begin(query_id, "{}", {}, "by hand", moment)
    with workspace.write() as db:
        number = workspace.snapshots.add(
            db, query_id, run, table, match=["c0"], state="complete", evidence="", stated_total=table.height, now=moment
        )
        ended = workspace.runs.get(run)
        ended.state, ended.rows, ended.records = "complete", table.height, table.height
        workspace.runs.end(db, ended, moment + timedelta(seconds=1))
    return number


@contextmanager
def _workspace(base: str = "http://127.0.0.1:9") -> Iterator[Workspace]:
    with tempfile.TemporaryDirectory() as name:
        workspace = Workspace(Path(name) / "w", create=True)
        workspace.services.save(Service(id="s", name="Operations", base=base))
        try:
            yield workspace
        finally:
            workspace.close()


def _copy_history(db: sqlite3.Connection, source: int, target: int) -> None:
    for run, snapshot in db.execute(
        "SELECT run_id, id FROM snapshot WHERE query_id = ? ORDER BY id", (source,)
    ).fetchall():
        copied = _copy(db, "run", run, {"query_id": target})
        _copy(db, "snapshot", snapshot, {"query_id": target, "run_id": copied})


def _copy(db: sqlite3.Connection, table: str, number: int, changed: dict[str, int]) -> int:
    names = [row[1] for row in db.execute(f"PRAGMA table_info({table})") if row[1] != "id"]
    values = ", ".join(f":{name}" if name in changed else name for name in names)
    cursor = db.execute(
        f"INSERT INTO {table} ({', '.join(names)}) SELECT {values} FROM {table} WHERE id = :id",
        {**changed, "id": number},
    )
    return int(cursor.lastrowid or 0)


def many_queries(count: int = 2000, days: int = 30) -> dict[str, float]:
    """The desk of so many queries, each with some snapshots: its data, and the page until its rows are in sight."""
    with _workspace() as workspace:
        with workspace.write() as db:
            for at in range(count):
                # Half of them are on a schedule, far from now.
                schedule = {"schedule": {"kind": "every", "every": "P30D"}} if at % 2 else {}
                brief = {"name": f"Sailings {at:04}", "ask": {"service": "s", "path": f"/s/{at}"}, "keep": schedule}
                workspace.queries.add(load_brief(brief), NOW)
            first = workspace.queries.all()[0].id
            for day in range(days):
                _snapshot(workspace, first, _table(20), datetime.now(UTC) - timedelta(days=days - day))
            # The others get copies of these, which is quicker than so many snapshots.
            for query in workspace.queries.all():
                if query.id != first:
                    _copy_history(db, first, query.id)
        home = workspace.home
        workspace.close()
        with served(home) as client:
            client.get("/api/desk")
            desk = float(np.median(client.timed(*["/api/desk"] * 9)))
            size = len(client.bytes("/api/desk"))
            return {"desk": desk, "page": seconds_until_rows(client.entry), "bytes": size}


def many_schedules(count: int = 200, seconds: float = 75.0) -> dict[str, float]:
    """So many refreshes of two pages in each minute, and how long the interface's requests wait meanwhile."""

    async def page(request: web.Request) -> web.Response:
        first, minute = 100 * int(request.query.get("page", "1")), int(time.time() / 60)
        rows = [{"id": f"{n:04}", "n": n * minute % 7, "name": f"Sailing {n}"} for n in range(first, first + 100)]
        return web.json_response({"pages": 2, "data": rows})

    app = web.Application()
    app.router.add_get("/{rest:.*}", page)
    with Running(app) as service, _workspace(service.base) as workspace:
        for at in range(count):
            brief = {
                "name": f"Sailings {at:03}",
                "ask": {"service": "s", "path": f"/s/{at}"},
                "pages": {"by": "number", "last_page": "$.pages"},
                "take": {"records": "$.data[*]"},
                "keep": {"match": ["id"], "schedule": {"kind": "every", "every": "PT1M"}},
            }
            query = workspace.queries.add(load_brief(brief), datetime.now(UTC) - timedelta(minutes=2))
        home, number = workspace.home, query.id
        workspace.close()
        paths = ("/api/desk", f"/api/queries/{number}", "/api/runs", "/api/services")
        with served(home) as client, client.waits_meanwhile(*paths) as waits:
            time.sleep(seconds)
        workspace = Workspace(home)
        runs = [run for run in workspace.runs.latest(most=10_000) if run.state == "complete"]
        workspace.close()
    return {"p95": ninety_fifth(waits), "worst": max(waits), "asked": len(waits), "refreshes": len(runs)}


def large_export(height: int = 1_000_000, width: int = 6) -> dict[str, float]:
    """A workbook of so many rows, and how long the interface's requests wait while it is written."""
    with _workspace() as workspace:
        query = workspace.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOW)
        number = _snapshot(workspace, query.id, _table(height, width), NOW)
        home = workspace.home
        workspace.close()
        with served(home) as client:
            with client.waits_meanwhile("/api/desk", f"/api/queries/{query.id}", "/api/runs") as waits:
                start = time.perf_counter()
                client.bytes(f"/api/snapshots/{number}/table.xlsx")
                took = time.perf_counter() - start
            return {"seconds": took, "p95": ninety_fifth(waits), "worst": max(waits)}


def hostile_files() -> dict[str, float]:
    """The longest wait of the interface while each file that was made to harm its reader is read."""
    with _workspace() as workspace:
        home = workspace.home
        workspace.close()
        with served(home) as client:
            client.upload("/api/sheets?file=a.csv&name=fine", b"a,b\n1,2\n")
            worst, longest = 0.0, 0.0
            for file, data in hostile().values():
                with client.waits_meanwhile("/api/desk", pause=0.01) as waits:
                    start = time.perf_counter()
                    client.upload(f"/api/sheets?file={file}&name=hostile&replace=true", data)
                    longest = max(longest, time.perf_counter() - start)
                    time.sleep(0.05)
                worst = max(worst, *waits)
            return {"worst": worst, "longest": longest, "files": len(hostile())}
