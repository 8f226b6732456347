"""Looking at tables and answers, and at what is saved of them, over the API."""

import json

import pytest

from tests.web.test_api import run_of
from tin_bucket.engine.tables.formulas import formula_cells

RECORDS = [
    {"id": "007", "n": 3, "at": 1763962800, "l": [{"p": 1}, {"p": 2}]},
    {"id": "010", "n": None, "at": 1763966400, "l": []},
    {"id": "021", "at": 1763970000, "l": [{"p": 3}]},
]


@pytest.fixture
def asked(client, awkward):
    """A query that was refreshed once; its number and its run."""

    def serve(document, path="/d"):
        awkward.answers[path] = (200, {"Content-Type": "application/json"}, json.dumps(document).encode())

    serve({"d": RECORDS})
    client.post("/api/services", json={"service": {"id": "n", "name": "Awkward", "base": awkward.base}})
    brief = {"name": "q", "ask": {"service": "awkward", "path": "/d"}, "take": {"records": "$.d[*]"},
             "keep": {"match": ["id"]}}  # fmt: skip
    number = client.post("/api/queries", json={"brief": brief}).json()["id"]
    run_of(client, number)
    run = client.get("/api/runs").json()[0]
    return number, run, serve


def brief_of(client, number):
    return client.get(f"/api/queries/{number}").json()["brief"]


def test_a_table_is_looked_at_in_other_ways(client, asked):
    _, run, _ = asked
    table = {"snapshot": run["snapshot_id"]}
    view = {"sort": [{"column": "n", "down": True}], "where": [{"by": "text", "column": "id", "text": "0"}]}
    seen = client.post("/api/table/rows", json={**table, "view": view}).json()
    assert [row[0] for row in seen["rows"]] == ["007", "010", "021"]
    found = client.post("/api/table/find", json={**table, "text": "01"}).json()
    assert (found["total"], found["cells"]) == (1, [[1, 0]])
    profile = client.post("/api/table/profile", json={**table, "column": "n"}).json()
    assert (profile["rows"], profile["filled"], profile["nulls"]) == (3, 1, 1)
    guess = client.post("/api/table/profile", json={**table, "column": "at"}).json()["guesses"][0]
    assert (guess["kind"], guess["reads"]["dates"]) == ("date and time", "seconds")
    unknown = client.post("/api/table/profile", json={**table, "column": "no such"})
    assert (unknown.status_code, unknown.json()["kind"]) == (422, "column-unknown")


def test_a_tried_table_is_traced_and_its_answer_told_as_a_tree(client, asked, awkward):
    number, _, _ = asked
    brief = brief_of(client, number)
    brief["take"]["rows_for"] = ["$.l"]
    made = len(awkward.seen)
    body = {"brief": brief, "query_id": number}
    assert client.post(f"/api/queries/{number}/at-hand", json=body).status_code == 204
    preview = client.post(f"/api/queries/{number}/reread", json=body).json()
    assert (preview["rows"], preview["pages"]) == (4, 1)
    cell = client.post("/api/table/trace", json={"preview": preview["id"], "row": 3, "column": 3}).json()
    assert (cell["column"], cell["value"], cell["pointer"], cell["excerpt"]["lit"]) == ("l.p", 3, "/d/2/l/0/p", "3")
    answer = f"/api/previews/{preview['id']}/answers/0"
    nodes = client.get(f"{answer}/nodes", params={"pointer": "/d", "start": 1}).json()
    assert (nodes["node"]["size"], [one["name"] for one in nodes["children"]]) == (3, [1, 2])
    found = client.get(f"{answer}/search", params={"text": "021"}).json()
    assert [one["steps"] for one in found["found"]] == [["d", 2, "id"]]
    assert json.loads(client.get(f"{answer}/text").json()["text"]) == {"d": RECORDS}
    for pointer, kind in (("d", "pointer-unreadable"), ("/x", "nothing-there")):
        assert client.get(f"{answer}/nodes", params={"pointer": pointer}).json()["kind"] == kind
    assert client.get(f"/api/previews/{preview['id']}/answers/1/nodes").json()["kind"] == "preview-gone"
    assert (
        client.post("/api/table/trace", json={"preview": 999, "row": 0, "column": 0}).json()["kind"] == "preview-gone"
    )
    assert len(awkward.seen) == made


def test_a_rule_for_errors_holds_for_answers_that_are_saved(client, asked, awkward):
    number, run, _ = asked
    body = {"brief": brief_of(client, number), "query_id": number}
    first = client.post(f"/api/queries/{number}/reread", json=body).json()
    assert first["problem"] is None
    assert client.get(f"/api/runs/{run['id']}/calls/1/nodes").json()["node"]["kind"] == "object"
    service = client.get("/api/services").json()[0]["service"]
    rules = {**service, "error_rules": [{"at": "$.d[?@.n == 3]"}]}
    assert client.put(f"/api/services/{service['id']}", json={"service": rules}).status_code == 200
    again = client.post(f"/api/queries/{number}/reread", json=body).json()
    assert again["problem"]["kind"] == "error-inside"
    # The answer itself is told all the same.
    assert client.get(f"/api/previews/{again['id']}/answers/0/nodes").json()["children"][0]["name"] == "d"


def test_saved_answers_are_read_anew_taken_out_and_cleared(client, asked, awkward):
    number, run, _ = asked
    made = len(awkward.seen)
    brief = brief_of(client, number)
    saved = client.get(f"/api/queries/{number}/saved").json()
    assert [(one["run_id"], one["calls"]) for one in saved["runs"]] == [(run["id"], 1)]
    own = client.post(f"/api/queries/{number}/own-table", json={"brief": brief, "place": "$.l"})
    assert (own.status_code, own.json()["brief"]["name"], own.json()["latest"]["rows"]) == (201, "q, l", 4)
    brief["take"]["columns"] = [{"place": "$.id", "name": "code"}]
    brief["keep"]["match"] = ["code"]
    detail = client.get(f"/api/queries/{number}").json()
    client.put(f"/api/queries/{number}", json={"brief": brief, "brief_id": detail["brief_id"]})
    rebuilt = client.post(f"/api/runs/{run['id']}/rebuild").json()
    assert (rebuilt["snapshot"]["rows"], rebuilt["absent"]) == (3, [])
    assert rebuilt["snapshot"]["rebuilt"]
    rows = client.post("/api/table/rows", json={"snapshot": run["snapshot_id"]}).json()["rows"]
    assert rows == [["007"], ["010"], ["021"]]
    assert client.delete(f"/api/queries/{number}/saved").json()["runs"] == []
    gone = client.post(f"/api/runs/{run['id']}/rebuild")
    assert (gone.status_code, gone.json()["kind"]) == (422, "answers-gone")
    assert client.post(f"/api/queries/{number}/reread", json={"brief": brief}).json() is None
    assert len(awkward.seen) == made


def test_formulas_in_a_table_are_said_and_quoted_when_asked(client, workspace, awkward, ask_awkward):
    rows = [
        {"id": "1", "note": "=1+1"},
        {"id": "2", "note": "-3"},
        {"id": "3", "note": 'a "=b'},
        {"id": "+A1", "n": -4},
    ]
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, json.dumps({"data": rows}).encode())
    snapshot = ask_awkward().snapshot_id
    told = client.get(f"/api/snapshots/{snapshot}/formulas").json()
    assert told == {"cells": 2, "more": False, "columns": ["note", "id"], "example": "=1+1"}
    plain = client.get(f"/api/snapshots/{snapshot}/table.csv").text
    assert plain.splitlines()[1:] == ["1,,=1+1", "2,,-3", '3,,"a ""=b"', "+A1,-4,"]
    quoted = client.get(f"/api/snapshots/{snapshot}/table.csv?formulas_as_text=true").text
    assert quoted.splitlines()[1:] == ["1,,'=1+1", "2,,-3", '3,,"a ""=b"', "'+A1,-4,"]
    assert formula_cells(workspace.snapshots, snapshot, most=1)[1] is True
