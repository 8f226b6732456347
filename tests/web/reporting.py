"""A query with several dates, and reports of it."""

import json
from datetime import timedelta

import pytest

from tests.conftest import NOON

JSON = {"Content-Type": "application/json"}


def rows(day):
    """Fares of a day: ten of them, of which one is new each day and one is gone, and two cost more."""
    return [
        {
            "sku": f"s{n}",
            "route": "ab"[n % 2],
            "fare": 10.0 + n + (1.5 if n in (day + 1, day + 9) else 0),
            "day": f"2026-11-{n + 1:02}",
        }
        for n in range(day, day + 10)
    ]


@pytest.fixture
def dated(client, ask_awkward, awkward):
    """A query with tables of 11 days, the last one of noon; its number."""
    for day in range(11):
        awkward.answers["/data"] = (200, JSON, json.dumps({"data": rows(day)}).encode())
        run = ask_awkward(moment=NOON - timedelta(days=10 - day), keep={"match": ["sku"]})
        assert run.state != "failed"
    return run.query_id


def report(query, *blocks, figures=(), **parts):
    """A report as a document."""
    return {
        "title": "Fares this week",
        "figures": [{"query": query, **one} for one in figures],
        "blocks": [{"query": query, **one} if one["block"] != "text" else one for one in blocks],
        **parts,
    }


def read(client, document, **asked):
    """What a report says."""
    answer = client.post("/api/reports/read", json={"report": document, **asked})
    assert answer.status_code == 200, answer.text
    return answer.json()


MEAN = {"tells": "amount", "name": "mean fare", "figure": "mean", "column": "fare"}
ROWS = {"tells": "amount", "name": "fares"}
TEXT = {"block": "text", "text": "There are {fares}, {fares: change}. They cost {mean fare}, {mean fare: change}."}
LINE = {"block": "chart", "chart": {"draw": "line", "x": "day", "y": ["fare"]}}
TABLE = {"block": "table", "columns": ["sku", "fare"], "rows": 12, "marks": [{"column": "fare", "value": "28"}]}
CHANGES = {"block": "changes", "rows": 3}
