"""What scripts wait for: the start of the command, a run from the first call to the file, a second refresh of what did
not change, and a new workbook."""

from __future__ import annotations

import asyncio
import json
import os
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.table.table import TableColumn
from tin_bucket.engine.engine import Engine
from tin_bucket.feeds.formats.workbook import write_workbook
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .handed import new_workbook, wide_rows
from .runs import NOW, PAGES, QUERY, server_of
from .worked import timed

COMMAND = [sys.executable, "-m", "tin_bucket.cli"]


def start_up(*args: str) -> float:
    """Seconds that a command takes that does nothing, at best of five times."""
    return min(timed(lambda: subprocess.run([*COMMAND, *args], check=True, capture_output=True)) for _ in range(5))


def workbook_written(height: int = 60_000, width: int = 29) -> tuple[float, float]:
    """Seconds for a new workbook, and for one of XlsxWriter of the same rows."""
    table = wide_rows(height)
    columns = [TableColumn(f"c{at}", table.columns[at % len(table.columns)].kind) for at in range(width)]
    rows = [[row[at % len(row)] for at in range(width)] for row in table.window(0, height)]
    with tempfile.TemporaryDirectory() as folder:
        start = time.perf_counter()
        with (Path(folder) / "own.xlsx").open("wb") as out:
            write_workbook(columns, rows, out, "bench")
        own = time.perf_counter() - start
        plain = timed(lambda: new_workbook(table, Path(folder) / "plain.xlsx"))
    return own, plain * width / len(table.columns)


@dataclass(frozen=True, slots=True)
class Whole:
    """What a whole command took: seconds, and megabytes at most."""

    seconds: float
    memory: float


# A process counts the memory of the one that began it; so a small one begins what is measured.
_MEASURE = """
import resource, subprocess, sys, time
start = time.perf_counter()
subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
print(time.perf_counter() - start, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024)
"""


def whole(command: list[str], environment: dict[str, str]) -> Whole:
    """Run a command to its end."""
    measure = [sys.executable, "-c", _MEASURE, *command]
    told = subprocess.run(measure, env=environment, check=True, capture_output=True, text=True).stdout.split()
    return Whole(float(told[0]), float(told[1]))


def headless(pages: int) -> tuple[Whole, Whole]:
    """A run of a brief file to a CSV, rows for a list of three, and a script with requests and pandas that does the
    same; the quickest of three each."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        # As it is where the program was started before: its modules are compiled.
        environment = {**os.environ, "PYTHONPYCACHEPREFIX": str(folder / "compiled")}
        environment.pop("PYTHONDONTWRITEBYTECODE", None)
        with server_of(pages, 100, folder) as base:
            brief = {**QUERY, "pages": PAGES, "take": {"records": "$.data[*]", "rows_for": ["$.fares"]}}
            services = {"services": [{"id": "bench", "name": "bench", "base": base}]}
            (folder / "brief.json").write_text(json.dumps(brief))
            (folder / "services.json").write_text(json.dumps(services))
            own = [*COMMAND, "run", str(folder / "brief.json"), "--services", str(folder / "services.json")]
            script = [sys.executable, "-m", "bench.script", base, str(pages), str(folder / "script.csv")]
            done = [
                (whole([*own, "--out", str(folder / "own.csv")], environment), whole(script, environment))
                for _ in range(4)
            ][1:]
            rows = [len((folder / name).read_text().splitlines()) for name in ("own.csv", "script.csv")]
            assert rows == [3 * 100 * pages + 1] * 2, rows
    return min((one for one, _ in done), key=_seconds), min((other for _, other in done), key=_seconds)


def _seconds(one: Whole) -> float:
    return one.seconds


def asked_twice(pages: int) -> tuple[float, Run, float, Run]:
    """Seconds of a refresh and of a second one of the same answers, which have an ETag, and their runs."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with server_of(pages, 100, folder) as base:
            workspace = Workspace(folder / "w", create=True)
            workspace.services.save(Service(id="bench", name="bench", base=base))
            query = workspace.queries.add(load_brief({**QUERY, "pages": PAGES}), NOW)

            async def go() -> tuple[float, Run, float, Run]:
                engine = Engine(workspace)
                taken = [time.perf_counter()]
                runs = []
                for _ in range(2):
                    runs.append(await engine.refresh(query.id, {}, "by hand"))
                    taken.append(time.perf_counter())
                await engine.close()
                return taken[1] - taken[0], runs[0], taken[2] - taken[1], runs[1]

            found = asyncio.run(go())
            workspace.close()
    return found
