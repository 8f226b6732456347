"""Measures what the product does against plain scripts that do the same, in one run, and prints the ratios."""

from __future__ import annotations

import asyncio
import gc
import json
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import aiohttp
import numpy as np
import orjson
import pandas
import requests
from rich.console import Console
from rich.table import Table as Printed

from tin_bucket.core.brief import load_brief
from tin_bucket.core.flatten import flatten
from tin_bucket.core.json_text import parse_json
from tin_bucket.core.kinds import guess_kind
from tin_bucket.core.service import Service
from tin_bucket.core.table import Table, TableColumn
from tin_bucket.engine.engine import Engine
from tin_bucket.store.workspace import Workspace

from .records import records

NOW = datetime(2026, 11, 25, tzinfo=UTC)
lines: list[tuple[str, str, str, str, bool]] = []


def best(work: Callable[[], Any], times: int = 3) -> float:
    """The shortest of several runs, in seconds."""
    found = []
    for _ in range(times):
        gc.collect()
        start = time.perf_counter()
        kept = work()
        found.append(time.perf_counter() - start)
        del kept
    return min(found)


def tell(work: str, measured: str, ratio: float, wanted: str, reached: bool) -> None:
    """Note a line of the result."""
    lines.append((work, measured, f"{ratio:.2f}", wanted, reached))
    print(f"  {work}: {measured}; {ratio:.2f} (wanted: {wanted})", flush=True)


def bench_flatten(count: int = 100_000) -> None:
    """Flatten nested records, one list made rows, against json_normalize and against parsing them."""
    text = orjson.dumps(records(count))
    parsed = parse_json(text)
    ours = best(lambda: flatten(parsed, ("fares",)))
    parse = best(lambda: parse_json(text))
    meta: list[Any] = ["id", ["route", "code"], ["route", "name"], "port_code", "departs", ["vessel", "name"],
                       ["vessel", "hull_id"], ["vessel", "capacity", "cars"], ["vessel", "capacity", "passengers"],
                       ["weather", "wind"], ["weather", "sea"], "status", "delay_min", "gate", "crew",
                       "note"]  # fmt: skip
    theirs = best(lambda: pandas.json_normalize(parsed, "fares", meta, errors="ignore"), 1)
    tell(
        f"flatten {count:,} records",
        f"{ours:.2f} s, json_normalize {theirs:.2f} s",
        theirs / ours,
        "8 times as fast",
        theirs / ours >= 8,
    )
    tell(
        f"flatten {count:,} records",
        f"{ours:.2f} s, parse {parse:.2f} s",
        ours / parse,
        "less than the parse",
        ours < parse,
    )


def bench_refresh(pages: int = 1000, size: int = 100) -> None:
    """A whole refresh to a stored snapshot, against two plain scripts on the same server."""
    with tempfile.TemporaryDirectory() as folder:
        port_file = Path(folder) / "port"
        server = subprocess.Popen([sys.executable, "-m", "bench.server", str(pages), str(size), str(port_file)])
        try:
            while not port_file.with_suffix(".new").exists():
                time.sleep(0.1)
            base = f"http://127.0.0.1:{port_file.read_text()}"
            ours = min(_ours(Path(folder) / f"ours-{n}", base, pages) for n in range(2))
            bare = min(asyncio.run(_bare(Path(folder) / f"bare-{n}", base, pages)) for n in range(2))
            theirs = _script(Path(folder) / "script", base, pages)
        finally:
            server.terminate()
            server.wait()
    work = f"refresh, {pages:,} pages of {size}"
    tell(work, f"{ours:.1f} s, requests + pandas {theirs:.1f} s", ours / theirs, "half the time", ours / theirs <= 0.5)
    tell(work, f"{ours:.1f} s, bare loop {bare:.1f} s", ours / bare, "at most 2 times", ours / bare <= 2)


def _ours(home: Path, base: str, pages: int) -> float:
    workspace = Workspace(home, create=True)
    workspace.services.save(Service(id="bench", name="bench", base=base))
    document = {
        "name": "bench",
        "ask": {"service": "bench", "path": "/data"},
        "pages": {"by": "number", "last_page": "$.meta.total_pages", "total": "$.meta.total", "most": pages},
        "take": {"records": "$.data[*]"},
        "keep": {"match": ["id"]},
    }
    query = workspace.queries.add(load_brief(document), NOW)

    async def go() -> float:
        engine = Engine(workspace)
        start = time.perf_counter()
        run = await engine.refresh(query.id, {}, "by hand")
        took = time.perf_counter() - start
        assert run.state == "whole", run
        await engine.close()
        return took

    took = asyncio.run(go())
    workspace.close()
    return took


async def _bare(path: Path, base: str, pages: int) -> float:
    """The least that such a loop can do: fetch, parse, insert the records as they are."""
    start = time.perf_counter()
    db = sqlite3.connect(path)
    db.execute("CREATE TABLE t (a, b, c, d, e, f, g, h, i, j, k, l, m, n, o, p, q)")
    async with aiohttp.ClientSession() as session:
        for page in range(1, pages + 1):
            async with session.get(f"{base}/data?page={page}") as response:
                data = orjson.loads(await response.read())["data"]
            db.executemany("INSERT INTO t VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)", map(_plain_row, data))
    db.commit()
    db.close()
    return time.perf_counter() - start


def _plain_row(r: dict[str, Any]) -> tuple[Any, ...]:
    v, c = r["vessel"], r["vessel"]["capacity"]
    return (r["id"], r["route"]["code"], r["route"]["name"], r["port_code"], r["departs"], v["name"], v["hull_id"],
            c["cars"], c["passengers"], r["weather"]["wind"], r["weather"]["sea"], r["status"], r["delay_min"],
            r["gate"], r["crew"], r["note"], json.dumps(r["fares"]))  # fmt: skip


def _script(path: Path, base: str, pages: int) -> float:
    """What an analyst's script does."""
    start = time.perf_counter()
    frames = []
    with requests.Session() as session:
        for page in range(1, pages + 1):
            frames.append(
                pandas.json_normalize(session.get(f"{base}/data", params={"page": page}, timeout=30).json()["data"])
            )
    frame = pandas.concat(frames, ignore_index=True)
    frame["fares"] = frame["fares"].map(json.dumps)
    with sqlite3.connect(path) as db:
        frame.to_sql("t", db, index=False)
    return time.perf_counter() - start


def bench_snapshots(height: int = 200_000, width: int = 20) -> None:
    """A second snapshot with one row in a hundred changed, and the comparison of the two."""
    chance = np.random.default_rng(1)
    data: list[Any] = [[f"SK-{n}" for n in range(height)]]
    data += [chance.integers(0, 10_000, height).tolist() for _ in range(width - 1)]
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "w", create=True)
        workspace.services.save(Service(id="s", name="s", base="http://h"))
        query = workspace.queries.add(
            load_brief({"name": "q", "ask": {"service": "s"}, "keep": {"match": ["c0"]}}), NOW
        )
        took, numbers, sizes, kept = [], [], [], []
        for day in range(2):
            if day:
                for n in chance.choice(height, height // 100, replace=False).tolist():
                    data[3][n] += 1
            table = _table(data)
            kept.append(pandas.DataFrame({f"c{at}": values for at, values in enumerate(data)}))
            run = workspace.runs.begin(query.id, "{}", {}, "by hand", NOW)
            start = time.perf_counter()
            with workspace.write() as db:
                number = workspace.snapshots.add(
                    db, query.id, run, table, match=["c0"], whole=True, stated_total=None, now=NOW + timedelta(days=day)
                )
            took.append(time.perf_counter() - start)
            numbers.append(number)
            workspace.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            sizes.append(workspace.path.stat().st_size)
            kept[-1].to_csv(Path(folder) / f"{day}.csv", index=False)
        compare = best(lambda: workspace.snapshots.compare(*numbers))
        theirs = best(lambda: _merged(Path(folder)), 1)
        window = best(lambda: workspace.snapshots.window(numbers[1], height // 2, 200))
        workspace.close()
    told = f"{height:,} rows of {width}"
    tell(
        f"second snapshot, {told}",
        f"{took[1]:.2f} s, first {took[0]:.2f} s",
        took[1] / took[0],
        "a third",
        took[1] / took[0] <= 1 / 3,
    )
    added, whole = sizes[1] - sizes[0], sizes[0]
    year = 365 * added / whole + 1
    measured = f"{added / 1e6:.2f} MB to {whole / 1e6:.1f} MB"
    tell("bytes added for 1 % changed", measured, year, "365 days under 5 tables", year < 5)
    tell(
        f"compare, {told}",
        f"{compare:.2f} s, pandas from CSV {theirs:.2f} s",
        theirs / compare,
        "4 times as fast",
        theirs / compare >= 4,
    )
    tell(f"window of 200, {told}", f"{window * 1000:.0f} ms", window / 0.05, "50 ms, so 1.00", window <= 0.05)


def _table(data: list[list[Any]]) -> Table:
    height = len(data[0])
    columns = [TableColumn(f"c{at}", guess_kind(values)) for at, values in enumerate(data)]
    return Table(columns, list(data), np.zeros(height, dtype=np.int64), np.arange(height, dtype=np.int64))


def _merged(folder: Path) -> Any:
    then, now = (pandas.read_csv(folder / f"{day}.csv") for day in range(2))
    both = then.merge(now, on="c0", how="outer", suffixes=("", "_now"), indicator=True)
    return [(both[name] != both[f"{name}_now"]).sum() for name in then.columns[1:]]


def main() -> None:
    """Measure everything and print the table."""
    print("measuring; each line is a ratio within this run", flush=True)
    for work in (bench_flatten, bench_refresh, bench_snapshots):
        work()
    printed = Printed("work", "measured", "ratio", "wanted", "reached")
    for work_name, measured, ratio, wanted, reached in lines:
        printed.add_row(work_name, measured, ratio, wanted, "yes" if reached else "no")
    Console().print(printed)


if __name__ == "__main__":
    main()
