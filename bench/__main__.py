"""Measures what the product does against plain scripts that do the same, in one run, and prints the ratios."""

from __future__ import annotations

import asyncio
import gc
import json
import sqlite3
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import UTC, datetime, timedelta
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
import orjson
import pandas
import requests
from rich.console import Console
from rich.table import Table as Printed

from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.table.flatten import flatten
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.workspace import Workspace

from .charts import a_line
from .handed import live_tables, memory_of_feeding, workbook_fed
from .history import a_year, thousands_of_dates, unlike_tables
from .looking import large_answer, million_rows_seen, saved_reading
from .many import hostile_files, large_export, many_queries, many_schedules
from .records import records
from .reports import a_report
from .runs import bare_loop, limits_kept, million_rows, refreshed, server_of
from .strangers import strangers_met, table_of, told_apart
from .unattended import asked_twice, headless, start_up, workbook_written
from .worked import many_dates, worked_lines

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


def side_by_side(*works: Callable[[], Any], iterations: int = 5) -> list[float]:
    """The shortest time of each, in seconds. They take turns, so that a slow spell of the machine meets all of them."""
    found: list[list[float]] = [[] for _ in works]
    for _ in range(iterations):
        for work, times in zip(works, found, strict=True):
            times.append(best(work, 1))
    return [min(times) for times in found]


def tell(work: str, measured: str, ratio: float, wanted: str, reached: bool) -> None:
    """Note a line of the result."""
    lines.append((work, measured, f"{ratio:.2f}", wanted, reached))
    print(f"  {work}: {measured}; {ratio:.2f} (wanted: {wanted})", flush=True)


def bench_flatten(count: int = 100_000) -> None:
    """Flatten nested records, one list made rows, against json_normalize and against parsing them."""
    text = orjson.dumps(records(count))
    parsed = parse_json(text)
    meta: list[Any] = ["id", ["route", "code"], ["route", "name"], "port_code", "departs", ["vessel", "name"],
                       ["vessel", "hull_id"], ["vessel", "capacity", "cars"], ["vessel", "capacity", "passengers"],
                       ["weather", "wind"], ["weather", "sea"], "status", "delay_min", "gate", "crew",
                       "note"]  # fmt: skip

    def ours_as_in_a_run() -> object:
        with collector_paused():
            return flatten(parsed, [("fares",)])

    ours, parse, theirs = side_by_side(
        ours_as_in_a_run,
        lambda: parse_json(text),
        lambda: pandas.json_normalize(parsed, "fares", meta, errors="ignore"),
    )
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
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with server_of(pages, size, folder) as base:
            ours = min(refreshed(folder / f"ours-{n}", base, 4) for n in range(2))
            eight = min(refreshed(folder / f"eight-{n}", base, 8) for n in range(2))
            bare = min(asyncio.run(bare_loop(folder / f"bare-{n}", base, pages, 1)) for n in range(2))
            bare_eight = min(asyncio.run(bare_loop(folder / f"bare-eight-{n}", base, pages, 8)) for n in range(2))
            theirs = _script(folder / "script", base, pages)
    work = f"refresh, {pages:,} pages of {size}"
    tell(work, f"{ours:.1f} s, requests + pandas {theirs:.1f} s", ours / theirs, "half the time", ours / theirs <= 0.5)
    tell(work, f"{ours:.1f} s, bare loop {bare:.1f} s", ours / bare, "at most 2 times", ours / bare <= 2)
    tell(
        f"{work}, 8 at once",
        f"{eight:.1f} s, bare loop {bare_eight:.1f} s",
        eight / bare_eight,
        "at most 1.5 times",
        eight / bare_eight <= 1.5,
    )


def bench_limits() -> None:
    """Runs under several windows, against the least possible time."""
    for windows, pages in (
        ([(12, 1.0), (90, 10.0)], 300),
        ([(40, 1.0)], 300),
        ([(15, 1.0), (30, 5.0), (60, 15.0)], 120),
    ):
        took, least, refused = limits_kept(windows, pages, 8)
        told = " and ".join(f"{calls} in {seconds:g} s" for calls, seconds in windows)
        tell(
            f"{pages} calls, {told}",
            f"{took:.1f} s, least possible {least:.1f} s, {refused} refused",
            took / least,
            "within 5 %, none refused",
            took / least <= 1.05 and not refused,
        )


def bench_million(pages: int = 1000, size: int = 1000) -> None:
    """A refresh of a million rows by a program that serves its interface meanwhile."""
    found = million_rows(pages, size)
    work = f"refresh of {found['rows']:,} rows"
    tell(
        f"{work}, memory",
        f"{found['peak_mb']:.0f} MB at its peak, {found['seconds']:.0f} s",
        found["peak_mb"] / 500,
        "under 500 MB",
        found["peak_mb"] < 500,
    )
    tell(
        f"interface during {work}",
        f"{found['p95'] * 1000:.0f} ms for 95 %, {found['worst'] * 1000:.0f} ms at worst",
        found["p95"] / 0.1,
        "100 ms for 95 %",
        found["p95"] <= 0.1,
    )


def bench_many() -> None:
    """The interface of a program with much to do."""
    found = many_queries()
    size = f"{found['bytes'] / 1e6:.1f} MB"
    tell("2,000 queries with 30 snapshots each: the desk's data", f"{found['desk'] * 1000:.0f} ms, {size}",
         found["desk"] / 0.15, "150 ms, so 1.00", found["desk"] <= 0.15)  # fmt: skip
    tell("2,000 queries: the page until rows are in sight", f"{found['page'] * 1000:.0f} ms",
         found["page"] / 0.5, "500 ms, so 1.00", found["page"] <= 0.5)  # fmt: skip
    found = many_schedules()
    told = f"{found['p95'] * 1000:.0f} ms for 95 %, {found['worst'] * 1000:.0f} ms at worst, of {found['asked']:.0f}"
    tell(f"interface during {found['refreshes']:.0f} refreshes of 200 schedules in one minute", told,
         found["p95"] / 0.15, "150 ms for 95 %", found["p95"] <= 0.15)  # fmt: skip
    found = large_export()
    told = (
        f"{found['p95'] * 1000:.0f} ms for 95 %, {found['worst'] * 1000:.0f} ms at worst, in {found['seconds']:.0f} s"
    )
    tell("interface during a workbook export of 1,000,000 rows", told, found["p95"] / 0.15, "150 ms for 95 %",
         found["p95"] <= 0.15)  # fmt: skip
    found = hostile_files()
    tell(f"interface while {found['files']:.0f} hostile sheets are read", f"{found['worst'] * 1000:.0f} ms at worst",
         found["worst"] / 0.2, "200 ms, so 1.00", found["worst"] <= 0.2)  # fmt: skip


def bench_strangers(seeds: int = 1000) -> None:
    """Made-up APIs, met from the docs' example alone: proposals accepted, “Is there more?” used where it is offered."""
    found = strangers_met(seeds)
    for line in table_of(found):
        print(f"    {line}")
    counts = Counter(one.kind for one in found)
    silent, alarms = counts["silent"] / seeds, counts["false alarm"] / seeds
    tell(f"{seeds} made-up APIs, silently short", f"{counts['silent']}", silent, "none", silent == 0)
    tell(f"{seeds} made-up APIs, false alarms", f"{counts['false alarm']}", alarms, "under 1 %", alarms < 0.01)
    tellable, right = told_apart(found)
    share = right / tellable
    tell(f"{tellable} of them that can be told", f"{right} are right", share, "95 %", share >= 0.95)


def bench_looking() -> None:
    """A change of reading, a large answer as a tree, and a million rows as somebody looks at them."""
    read = saved_reading()
    sight, first = read.pop("sight"), read.pop("first")
    work = "another reading of 100,000 saved records"
    tell(f"{work}, in sight", f"{sight * 1000:.0f} ms", sight / 0.1, "100 ms, so 1.00", sight <= 0.1)
    tell(f"{work}, whole, answers not at hand", f"{first:.2f} s", first / 1.5, "1.5 s, so 1.00", first <= 1.5)
    each = ", ".join(f"{name} {took:.2f} s" for name, took in read.items())
    slowest = max(read.values())
    tell(f"{work}, whole", each, slowest / 1.5, "1.5 s, so 1.00", slowest <= 1.5)
    size, opened, searched = large_answer()
    told = f"{opened:.2f} s, searched in {searched:.2f} s"
    tell(f"an answer of {size:.0f} MB opened as a tree", told, opened, "under a second", opened < 1)
    found = million_rows_seen()
    work = "1,000,000 rows of 20"
    tell(f"{work}: any window of 200", f"{found['window'] * 1000:.0f} ms", found["window"] / 0.05, "50 ms, so 1.00",
         found["window"] <= 0.05)  # fmt: skip
    slowest = max(found["sorted"], found["sorted text"])
    tell(f"{work}: sorted for the first time", f"numbers {found['sorted']:.2f} s, texts {found['sorted text']:.2f} s",
         slowest / 1.5, "1.5 s, so 1.00", slowest <= 1.5)  # fmt: skip
    tell(f"{work}: sorted, each further window", f"{found['then'] * 1000:.0f} ms", found["then"] / 0.05,
         "50 ms, so 1.00", found["then"] <= 0.05)  # fmt: skip
    others = ", ".join(f"{name} {found[name]:.1f} s" for name in ("filtered", "found", "profile"))
    tell(f"{work}: others", others, found["filtered"] / 1.5, "1.5 s to filter, so 1.00", found["filtered"] <= 1.5)


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
                    db,
                    query.id,
                    run,
                    table,
                    match=["c0"],
                    state="complete",
                    evidence="",
                    stated_total=None,
                    now=NOW + timedelta(days=day),
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


def bench_worked() -> None:
    """Work-out lines on 100,000 and on 1,000,000 rows, and the same line over thirty dates."""
    small = worked_lines(100_000)["column"]
    measured = f"first {small.first * 1000:.0f} ms, whole {small.own:.2f} s"
    tell("a computed column, 100,000 rows", measured, small.own / 0.4, "100 ms and 0.4 s", small.own < 0.4)
    large = worked_lines(1_000_000)
    wanted = {"column": ("a computed column", 3.0), "count": ("count and sum by two columns", 1.5),
              "bring": ("bring in from 10,000 rows", 3.0)}  # fmt: skip
    for name, (words, seconds) in wanted.items():
        one = large[name]
        measured = f"{one.own:.2f} s, {one.megabytes:.0f} MB more; pandas {one.frame:.2f} s"
        measured += f"; plain SQL {one.plain:.2f} s" if one.plain else ""
        reached = one.own < seconds and one.own < one.frame and one.megabytes < 300
        tell(f"{words}, 1,000,000 rows", measured, one.own / one.frame, f"{seconds} s, under pandas", reached)
    one_date, all_dates = many_dates()
    measured = f"{one_date:.2f} s one, {all_dates:.2f} s thirty"
    tell("a label over 30 dates, 1 % changed", measured, all_dates / one_date, "under 5", all_dates < 5 * one_date)


def bench_handed() -> None:
    """Handing on: workbooks of others, live addresses, OData."""
    own, new, own_few, anew = workbook_fed()
    measured = f"{own:.1f} s, a new one {new:.1f} s"
    tell("a workbook fed, 100,000 x 20", measured, own / new, "half of XlsxWriter", own <= new / 2)
    measured = f"{own_few:.2f} s, openpyxl {anew:.1f} s"
    tell("a workbook fed, 10,000 x 20", measured, own_few / anew, "a tenth of openpyxl", own_few <= anew / 10)
    megabytes = memory_of_feeding()
    tell("memory of feeding 100,000 x 20", f"{megabytes:.0f} MB more", megabytes / 300, "300 MB", megabytes < 300)
    # A server is a process of its own, which holds nothing of the works before.
    with ProcessPoolExecutor(1, get_context("spawn")) as pool:
        read = pool.submit(live_tables).result()
    measured = f"{read.csv:.1f} s, first {read.first_byte * 1000:.0f} ms, csv alone {read.plain_csv:.1f} s"
    reached = read.csv <= 5 and read.first_byte <= 0.1 and read.csv <= 2 * read.plain_csv
    tell("CSV of 1,000,000 rows, streamed", measured, read.csv / read.plain_csv, "5 s, 100 ms, twice csv", reached)
    measured = f"first {read.page:.2f} s, next {read.next_page * 1000:.0f} ms"
    reached = read.page <= 1.5 and read.next_page <= 0.1
    tell("OData, 1,000 of 1,000,000, filtered, sorted", measured, read.page / 1.5, "1.5 s, 100 ms", reached)
    tell("a 304", f"{read.known * 1000:.1f} ms", read.known / 0.005, "5 ms", read.known <= 0.005)


def bench_unattended() -> None:
    """What scripts wait for."""
    help_, listed = start_up("--help"), start_up("list", "--help")
    measured = f"--help {help_:.2f} s, list --help {listed:.2f} s"
    tell("start-up of the command", measured, max(help_, listed) / 0.4, "0.4 s", max(help_, listed) <= 0.4)
    for pages in (200, 1000):
        run, script = headless(pages)
        reached = run.seconds <= script.seconds * 1.05 and run.memory <= max(250.0, script.memory)
        measured = f"{run.seconds:.1f} s, {run.memory:.0f} MB; script {script.seconds:.1f} s, {script.memory:.0f} MB"
        ratio = run.seconds / script.seconds
        tell(f"a whole run of {pages:,} pages to {pages * 300:,} rows of CSV", measured, ratio, "the script", reached)
    first, once, second, again = asked_twice(500)
    assert (again.report.tally.unchanged, again.rows) == (again.calls, once.rows)
    measured = (
        f"{first:.1f} s, {once.report.tally.bytes / 1e6:.1f} MB; again {second:.1f} s, "
        f"{again.report.tally.unchanged:,} of {again.calls:,} calls 304, {again.report.tally.bytes:,} bytes"
    )
    tell("500 pages with ETags, refreshed again", measured, second / first, "no slower", second <= first)
    own, plain = workbook_written()
    tell(
        "a workbook of 60,000 x 29", f"{own:.1f} s, XlsxWriter {plain:.1f} s", own / plain, "a third", own <= plain / 3
    )


def bench_history() -> None:
    """A year of dates, thousands of dates, and two unlike tables."""
    year = a_year()
    naive = 365 * year.table
    tell("the story of a row over 365 snapshots", f"{year.story:.2f} s", year.story / 0.1, "100 ms", year.story <= 0.1)
    measured = f"{year.figure:.2f} s, a column of each {naive:.0f} s"
    tell("a sum over 365 snapshots of 100,000 rows", measured, year.figure / naive, "2 s", year.figure <= 2)
    measured = f"{year.old_date * 1000:.0f} ms"
    tell("the first rows of any date", measured, year.old_date / 0.15, "150 ms", year.old_date <= 0.15)
    many = thousands_of_dates()
    measured = ", ".join(f"{name} {seconds * 1000:.0f} ms" for name, seconds in many.items())
    reached = many["desk"] <= 0.15 and many["line"] <= 0.2
    tell("3,000 snapshots of a query", measured, many["line"] / 0.2, "desk 150 ms, time line 200 ms", reached)
    unlike = unlike_tables()
    measured = f"{unlike.seconds:.1f} s, first rows {unlike.first * 1000:.0f} ms, filtered by a value"
    measured += (
        f" {unlike.filtered * 1000:.0f} ms, {unlike.megabytes:.0f} MB more; pandas from CSV {unlike.frame:.1f} s"
    )
    reached = (
        unlike.filtered <= 0.3
        and unlike.seconds <= 4
        and unlike.megabytes <= 500
        and unlike.frame >= 4 * unlike.seconds
    )
    wanted = "4 s, 500 MB, 4 times as fast"
    tell("two unlike tables of 1,000,000 x 20", measured, unlike.frame / unlike.seconds, wanted, reached)


def bench_charts() -> None:
    """The numbers of a line."""
    line = a_line()
    measured = f"{line.first * 1000:.0f} ms when nothing was read, {line.part * 1000:.0f} ms for a part of it,"
    measured += f" {line.size / 1000:.0f} kB"
    reached = line.first <= 0.3 and line.part <= 0.1
    tell("a line of 100,000 points", measured, line.first / 0.3, "300 ms, then 100 ms", reached)


def bench_reports() -> None:
    """A report, read anew, again and as of another date."""
    read = a_report()
    measured = f"{read.first:.2f} s when nothing was read, {read.again * 1000:.0f} ms again,"
    measured += f" {read.then:.2f} s as of another date, a file of {read.size / 1e6:.2f} MB"
    reached = read.first <= 1 and read.again <= 0.15 and read.then <= 1 and read.size <= 1.5e6
    wanted = "1 s, 150 ms, 1 s, 1.5 MB"
    tell("a report of 8 figures and 4 exhibits over 100,000 rows", measured, read.first, wanted, reached)


WORKS = {
    "flatten": bench_flatten,
    "refresh": bench_refresh,
    "snapshots": bench_snapshots,
    "limits": bench_limits,
    "looking": bench_looking,
    "million": bench_million,
    "many": bench_many,
    "strangers": bench_strangers,
    "worked": bench_worked,
    "handed": bench_handed,
    "unattended": bench_unattended,
    "history": bench_history,
    "charts": bench_charts,
    "reports": bench_reports,
}


def main() -> None:
    """Measure everything, or the works that are named, and print the table."""
    print("measuring; each line is a ratio within this run", flush=True)
    for name, work in WORKS.items():
        if not sys.argv[1:] or name in sys.argv[1:]:
            work()
    printed = Printed("work", "measured", "ratio", "wanted", "reached")
    for work_name, measured, ratio, wanted, reached in lines:
        printed.add_row(work_name, measured, ratio, wanted, "yes" if reached else "no")
    Console().print(printed)


if __name__ == "__main__":
    main()
