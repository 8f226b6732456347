"""Handing on, against the plain ways: a new workbook, a workbook that is read and written anew, Python's csv."""

from __future__ import annotations

import csv
import io
import json
import random
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
import openpyxl
import xlsxwriter
from fastapi.testclient import TestClient

from tin_bucket.core.document.query import load_brief
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.engine.work_out.source import MemoryTable
from tin_bucket.feeds.workbook.columns import Memory
from tin_bucket.feeds.workbook.feed import feed_workbook
from tin_bucket.feeds.workbook.target import Manner, Target
from tin_bucket.store.workspace import Workspace
from tin_bucket.web.app import create_app

from .worked import memory_table, rows, timed

_COLUMNS = 20


def wide_rows(height: int) -> MemoryTable:
    """A table of 20 columns: texts, numbers, dates."""
    made = random.Random(5)
    columns: list[TableColumn] = []
    data: list[list[Any]] = []
    for at in range(_COLUMNS):
        kind = ("text", "whole number", "decimal", "date", "text")[at % 5]
        columns.append(TableColumn(f"c{at}", kind))  # type: ignore[arg-type]
        if kind == "text":
            data.append([f"word {made.randrange(5000)}" for _ in range(height)])
        elif kind == "whole number":
            data.append([made.randrange(10**6) for _ in range(height)])
        elif kind == "decimal":
            data.append([made.random() * 100 for _ in range(height)])
        else:
            data.append([f"2026-{made.randrange(1, 13):02}-{made.randrange(1, 28):02}" for _ in range(height)])
    return MemoryTable(("wide",), columns, data, height)


def new_workbook(table: MemoryTable, path: Path) -> None:
    """A new workbook, as XlsxWriter writes it fastest."""
    book = xlsxwriter.Workbook(path, {"constant_memory": True, "strings_to_urls": False})
    sheet = book.add_worksheet("Data")
    sheet.write_row(0, 0, [column.name for column in table.columns])
    for at in range(0, table.height, 4096):
        for number, row in enumerate(table.window(at, 4096), at + 1):
            sheet.write_row(number, 0, row)
    book.close()


def fed(table: MemoryTable, path: Path, out: Path) -> None:
    """The workbook, fed."""
    with path.open("rb") as old, out.open("wb") as new:
        feed_workbook(old, new, "x", Target("Data", "A1", "", "TinBucket_1"), Memory(), table, Manner())


def read_and_written(table: MemoryTable, path: Path, out: Path) -> None:
    """The workbook read by openpyxl, its cells set, and written anew."""
    book = openpyxl.load_workbook(path)
    sheet = book["Data"]
    for number, row in enumerate(table.window(0, table.height), 2):
        for at, value in enumerate(row, 1):
            sheet.cell(number, at, value)
    book.save(out)


def workbook_fed(height: int = 100_000, small: int = 10_000) -> tuple[float, float, float, float]:
    """Seconds of feeding and of a new workbook, of `height` rows; feeding and reading and writing anew, of `small`."""
    with tempfile.TemporaryDirectory() as folder:
        path, out = Path(folder) / "a.xlsx", Path(folder) / "b.xlsx"
        table = wide_rows(height)
        new = timed(lambda: new_workbook(table, path))
        # The first feed names the place, and later ones find it: the usual case.
        fed(table, path, out)
        own = timed(lambda: fed(table, out, Path(folder) / "c.xlsx"))
        few = wide_rows(small)
        new_workbook(few, path)
        fed(few, path, out)
        own_few = timed(lambda: fed(few, out, Path(folder) / "d.xlsx"))
        anew = timed(lambda: read_and_written(few, out, Path(folder) / "e.xlsx"))
    return own, new, own_few, anew


def memory_of_feeding(height: int = 100_000) -> float:
    """Megabytes that a process needs for feeding, beyond those of the table and the program."""
    program = f"""
import sys
from pathlib import Path
from bench.handed import fed, new_workbook, wide_rows
from bench.memory import peak_mb
path = Path(sys.argv[1])
if len(sys.argv) > 2:
    new_workbook(wide_rows({height}), path)
else:
    table, small = wide_rows({height}), wide_rows(10)
    new_workbook(small, path.with_name("s.xlsx"))
    fed(small, path.with_name("s.xlsx"), path.with_name("t.xlsx"))
    before = peak_mb()
    fed(table, path, path.with_name("b.xlsx"))
    print(peak_mb() - before)
"""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-c", program, str(Path(folder) / "a.xlsx")]
        subprocess.run([*command, "new"], check=True)
        done = subprocess.run(command, capture_output=True, text=True, check=True)
    return float(done.stdout)


@dataclass(frozen=True, slots=True)
class Read:
    """Live addresses of a table of so many rows, in seconds."""

    first_byte: float
    csv: float
    plain_csv: float
    page: float
    next_page: float
    known: float


def live_tables(height: int = 1_000_000) -> Read:
    """CSV that is streamed, a page of OData that is filtered and sorted, the next page, and a 304."""
    columns = rows(height)
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "home", create=True)
        now = datetime.now(UTC)
        brief = {
            "name": "Sailings", "sheet": {"sheet": "none"}, "hand_over": [{"to": "address", "name": "sailings"}],
            "keep": {"match": ["id"]},
        }  # fmt: skip
        query = workspace.queries.add(load_brief(brief), now)
        _store(workspace, query.id, columns, now)
        key = workspace.readers.add("bench", now)[1]
        plain = _plain_csv(columns)
        with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
            client.headers = {"Authorization": f"Bearer {key}", "Accept-Encoding": "identity"}
            client.get("/tables/sailings.csv", params={"on": now.date().isoformat()}, headers={"If-None-Match": "*"})
            first, whole = _streamed(client)
            tag = client.head("/tables/sailings.csv").headers["ETag"]
            known = min(
                timed(lambda: client.get("/tables/sailings.csv", headers={"If-None-Match": tag})) for _ in range(5)
            )
            asked = "/odata/sailings?$filter=delay gt 10 and status eq 'arrived'&$orderby=price desc,id&$top=5000"
            start = time.perf_counter()
            found = client.get(asked)
            page = time.perf_counter() - start
            link = json.loads(found.text)["@odata.nextLink"]
            next_page = timed(lambda: client.get(link))
        workspace.close()
    return Read(first, whole, plain, page, next_page, known)


def _plain_csv(columns: dict[str, list[Any]]) -> float:
    held = list(zip(*columns.values(), strict=True))
    return timed(lambda: csv.writer(io.StringIO(newline="")).writerows(held))


def _streamed(client: Any) -> tuple[float, float]:
    start = time.perf_counter()
    first = 0.0
    with client.stream("GET", "/tables/sailings.csv") as answer:
        for _ in answer.iter_raw():
            first = first or time.perf_counter() - start
    return first, time.perf_counter() - start


def _store(workspace: Workspace, query_id: int, columns: dict[str, list[Any]], now: datetime) -> None:
    table = memory_table("sailings", columns)
    places = np.arange(table.height, dtype=np.int64)
    made = Table(list(table.columns), [list(values) for values in columns.values()], np.zeros_like(places), places)
    run = workspace.runs.begin(query_id, "{}", {}, "by hand", now)
    with workspace.write() as db:
        workspace.snapshots.add(
            db, query_id, run, made, match=["id"], state="complete", evidence="", stated_total=table.height, now=now
        )
