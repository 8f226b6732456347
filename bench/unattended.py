"""What scripts wait for: the start of the command, and a new workbook."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats.workbook import write_workbook

from .handed import new_workbook, wide_rows
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
