"""A comparison is narrowed to the changes that matter: by way, by amount, by percent, the largest first."""

import json
from datetime import timedelta

import pytest

from tests.conftest import NOON

THEN = {"a": 10.0, "b": 20, "c": 0, "d": "soon", "e": 5, "f": 100}
NOW = {"a": 12.5, "b": 15, "c": 3, "d": "late", "e": 5, "f": 101}


@pytest.fixture
def ids(awkward, ask_awkward, workspace):
    """Two dates of prices."""
    kept = []
    for day, prices in enumerate((THEN, NOW)):
        rows = [{"id": name, "price": price, "seen": day} for name, price in prices.items()]
        body = json.dumps({"data": rows, "total": len(rows)}).encode()
        awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, body)
        run = ask_awkward(
            moment=NOON + timedelta(days=day),
            take={"records": "$.data[*]"},
            pages={"by": "none", "total": "$.total"},
            keep={"match": ["id"]},
        )
        kept.append(run.snapshot_id)
    return {"then": kept[0], "now": kept[1]}


@pytest.mark.parametrize(
    ("choice", "names"),
    [
        ({}, "abcdf"),
        ({"way": "up"}, "acf"),
        ({"way": "down"}, "b"),
        ({"least": 2}, "abc"),
        ({"way": "up", "least": 10, "measure": "percent"}, "ac"),
        ({"least": 24.9, "measure": "percent"}, "abc"),
        ({"way": "up", "least": 25, "measure": "percent"}, "c"),
        ({"order": "size"}, "bcafd"),
        ({"way": "up", "order": "size"}, "caf"),
        ({"way": "up", "order": "size", "measure": "percent"}, "caf"),
    ],
)
def test_changes_are_found_by_their_size(client, ids, choice, names):
    found = client.get("/api/compare/rows", params={**ids, "column": "price", **choice}).json()
    assert (found["total"], "".join(row["now"][0] for row in found["rows"])) == (len(names), names)
    first = client.get("/api/compare/rows", params={**ids, "column": "price", **choice, "count": 0}).json()
    assert (first["total"], first["rows"]) == (len(names), [])
    # A window in the middle of it is cut from the same order.
    window = client.get("/api/compare/rows", params={**ids, "column": "price", **choice, "start": 1, "count": 2}).json()
    assert "".join(row["now"][0] for row in window["rows"]) == names[1:3]


@pytest.mark.parametrize(
    "choice", [{"way": "sideways"}, {"least": -1}, {"least": "much"}, {"measure": "feet"}, {"order": "random"}]
)
def test_what_is_no_choice_is_refused(client, ids, choice):
    assert client.get("/api/compare/rows", params={**ids, "column": "price", **choice}).status_code == 422


def test_without_a_column_there_is_nothing_to_measure(client, ids):
    found = client.get("/api/compare/rows", params={**ids, "way": "up", "least": 2}).json()
    assert found["total"] == 6
