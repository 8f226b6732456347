"""Looking at what is there: a change of reading, a large answer as a tree, a million rows sorted and filtered."""

from __future__ import annotations

import asyncio
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
import orjson

from tin_bucket.core.analysis.view import View
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.detect.tree import children, search
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.browse import KeptTable
from tin_bucket.store.workspace import Workspace

from .records import records
from .runs import PAGES, server_of

NOW = datetime(2026, 11, 25, tzinfo=UTC)


def timed(work: Callable[[], Any]) -> float:
    """How long it takes, in seconds."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def change_of_reading(folder: Path, base: str) -> dict[str, float]:
    """Seconds until the first rows, and all rows, of saved records are read in another way.

    The records come from a server of 1,000 pages of 100 such records, refreshed once.
    """
    workspace = Workspace(folder / "w", create=True)
    workspace.services.save(Service(id="s", name="s", base=base))
    document = {
        "name": "q",
        "ask": {"service": "s", "path": "/data"},
        "pages": PAGES,
        "take": {"records": "$.data[*]"},
    }
    query = workspace.queries.add(load_brief(document), NOW)

    async def go() -> Engine:
        engine = Engine(workspace)
        run = await engine.refresh(query.id, {}, "by hand")
        assert run.problem is None, run.problem
        await engine.close()
        return engine

    engine = asyncio.run(go())
    columns: list[dict[str, Any]] = [
        {"place": "$.id", "name": "id"},
        {"place": "$.departs", "name": "departs", "kind": "date and time", "reads": {"dates": "seconds"}},
        {"place": "$.vessel.name", "name": "vessel"},
        {"place": "$.fares[*].amount", "name": "car", "reduction": {"by": "where", "place": "$.class",
                                                                    "equals": "car"}},
    ]  # fmt: skip

    def brief(columns: list[dict[str, Any]] | None, rows: list[str] | None = None) -> Brief:
        return load_brief({**document, "take": {"records": "$.data[*]", "columns": columns, "rows_for": rows or []}})

    changes = {
        "renamed": brief([{**columns[0], "name": "sailing"}, *columns[1:]]),
        "another column": brief([*columns, {"place": "$.weather.wind", "name": "wind", "kind": "text"}]),
        "another choice": brief([*columns[:3], {**columns[3], "reduction": {"by": "sum"}}]),
        "rows of fares": brief([*columns[:3], {"place": "$.fares[*].amount", "name": "amount"}], ["$.fares"]),
        "all columns": brief(None),
    }
    engine.reread(query.id, brief(columns), most=1000)
    found = {"sight": min(timed(lambda: engine.reread(query.id, brief(columns), most=1000)) for _ in range(5))}
    found["first"] = timed(lambda: engine.reread(query.id, brief(columns)))
    for name, changed in changes.items():
        found[name] = timed(lambda changed=changed: engine.reread(query.id, changed))  # type: ignore[misc]
    workspace.close()
    return found


def saved_reading(pages: int = 1000, size: int = 100) -> dict[str, float]:
    """As :func:`change_of_reading`, with a server of its own."""
    with tempfile.TemporaryDirectory() as name, server_of(pages, size, Path(name)) as base:
        return change_of_reading(Path(name), base)


def large_answer() -> tuple[float, float, float]:
    """A 20 MB answer: its size in MB, seconds until its tree is open, and seconds to search all of it."""
    body = orjson.dumps({"meta": {"n": 1}, "data": records(43_000)})
    opened = min(timed(lambda: children(classify(Answer(200, {}, body)).document, 0, 200)) for _ in range(3))
    document = classify(Answer(200, {}, body)).document
    return len(body) / 1e6, opened, timed(lambda: search(document, "SK-0042999", 500))


def million_rows_seen(height: int = 1_000_000, width: int = 20) -> dict[str, float]:
    """Windows of a stored table: as it is, sorted for the first time and then, filtered, searched."""
    chance = np.random.default_rng(1)
    data: list[Any] = [[f"SK-{n:07}" for n in range(height)]]
    data += [chance.integers(0, 10_000, height).tolist() for _ in range(width - 1)]
    columns = [TableColumn(f"c{at}", guess_kind(values)) for at, values in enumerate(data)]
    table = Table(columns, data, np.zeros(height, dtype=np.int64), np.arange(height, dtype=np.int64))
    with tempfile.TemporaryDirectory() as name:
        workspace = Workspace(Path(name) / "w", create=True)
        workspace.services.save(Service(id="s", name="s", base="http://h"))
        query = workspace.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOW)
        run = workspace.runs.begin(query.id, "{}", {}, "by hand", NOW)
        with workspace.write() as db:
            number = workspace.snapshots.add(
                db, query.id, run, table, match=[], state="complete", evidence="", stated_total=None, now=NOW
            )
        del data, table
        engine = Engine(workspace)
        source = KeptTable(workspace.snapshots, number)
        by_number = View.model_validate({"sort": [{"column": "c7", "down": True}]})
        by_text = View.model_validate({"sort": [{"column": "c0", "down": True}]})
        some = View.model_validate({"where": [{"by": "between", "column": "c3", "low": "100", "high": "200"}]})
        rows = engine.tables.rows
        found = {
            "window": max(timed(lambda at=at: rows(source, View(), at, 200)) for at in (0, 500_000, 999_800)),  # type: ignore[misc]
            "sorted": timed(lambda: rows(source, by_number, 0, 200)),
            "sorted text": timed(lambda: rows(source, by_text, 0, 200)),
            "then": max(timed(lambda at=at: rows(source, by_number, at, 200)) for at in (300, 500_000, 999_800)),  # type: ignore[misc]
            "filtered": timed(lambda: rows(source, some, 0, 200)),
            "found": timed(lambda: engine.tables.find(source, View(), "SK-0999999")),
            "profile": timed(lambda: engine.tables.profile(source, "c5")),
        }
        workspace.close()
    return found
