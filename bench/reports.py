"""Reports: how long one takes to be read, anew, again, and as of another date; and how large its file is."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from tin_bucket.core.table.table import Table, TableColumn

from .history import _query
from .many import _snapshot, _workspace
from .serving import served

_ROUTES = [f"Route {at}" for at in range(12)]
_STATES = ["arrived", "late", "planned", "cancelled"]


@dataclass(frozen=True, slots=True)
class Read:
    """Seconds for a report of eight figures and four exhibits over two tables that nobody has looked at, for the same
    again, and as of another date; and the bytes of its file."""

    first: float
    again: float
    then: float
    size: int


def a_report(height: int = 100_000) -> Read:
    """A report over two tables of so many rows, of three dates each, 1 % changed each time."""
    now = datetime.now(UTC).replace(microsecond=0)
    with _workspace() as workspace:
        queries = []
        for name in ("Sailings", "Fares"):
            query = _query(workspace, name)
            queries.append(query)
            for day in range(3):
                _snapshot(workspace, query, _table(height, day), now - timedelta(days=7 * (2 - day)))
        home = workspace.home
        workspace.close()
        with served(home) as client:
            body = {"report": _report(*queries), "width": 960}
            first, answer = client.posted("/api/reports/read", body)
            assert b"missing" not in answer
            again = min(client.posted("/api/reports/read", body)[0] for _ in range(5))
            earlier = {**body, "as_of": (now - timedelta(days=7)).isoformat()}
            then, _ = client.posted("/api/reports/read", earlier)
            _, page = client.posted("/api/reports/page", body)
    return Read(first, again, then, len(page))


def _table(height: int, day: int) -> Table:
    chance = np.random.default_rng(5)
    begin = datetime(2026, 1, 1, tzinfo=UTC)
    fare = chance.uniform(10, 60, height).round(2)
    changed = np.random.default_rng(day).choice(height, height // 100, replace=False)
    fare[changed] += day
    states = chance.choice(len(_STATES), height, p=[0.7, 0.15, 0.1, 0.05])
    routes = chance.choice(len(_ROUTES), height)
    data: list[Any] = [
        [f"s{at}" for at in range(height)],
        [(begin + timedelta(minutes=5 * at)).isoformat() for at in range(height)],
        [_ROUTES[at] for at in routes.tolist()],
        [_STATES[at] for at in states.tolist()],
        np.abs(chance.normal(5, 6, height)).round().astype(np.int64).tolist(),
        fare.tolist(),
    ]
    columns = [
        TableColumn("c0", "text"), TableColumn("departs", "date and time"), TableColumn("route", "text"),
        TableColumn("status", "text"), TableColumn("delay", "whole number", unit="min"),
        TableColumn("fare", "decimal", unit="SKC"),
    ]  # fmt: skip
    return Table(columns, data, np.zeros(height, dtype=np.int64), np.arange(height, dtype=np.int64))


def _report(one: int, other: int) -> dict[str, Any]:
    late = {"by": "between", "column": "delay", "low": "11"}
    figures: list[dict[str, Any]] = [
        {"tells": "amount", "name": "sailings", "query": one},
        {"tells": "share", "name": "late", "query": one, "meet": [late]},
        {"tells": "leading", "name": "worst", "query": one, "by": "route", "figure": "mean", "column": "delay"},
        {"tells": "amount", "name": "fare", "query": one, "figure": "mean", "column": "fare"},
        {"tells": "moves", "name": "moved", "query": one, "what": "rose and fell", "column": "fare"},
        {"tells": "amount", "name": "routes", "query": one, "figure": "different", "column": "route"},
        {"tells": "amount", "name": "other fare", "query": other, "figure": "median", "column": "fare"},
        {"tells": "date", "name": "last", "query": other, "which": "last", "column": "departs"},
    ]
    said = " ".join("{" + figure["name"] + "}" for figure in figures)
    line = {"draw": "line", "x": "departs", "y": ["delay"], "figure": "mean", "period": "week", "series": "route"}
    blocks: list[dict[str, Any]] = [
        {"block": "text", "text": f"{said} {{fare: change}} {{late: change}}"},
        {"block": "chart", "query": one, "chart": line},
        {"block": "chart", "query": other, "chart": {"draw": "bars", "x": "route", "y": ["fare"], "figure": "mean"}},
        {"block": "table", "query": other, "rows": 20, "sort": [{"column": "fare", "down": True}]},
        {"block": "changes", "query": one, "rows": 5},
    ]
    return {"title": "A report", "figures": figures, "blocks": blocks, "against": "P7D"}
