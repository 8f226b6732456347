"""Runs, calls, previews and comparisons over the API."""

import json

import pytest
from aiohttp import web

from tests.web.test_api import run_of

JSON = {"Content-Type": "application/json"}


@pytest.fixture
def query(client, awkward):
    """A query on the awkward service, by its number; its brief is made of the given parts."""

    def make(**parts):
        client.post(
            "/api/services", json={"service": {"id": "n", "name": "Awkward", "base": awkward.base, "timeout": 5}}
        )
        brief = {"name": "q", "ask": {"service": "awkward", "path": "/d"}, "take": {"records": "$.d[*]"}, **parts}
        return client.post("/api/queries", json={"brief": brief}).json()["id"]

    return make


def serve(awkward, path, document, status=200):
    awkward.answers[path] = (status, JSON, json.dumps(document).encode())


def test_the_history_tells_runs_and_their_calls(client, awkward, query):
    number = query(
        look_up=[{"name": "p", "path": "/p/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}]
    )
    serve(awkward, "/d", {"d": [{"p": "1"}, {"p": "2"}]})
    serve(awkward, "/p/1", {"n": "one"})
    serve(awkward, "/p/2", {"error": "gone"}, 404)
    last, told = run_of(client, number)
    assert last["state"] == "unverified"
    assert [tile["state"] for summary in told for tile in summary["tiles"]] == ["answered", "answered", "missing"]
    run = client.get("/api/runs", params={"query": number}).json()[0]
    assert (run["state"], run["calls"], run["rows"], run["cause"]) == ("unverified", 3, 2, "by hand")
    calls = client.get(f"/api/runs/{run['id']}/calls").json()
    assert [(c["stage"], c["label"], c["status"]) for c in calls] == [
        ("pages", "", 200), ("look up p", "1", 200), ("look up p", "2", 404),
    ]  # fmt: skip
    answer = client.get(f"/api/runs/{run['id']}/calls/3/nodes").json()
    assert answer["children"] == [{"name": "error", "kind": "text", "size": 4, "text": "gone"}]
    assert client.get(f"/api/runs/{run['id']}/calls/9/nodes").json()["kind"] == "answer-gone"
    # A run of the past tells its end at once to whoever listens.
    again = client.get(f"/api/runs/{run['id']}/events").text
    assert '"state":"unverified"' in again
    rows = client.get(f"/api/snapshots/{run['snapshot_id']}/rows").json()["rows"]
    assert rows == [["1", "one"], ["2", {"miss": "none", "words": "not found"}]]


def test_what_is_not_json_is_shown_as_text(client, awkward, query):
    number = query()
    awkward.answers["/d"] = (200, {"Content-Type": "text/html"}, b"<html><title>Sign in</title>")
    last, _ = run_of(client, number)
    assert last["problem"]["kind"] == "web-page"
    run = client.get("/api/runs").json()[0]
    answer = client.get(f"/api/runs/{run['id']}/calls/1/text").json()
    assert answer == {"text": "<html><title>Sign in</title>", "size": 28, "more": False}
    assert client.get(f"/api/runs/{run['id']}/calls/1/nodes").json()["kind"] == "not-json"
    detail = client.get(f"/api/queries/{number}").json()
    assert detail["last_run"]["problem"]["words"] == "Sign in"
    assert (detail["latest"], detail["dates"]) == (None, 0)


def test_long_answers_are_told_part_by_part_and_searched(client, awkward, query):
    number = query()
    serve(awkward, "/d", {"d": [{"n": n, "text": "x" * 5000} for n in range(300)], "big": 2**60, "a/b~c": {"<b>": 1}})
    run_of(client, number)
    run = client.get("/api/runs").json()[0]
    answer = f"/api/runs/{run['id']}/calls/1"
    root = client.get(f"{answer}/nodes").json()
    assert root["node"] == {"name": None, "kind": "object", "size": 3, "text": ""}
    assert [(one["name"], one["kind"], one["size"]) for one in root["children"]] == [
        ("d", "list", 300), ("big", "number", 0), ("a/b~c", "object", 1),
    ]  # fmt: skip
    assert (root["children"][0]["text"], root["children"][1]["text"]) == ("objects", str(2**60))
    some = client.get(f"{answer}/nodes", params={"pointer": "/d", "start": 250, "count": 100}).json()["children"]
    assert [one["name"] for one in some] == list(range(250, 300))
    text = client.get(f"{answer}/nodes", params={"pointer": "/d/7"}).json()["children"][1]
    assert (text["size"], len(text["text"])) == (5000, 2000)
    odd = client.get(f"{answer}/nodes", params={"pointer": "/a~1b~0c"}).json()["children"]
    assert odd == [{"name": "<b>", "kind": "number", "size": 0, "text": "1"}]
    found = client.get(f"{answer}/search", params={"text": "299"}).json()
    assert found == {"total": 1, "found": [{"steps": ["d", 299, "n"], "what": "value", "text": "299"}]}
    many = client.get(f"{answer}/search", params={"text": "TEXT"}).json()
    assert (many["total"], len(many["found"]), many["found"][0]["what"]) == (300, 300, "name")
    for pointer, kind in (("/d/300", "nothing-there"), ("d", "pointer-unreadable")):
        assert client.get(f"{answer}/nodes", params={"pointer": pointer}).json()["kind"] == kind


def test_a_comparison_across_a_column_that_came(client, awkward, query):
    number = query(keep={"match": ["id"]})
    serve(awkward, "/d", {"d": [{"id": 1, "a": 5}, {"id": 2, "a": 6}]})
    then, _ = run_of(client, number)
    serve(awkward, "/d", {"d": [{"id": 1, "a": 7.5, "b": "x"}, {"id": 3, "a": 1, "b": "y"}]})
    now, _ = run_of(client, number)
    ids = {"then": then["snapshot_id"], "now": now["snapshot_id"]}
    found = client.get("/api/compare", params=ids).json()
    assert found["counts"] == {"same": 0, "new": 1, "gone": 1, "changed": 1, "alike": 0}
    assert (found["new_columns"], found["gone_columns"], found["match"]) == (["b"], [], ["id"])
    assert found["columns"] == [{"name": "a", "unit": "", "cells": 1, "rose": 1, "fell": 0, "mean": 2.5}]
    rows = client.get("/api/compare/rows", params=ids).json()
    assert rows["total"] == 3
    assert rows["rows"] == [
        {"state": "changed", "now": [1, 7.5, "x"], "then": [1, 5, None], "changed": [1], "alike": []},
        {"state": "gone", "now": None, "then": [2, 6, None], "changed": [], "alike": []},
        {"state": "new", "now": [3, 1, "y"], "then": None, "changed": [], "alike": []},
    ]
    only = client.get("/api/compare/rows", params={**ids, "column": "a"}).json()
    assert [row["state"] for row in only["rows"]] == ["changed"]
    for wrong, status in (({"show": "bogus"}, 422), ({"column": "bogus"}, 422), ({"reading": "bogus"}, 422)):
        refused = client.get("/api/compare/rows", params={**ids, **wrong})
        assert refused.status_code == status, wrong
        assert refused.json()["do"]
    back = client.get("/api/compare", params={"then": ids["now"], "now": ids["then"]}).json()
    assert (back["new_columns"], back["gone_columns"]) == ([], ["b"])
    for show, total in (("new", 1), ("same", 0), ("all", 3)):
        assert client.get("/api/compare/rows", params={**ids, "show": show}).json()["total"] == total
    assert client.get("/api/compare", params={"then": 98, "now": 99}).json()["kind"] == "snapshot-unknown"


def test_a_table_that_is_not_whole_is_marked_wherever_it_is(client, awkward, query):
    number = query(pages={"by": "none", "total": "$.total"})
    serve(awkward, "/d", {"total": 118, "d": [{"a": n} for n in range(25)]})
    last, _ = run_of(client, number)
    assert (last["state"], last["rows"], last["stated_total"]) == ("incomplete", 25, 118)
    desk = client.get("/api/desk").json()
    assert desk["queries"][0]["latest"]["state"] == "incomplete"
    assert desk["attention"][0]["what"] == "25 of 118 stated rows are here."
    assert client.get(f"/api/queries/{number}").json()["latest"]["state"] == "incomplete"


def test_reading_only_the_first_pages_says_so(client, awkward, query):
    number = query(pages={"by": "number", "last_page": "$.pages"})

    async def page(request):
        number = int(request.query["page"])
        return web.json_response({"pages": 4, "d": [{"n": number}, {"n": -number}][: 1 + (number < 4)]})

    awkward.answers["/d"] = page
    run_of(client, number)
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    some = client.post(f"/api/queries/{number}/reread", json={"brief": brief, "most": 2}).json()
    assert (some["pages"], some["pages_read"], some["rows"]) == (4, 1, 2)
    whole = client.post(f"/api/queries/{number}/reread", json={"brief": brief, "preview": some["id"]}).json()
    assert (whole["pages_read"], whole["rows"], whole["run_id"]) == (4, 7, 1)
    assert [call["label"] for call in whole["calls"]] == [f"page {n}" for n in range(1, 5)]
    assert len(awkward.seen) == 4


def test_nothing_is_read_anew_when_no_answers_are_kept(client, query):
    number = query()
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    response = client.post(f"/api/queries/{number}/reread", json={"brief": brief})
    assert (response.status_code, response.json()) == (200, None)


def test_a_run_is_stopped_over_the_api(client, desk, operations):
    operations.pause = 0.2
    number = desk["Sailings by route"].id
    run_id = client.post(f"/api/queries/{number}/refresh", json={}).json()["run_id"]
    assert client.post(f"/api/queries/{number}/refresh", json={}).json()["kind"] == "already-running"
    assert client.get(f"/api/queries/{number}").json()["running"] == run_id
    assert client.post(f"/api/runs/{run_id}/cancel").json() == {"stopped": True}
    with client.stream("GET", f"/api/runs/{run_id}/events") as events:
        told = [json.loads(line[6:]) for line in events.iter_lines() if line.startswith("data: ")]
    assert told[-1]["state"] == "cancelled"
    assert client.post(f"/api/runs/{run_id}/cancel").json() == {"stopped": False}
    assert client.get("/api/desk").json()["attention"] == []


def test_deleting_a_query_that_is_being_refreshed_stops_it(client, desk, operations):
    operations.pause = 0.2
    number = desk["Sailings by route"].id
    client.post(f"/api/queries/{number}/refresh", json={})
    assert client.delete(f"/api/queries/{number}").status_code == 204
    assert client.get(f"/api/queries/{number}").status_code == 404
    assert client.get("/api/runs").json() == []


def test_names_of_downloads_hold_any_character(client, awkward, query):
    number = query(name="Fähre / “heute”")
    serve(awkward, "/d", {"d": [{"ä": "ö"}]})
    last, _ = run_of(client, number)
    response = client.get(f"/api/snapshots/{last['snapshot_id']}/table.csv")
    assert response.content.decode() == "ä\r\nö\r\n"
    assert "F%C3%A4hre%20-%20" in response.headers["content-disposition"]
    unknown = client.get(f"/api/snapshots/{last['snapshot_id']}/table.pdf").json()
    assert (unknown["kind"], unknown["do"]) == (
        "format-unknown",
        "Use xlsx, csv, tsv, ods, json, jsonl, parquet or html.",
    )


def test_a_comparison_says_when_another_question_was_asked(client, desk):
    number = desk["Fares, week ahead"].id
    then, _ = run_of(client, number, {"route": "harl-oxnith", "from": "2026-11-25"})
    now, _ = run_of(client, number, {"route": "hesta-quern", "from": "2026-11-26"})
    same, _ = run_of(client, number, {"route": "hesta-quern"})
    ids = [one["snapshot_id"] for one in (then, now, same)]
    found = client.get("/api/compare", params={"then": ids[0], "now": ids[1]}).json()
    assert found["asked_otherwise"] == [{"name": "route", "then": "harl-oxnith", "now": "hesta-quern"}]
    assert client.get("/api/compare", params={"then": ids[1], "now": ids[2]}).json()["asked_otherwise"] == []


def test_a_runs_calls_are_taken_out_as_an_archive_without_the_key(client, desk, refresh, operations):
    run = refresh(desk["Ports"].id)
    response = client.get(f"/api/runs/{run.id}/har")
    assert response.headers["content-disposition"] == f'attachment; filename="run-{run.id}.har"'
    assert operations.key not in response.text
    entry = response.json()["log"]["entries"][0]
    assert {"name": "X-Skerrywick-Key", "value": "••••"} in entry["request"]["headers"]
    assert json.loads(entry["response"]["content"]["text"])["data"]
    # A whole run lacks nothing that could be asked for again.
    refused = client.post(f"/api/runs/{run.id}/resume")
    assert (refused.status_code, refused.json()["kind"]) == (409, "run-complete")


def test_what_a_refresh_will_cost_is_told(client, desk):
    brief = desk["Ports"].brief.model_dump(mode="json", by_alias=True)
    told = client.post("/api/plan", json={"brief": brief, "values": {}, "query_id": desk["Ports"].id}).json()["cost"]
    assert (told["calls"], told["basis"], told["warning"]) == (1, "one call", "")


def test_a_comparison_says_so_too_of_a_list_of_values(client, awkward, query):
    number = query(parameters=[{"name": "routes", "kind": "text", "many": True, "default": ["r1"]}])
    serve(awkward, "/d", {"d": [{"id": 1}]})
    then, _ = run_of(client, number, {"routes": ["r1", "r2"]})
    now, _ = run_of(client, number)
    ids = {"then": then["snapshot_id"], "now": now["snapshot_id"]}
    found = client.get("/api/compare", params=ids).json()
    assert found["asked_otherwise"] == [{"name": "routes", "then": ["r1", "r2"], "now": ["r1"]}]
