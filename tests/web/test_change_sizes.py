"""A comparison is narrowed to the changes that matter: by way, by amount, by percent, the largest first."""

import csv
import io
import json
from datetime import timedelta
from urllib.parse import unquote

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


def lines_of(client, **choice):
    answer = client.get("/api/compare/table.csv", params=choice)
    assert answer.status_code == 200, answer.text
    return list(csv.reader(io.StringIO(answer.text)))


def test_what_differs_is_taken_away_as_it_is_seen(client, ids):
    head, *rows = lines_of(client, **ids)
    assert head == ["change", "id", "price", "seen", "id, before", "price, before", "seen, before"]
    assert [row[0] for row in rows] == ["changed"] * 6
    assert rows[0] == ["changed", "a", "12.5", "1", "", "10.0", "0"]
    _, *rows = lines_of(client, **ids, column="price", way="up", order="size")
    assert [row[1] for row in rows] == list("caf")
    assert lines_of(client, **ids, show="new") == [head]
    told = client.get("/api/compare/table.xlsx", params={**ids, "column": "price"})
    assert told.content[:2] == b"PK"
    name = unquote(told.headers["content-disposition"])
    assert name.endswith(", price.xlsx")
    assert name.count("12.00") == 2


def test_of_what_cannot_be_taken_it_is_said_why(client, ids):
    for wrong, kind in (({"column": "prize"}, "column-unknown"), ({"then": 999}, "snapshot-unknown")):
        refused = client.get("/api/compare/table.csv", params={**ids, **wrong})
        assert refused.status_code in (404, 422)
        assert refused.json()["kind"] == kind
    refused = client.get("/api/compare/table.wks", params=ids)
    assert refused.json()["kind"] == "format-unknown"


def test_no_two_columns_of_the_file_have_one_name(awkward, ask_awkward, client):
    kept = []
    for day in range(2):
        rows = [{"id": 1, "change": day, "change, before": "x", "hidden": day}]
        awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, json.dumps({"data": rows}).encode())
        run = ask_awkward(
            moment=NOON + timedelta(days=day),
            take={
                "records": "$.data[*]",
                "columns": [{"name": name, "place": f"$['{name}']"} for name in rows[0] if name != "hidden"]
                + [{"name": "secret", "place": "$.hidden", "hidden": True}],
            },
            pages={"by": "none"},
            keep={"match": ["id"]},
        )
        kept.append(run.snapshot_id)
    told = client.get("/api/compare/table.json", params={"then": kept[0], "now": kept[1]}).json()
    assert told == [
        {
            "change 2": "changed",
            "id": 1,
            "change": 1,
            "change, before": "x",
            "id, before": None,
            "change, before 2": 0,
            "change, before, before": None,
        }
    ]


def texts(row, hidden=()):
    """What is seen of a row of the merged table: its cells, and what the changed ones were."""
    cells = [*(row["now"] or row["then"]), *((row["then"] or ()) if row["state"] == "changed" else ())]
    return [str(cell).casefold() for at, cell in enumerate(cells) if cell is not None and at not in hidden]


@pytest.mark.parametrize("show", ["differs", "new", "gone", "changed", "same", "all"])
@pytest.mark.parametrize("text", ["SO", "late", "2", "12.5", "15", " a ", "x", "%", ""])
def test_rows_are_found_by_what_is_seen_now_or_was_then(client, varied, show, text):
    every = client.get("/api/compare/rows", params={**varied, "show": show, "count": 2000}).json()["rows"]
    found = client.get("/api/compare/rows", params={**varied, "show": show, "find": text, "count": 2000}).json()
    wanted = [row for row in every if any(text.strip().casefold() in cell for cell in texts(row))]
    assert found["rows"] == wanted
    assert found["total"] == len(wanted)
    if text:
        head, *rows = lines_of(client, **varied, show=show, find=text)
        assert (head[0], len(rows)) == ("change", len(wanted))


@pytest.fixture
def varied(awkward, ask_awkward):
    """Two dates, with rows that are new, gone, changed and the same."""
    tables = (
        {"a": 10.0, "b": 20, "c": "soon", "gone-2": "x%", "same": 12.5},
        {"a": 12.5, "b": 15, "c": "late", "new-2": "So", "same": 12.5},
    )
    kept = []
    for day, prices in enumerate(tables):
        rows = [{"id": name, "price": price} for name, price in prices.items()]
        awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, json.dumps({"data": rows}).encode())
        run = ask_awkward(
            moment=NOON + timedelta(days=day),
            take={"records": "$.data[*]"},
            pages={"by": "none"},
            keep={"match": ["id"]},
        )
        kept.append(run.snapshot_id)
    return {"then": kept[0], "now": kept[1]}


def test_a_text_is_found_among_what_rose(client, ids):
    choice = {"column": "price", "way": "up", "order": "size"}
    found = client.get("/api/compare/rows", params={**ids, **choice, "find": "0"}).json()
    # 0 → 3, 10.0 → 12.5 and 100 → 101 each have it, the largest first.
    assert [row["now"][0] for row in found["rows"]] == ["c", "a", "f"]
    found = client.get("/api/compare/rows", params={**ids, **choice, "find": "101"}).json()
    assert [row["now"][0] for row in found["rows"]] == ["f"]


def test_the_rows_of_a_group_are_those_that_it_counts(client, ids):
    told = client.get("/api/compare/groups", params={**ids, "grouped_by": "price"}).json()
    assert told["values"] == len(told["groups"]) == 6
    for one in told["groups"]:
        choice = {"group": "price", "value": one["value"]}
        rows = client.get("/api/compare/rows", params={**ids, **choice}).json()
        assert rows["total"] == one["new"] + one["gone"] + one["changed"] == 1
        assert str(rows["rows"][0]["now"][1]) == one["value"]
        assert len(lines_of(client, **ids, **choice)) == 2
    assert client.get("/api/compare/groups", params={**ids, "grouped_by": "none"}).json()["kind"] == "column-unknown"
    only = client.get("/api/compare/groups", params={**ids, "grouped_by": "seen", "column": "price"}).json()["groups"]
    assert only == [{"value": "1", "new": 0, "gone": 0, "changed": 5}]


def test_what_the_changes_of_a_column_come_to(client, ids):
    told = client.get("/api/compare/totals", params={**ids, "column": "price"}).json()
    assert (told["then"], told["now"], told["changed"], told["others"]) == (135.0, 136.5, 1.5, 2)
    assert (told["came"], told["went"], sum(told["counts"])) == (0, 0, 4)
    assert (told["edges"][0], told["edges"][-1]) == (-5, 3)
    assert client.get("/api/compare/totals", params={**ids, "column": "none"}).json()["kind"] == "column-unknown"
