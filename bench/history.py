"""History in full: a row and a figure through a year, any date, thousands of dates, and two unlike tables."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from multiprocessing import get_context
from pathlib import Path
from urllib.parse import quote

import numpy as np
import pandas

from tin_bucket.core.analysis.difference_size import SizeFilter
from tin_bucket.core.document.query import load_brief
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.row_choice import RowChoice
from tin_bucket.engine.tables.sides import Compared, SideAt
from tin_bucket.store.workspace import Workspace

from .many import _snapshot, _table, _workspace
from .memory import peak_mb
from .serving import served

KEY = quote('["SK-0000042"]')


def _timed(work: Callable[[], object], times: int = 3) -> float:
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def _query(workspace: Workspace, name: str) -> int:
    brief = {"name": name, "ask": {"service": "s", "path": "/s"}, "keep": {"match": ["c0"]}}
    return workspace.queries.add(load_brief(brief), datetime(2025, 1, 1, tzinfo=UTC)).id


@dataclass(frozen=True, slots=True)
class Year:
    """Seconds for the story of a row, a sum on every date, one whole table, and the first rows of an old date."""

    story: float
    figure: float
    table: float
    old_date: float


def a_year(days: int = 365, height: int = 100_000) -> Year:
    """A row and a sum over so many snapshots with 1 % changed each."""
    chance = np.random.default_rng(5)
    with _workspace() as workspace:
        query = _query(workspace, "Stock")
        table, start = _table(height), datetime.now(UTC) - timedelta(days=days)
        numbers = []
        for day in range(days):
            for at in chance.integers(0, height, height // 100):
                table.data[1 + day % 5][int(at)] = int(chance.integers(0, 10_000))
            numbers.append(_snapshot(workspace, query, table, start + timedelta(days=day)))
        one = _timed(lambda: sum(value for value in _column(workspace, numbers[days // 2])))
        home = workspace.home
        workspace.close()
        with served(home) as client:
            story = _timed(lambda: client.get(f"/api/queries/{query}/story?key={KEY}"))
            figure = _timed(lambda: client.get(f"/api/queries/{query}/figure?column=c1&figure=sum"))
            old = _timed(
                lambda: client.post(
                    "/api/table/rows", {"snapshot": numbers[int(chance.integers(days))], "start": 0, "count": 200}
                )
            )
    return Year(story, figure, one, old)


def _column(workspace: Workspace, number: int) -> list[int]:
    found = workspace.snapshots.column(number, "c1")
    assert found is not None
    return list(found[1])


def thousands_of_dates(count: int = 3_000) -> dict[str, float]:
    """Seconds for the desk, the query and its time line, where a query has so many snapshots."""
    chance = np.random.default_rng(3)
    with _workspace() as workspace:
        query = _query(workspace, "Fares")
        table, start = _table(500, 12), datetime.now(UTC) - timedelta(hours=8 * count)
        for at in range(count):
            table.data[1][int(chance.integers(0, 500))] = int(chance.integers(0, 10_000))
            _snapshot(workspace, query, table, start + timedelta(hours=8 * at))
        home = workspace.home
        workspace.close()
        with served(home) as client:
            paths = {"desk": "/api/desk", "query": f"/api/queries/{query}", "line": f"/api/queries/{query}/timeline"}
            return {name: min(client.timed(*[path] * 5)) for name, path in paths.items()}


@dataclass(frozen=True, slots=True)
class Unlike:
    """Seconds for the comparison of two unlike tables, for its first rows, for those whose number rose by more than
    10 %, and of pandas; MB more than before."""

    seconds: float
    first: float
    filtered: float
    megabytes: float
    frame: float


def unlike_tables(height: int = 1_000_000) -> Unlike:
    """Two unlike queries of so many rows, compared by their match column."""
    chance = np.random.default_rng(5)
    with tempfile.TemporaryDirectory() as folder, _workspace() as workspace:
        table, numbers = _table(height, 20), []
        for name in ("A", "B"):
            if name == "B":
                for at in chance.integers(0, height, height // 100):
                    table.data[3][int(at)] = int(chance.integers(0, 10_000))
                table.columns[7] = replace(table.columns[7], name="other")
            numbers.append(_snapshot(workspace, _query(workspace, name), table, datetime.now(UTC)))
            frame = {one.name: values for one, values in zip(table.columns, table.data, strict=True)}
            pandas.DataFrame(frame).to_csv(Path(folder) / f"{name}.csv", index=False)
            del frame
        home = workspace.home
        workspace.close()
        with ProcessPoolExecutor(1, get_context("spawn")) as pool:
            seconds, first, filtered, megabytes = pool.submit(_compared, str(home), numbers).result()
        frames = _timed(lambda: _merged(Path(folder)), 1)
    return Unlike(seconds, first, filtered, megabytes, frames)


def _compared(home: str, numbers: list[int]) -> tuple[float, float, float, float]:
    workspace = Workspace(Path(home))
    comparisons = Engine(workspace).comparisons
    before = peak_mb()
    asked = Compared(SideAt(numbers[0]), SideAt(numbers[1]))
    seconds = _timed(lambda: comparisons.compare(asked), 1)
    first = _timed(lambda: comparisons.window(asked, RowChoice(), 0, 200), 1)
    rose = RowChoice("differs", "c3", SizeFilter("up", 10, "percent"))
    filtered = _timed(lambda: comparisons.window(asked, rose, 0, 200), 1)
    more = peak_mb() - before
    workspace.close()
    return seconds, first, filtered, more


def _merged(folder: Path) -> list[int]:
    then, now = (pandas.read_csv(folder / f"{name}.csv") for name in ("A", "B"))
    both = then.merge(now, on="c0", how="outer", suffixes=("", "_now"), indicator=True)
    shared = [name for name in then.columns[1:] if name in now.columns]
    return [int((both[name] != both[f"{name}_now"]).sum()) for name in shared]
