"""Working tables out, against pandas doing the same from a CSV file and against the same SQL on a plain connection."""

from __future__ import annotations

import random
import resource
import sqlite3
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pandas
from pydantic import TypeAdapter

from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.core.work_out.registry import WorkOutLine
from tin_bucket.engine.work_out.sample import sample
from tin_bucket.engine.work_out.source import KeptTable, MemoryTable
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.store.workspace import Workspace

NOW = datetime(2026, 11, 25, tzinfo=UTC)
LINES = TypeAdapter(list[WorkOutLine])
COLUMN = {"do": "column", "name": "total", "expression": "delay * 1.5 + price"}
LATE = {
    "do": "label", "name": "late", "column": "delay", "cases": [{"test": "above", "value": 10, "label": "late"}],
    "otherwise": "on time",
}  # fmt: skip
COUNT = {"do": "count", "by": ["route", "status"], "figures": [{"of": "rows"}, {"of": "sum", "column": "price"}]}
BRING = {
    "do": "bring", "table": {"query": "Codes"}, "match": [{"theirs": "code", "ours": "code"}],
    "columns": [{"column": "name"}],
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Measured:
    """A line, done here and by others, in seconds. What was not measured is 0.

    Attributes:
        own: by a work-out line.
        first: the first rows of it.
        frame: by pandas, from a CSV file.
        plain: by the same SQL on a plain connection, with the rows put in.
        megabytes: how much more memory the process had at its peak.
    """

    own: float
    first: float = 0.0
    frame: float = 0.0
    plain: float = 0.0
    megabytes: float = 0.0


def rows(height: int) -> dict[str, list[Any]]:
    """A table of sailings."""
    made = random.Random(7)
    routes = [f"Route {at}" for at in range(30)]
    return {
        "id": [f"SK-{at:07}" for at in range(height)],
        "route": [made.choice(routes) for _ in range(height)],
        "status": [made.choice(["arrived", "planned", "cancelled"]) for _ in range(height)],
        "delay": [made.choice([None, 0, 5, 12, 31]) for _ in range(height)],
        "price": [round(made.random() * 50, 2) for _ in range(height)],
        "code": [made.randrange(10_000) for _ in range(height)],
        **{f"more {at}": [f"{made.randrange(1000)} of {at}" for _ in range(height)] for at in range(6)},
    }


def memory_table(name: str, columns: dict[str, list[Any]]) -> MemoryTable:
    """Columns as a table."""
    headings = [TableColumn(one, guess_kind(values)) for one, values in columns.items()]
    return MemoryTable((name,), headings, list(columns.values()), len(next(iter(columns.values()))))


def done(work_out: WorkOut, table: Any, *lines: dict[str, Any]) -> Any:
    """Lines done to a table."""
    _, found = work_out.lines(table, NOW.isoformat(), LINES.validate_python(list(lines)))
    assert found[-1].problem is None, found[-1].problem
    return found[-1].stage


def timed(work: Callable[[], Any]) -> float:
    """The time of one run, in seconds."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def worked_lines(height: int) -> dict[str, Measured]:
    """A computed column, count and sum by two columns, and a column brought in from 10,000 rows."""
    columns = rows(height)
    table = memory_table("sailings", columns)
    codes = {"code": list(range(10_000)), "name": [f"Port {at}" for at in range(10_000)]}
    other = memory_table("codes", codes)
    out: dict[str, Measured] = {}
    with tempfile.TemporaryDirectory() as folder:
        csv, codes_csv = Path(folder) / "t.csv", Path(folder) / "c.csv"
        pandas.DataFrame(columns).to_csv(csv, index=False)
        pandas.DataFrame(codes).to_csv(codes_csv, index=False)

        def frame() -> Any:
            return pandas.read_csv(csv)

        def column_there() -> None:
            read = frame()
            read["total"] = read["delay"] * 1.5 + read["price"]

        works: dict[str, tuple[dict[str, Any], Callable[[], Any], str, list[str]]] = {
            "column": (COLUMN, column_there, "SELECT delay * 1.5 + price FROM t", ["delay", "price"]),
            "count": (
                COUNT,
                lambda: frame().groupby(["route", "status"]).agg(rows=("id", "size"), price=("price", "sum")),
                "SELECT route, status, count(*), sum(price) FROM t GROUP BY route, status",
                ["route", "status", "price"],
            ),
            "bring": (BRING, lambda: frame().merge(pandas.read_csv(codes_csv), on="code", how="left"), "", []),
        }
        for name, (line, by_frame, text, read) in works.items():
            work_out = WorkOut(None)  # type: ignore[arg-type]
            work_out.other = lambda *_: other  # type: ignore[method-assign]
            before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
            own = timed(lambda work_out=work_out, line=line: done(work_out, table, line))
            more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
            first = 0.0
            if name == "column":
                stage = work_out.lines(table, NOW.isoformat(), [])[0]
                first = timed(lambda stage=stage: sample(stage, str(COLUMN["expression"])))
            out[name] = Measured(own, first, timed(by_frame), plain(columns, text, read) if text else 0.0, more)
    return out


def plain(columns: dict[str, list[Any]], text: str, names: list[str]) -> float:
    """The same SQL on a plain connection, with the rows put in as most people do."""

    def work() -> None:
        db = sqlite3.connect(":memory:")
        db.execute(f"CREATE TABLE t ({', '.join(names)})")
        marks = ", ".join("?" * len(names))
        db.executemany(f"INSERT INTO t VALUES ({marks})", zip(*(columns[name] for name in names), strict=True))
        db.execute(text).fetchall()
        db.close()

    return timed(work)


def many_dates(days: int = 30, height: int = 100_000) -> tuple[float, float]:
    """The same line over snapshots with 1 % changed: the time for one, and for all of them."""
    columns = rows(height)
    made = random.Random(8)
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "w", create=True)
        brief = load_brief({"name": "Sailings", "ask": {"service": "s", "path": "/x"}, "keep": {"match": ["id"]}})
        query = workspace.queries.add(brief, NOW)
        numbers = []
        headings = [TableColumn(one, guess_kind(values)) for one, values in columns.items()]
        places = np.arange(height)
        for day in range(days):
            for at in made.sample(range(height), height // 100) if day else []:
                columns["delay"][at] = made.choice([0, 5, 12, 31])
                columns["price"][at] = round(made.random() * 50, 2)
            table = Table(headings, [list(values) for values in columns.values()], places, places)
            moment = NOW + timedelta(days=day)
            run = workspace.runs.begin(query.id, brief.model_dump_json(by_alias=True), {}, "bench", moment)
            with workspace.write() as db:
                numbers.append(
                    workspace.snapshots.add(
                        db, query.id, run, table, match=["id"], state="complete", evidence="", stated_total=None,
                        now=moment,
                    )
                )  # fmt: skip
        work_out = WorkOut(workspace)

        def look(number: int) -> None:
            done(work_out, KeptTable(workspace.snapshots, number), LATE).window(0, 200)

        one = timed(lambda: look(numbers[0]))
        rest = timed(lambda: [look(number) for number in numbers[1:]])
        workspace.close()
    return one, one + rest
