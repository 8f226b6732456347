"""Charts: how long the numbers of a line take, and those of a part of it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np

from tin_bucket.core.table.table import Table, TableColumn

from .history import _query
from .many import _snapshot, _workspace
from .serving import served


@dataclass(frozen=True, slots=True)
class Line:
    """Seconds for a line of a table that nobody has looked at, for a part of it afterwards, and the size of the answer
    in bytes."""

    first: float
    part: float
    size: int


def a_line(height: int = 100_000) -> Line:
    """A line of so many points, five minutes apart."""
    chance = np.random.default_rng(4)
    begin = datetime(2026, 1, 1, tzinfo=UTC)
    data = [
        [(begin + timedelta(minutes=5 * at)).isoformat() for at in range(height)],
        np.cumsum(chance.normal(size=height)).round(3).tolist(),
    ]
    columns = [TableColumn("at", "date and time"), TableColumn("level", "decimal", unit="m")]
    table = Table(columns, data, np.zeros(height, dtype=np.int64), np.arange(height, dtype=np.int64))
    with _workspace() as workspace:
        number = _snapshot(workspace, _query(workspace, "Tides"), table, datetime.now(UTC))
        home = workspace.home
        workspace.close()
        with served(home) as client:
            body = {"snapshot": number, "chart": {"draw": "line", "x": "at", "y": ["level"]}, "width": 900}
            first, answer = client.posted("/api/table/chart", body)
            start = begin.timestamp() * 1000
            parts = [
                client.posted("/api/table/chart", {**body, "within": [start + at * 1e8, start + at * 1e8 + 2e9]})[0]
                for at in range(5)
            ]
    return Line(first, min(parts), len(answer))
