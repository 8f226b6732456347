"""Queries that start from tables, and values of one table that another one is asked for."""

import asyncio
import json
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.waiting import LeapingClock
from tests.web.conftest import client_of
from tin_bucket.commands.target import Target
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.references import queries_named
from tin_bucket.core.interchange.bundle import bundle_text
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.work_out.made_of import made_of
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.engine.workspace.transfer import export_bundle, import_bundle
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.store.workspace import Workspace

TOP = {"do": "first", "rows": 2, "by": [{"column": "fare", "down": True}]}


def start(*names, **more):
    return {"tables": [{"query": name} for name in names], **more}


def table(workspace, name):
    found = WorkOut(workspace).newest(name)
    return [column.name for column in found.columns], found.window(0, 100)


def test_a_query_starts_from_another_and_stores_nothing(workspace, add, serve, refresh):
    serve("/a", [{"id": 1, "fare": 5}, {"id": 2, "fare": 9}, {"id": 3, "fare": 7}])
    add("Fares", "/a")
    dear = add("Dear", start=start("Fares"), work_out=[TOP])
    run = refresh(dear.id)
    assert (run.state, run.records, run.calls, run.snapshot_id) == ("unverified", 3, 1, None)
    assert table(workspace, "Dear") == (["id", "fare"], [(2, 9), (3, 7)])
    assert workspace.snapshots.of_query(dear.id) == []
    assert [one.rows for one in WorkOut(workspace).timeline(dear)] == [3]


def test_a_chain_is_refreshed_in_order_and_each_query_once(workspace, awkward, add, serve, refresh):
    for path in ("/a", "/b"):
        serve(path, [{"id": 1, "fare": 5}])
    add("A", "/a")
    add("B", "/b")
    add("Both", start=start("A", "B", whose="of"))
    bring = {
        "do": "bring",
        "table": {"query": "A"},
        "match": [{"theirs": "id", "ours": "id"}],
        "columns": [{"column": "fare", "name": "again"}],
    }
    end = add("End", start=start("Both"), work_out=[bring])
    awkward.seen.clear()
    run = refresh(end.id)
    assert [path for path, _ in awkward.seen] == ["/a", "/b"]
    assert run.calls == 2
    assert table(workspace, "End") == (["id", "fare", "of", "again"], [(1, 5, "A", 5), (1, 5, "B", 5)])
    chain = made_of(workspace, WorkOut(workspace), end)
    assert [(one.name, one.starts, [inner.name for inner in one.of]) for one in chain] == [
        ("Both", True, ["A", "B"]),
        ("A", False, []),
    ]


def test_one_that_fails_does_not_keep_the_others_from_theirs(workspace, add, serve, refresh, awkward):
    serve("/b", [{"id": 1}])
    awkward.answers["/a"] = (404, {}, b"")
    add("A", "/a")
    add("B", "/b")
    both = add("Both", start=start("A", "B"))
    run = refresh(both.id)
    assert run.state == "incomplete"
    assert run.report.gaps[0].startswith("“A” is incomplete: ")
    assert len(workspace.snapshots.of_query(workspace.queries.find("B").id)) == 1


def test_a_circle_is_refused_before_anything_is_asked(workspace, add, serve, refresh, awkward):
    serve("/a", [{"id": 1}])
    add("A", "/a")
    one = add("One", start=start("A"))
    add("Two", start=start("One"))
    workspace.queries.save(
        one.id, one.brief.model_copy(update={"start": load_brief({"name": "x", "start": start("Two")}).start}), NOON
    )
    awkward.seen.clear()
    with pytest.raises(ProblemError, match="“One” → “Two” → “One”"):
        refresh(one.id)
    assert awkward.seen == []
    with pytest.raises(ProblemError, match="would be made of itself"):
        table(workspace, "One")


def test_its_dates_are_those_of_what_it_starts_from_and_compare(workspace, add, serve, refresh):
    add("A", "/a", keep={"match": ["id"]})
    top = add(
        "Top",
        start=start("A"),
        work_out=[{"do": "count", "figures": [{"of": "sum", "column": "fare"}]}],
        keep={"match": []},
    )
    for day in (0, 1, 2):
        serve("/a", [{"id": 1, "fare": day}, {"id": 2, "fare": 10}])
        refresh(top.id, NOON + timedelta(days=day))
    with client_of(workspace) as client:
        detail = client.get(f"/api/queries/{top.id}").json()
        assert detail["dates"] == 3
        assert detail["chain"][0]["name"] == "A"
        ids = client.get(f"/api/queries/{top.id}/timeline").json()["ids"]
        query = {"then": ids[0], "now": ids[2], "query_id": top.id, "show": "all"}
        rows = client.get("/api/compare/rows", params=query).json()["rows"]
        assert [(row["then"], row["now"]) for row in rows] == [([10], None), (None, [12])]
        body = {
            "snapshot": ids[0],
            "query_id": top.id,
            "starts_from": detail["brief"]["start"],
            "lines": detail["brief"]["work_out"],
        }
        assert client.post("/api/table/rows", json=body).json()["rows"] == [[10]]
        trace = client.post("/api/table/trace", json={**body, "lines": [], "row": 1, "column": 1}).json()
        assert (trace["value"], trace["through"], trace["run_id"]) == (10, ["A of 2026-11-25, row 2"], 1 + 1)
        line = next(one for one in client.get("/api/desk").json()["queries"] if one["name"] == "Top")
        assert (line["service"], line["latest"]["rows"], line["snapshots"]) == ("from A", 1, 3)


def test_its_dates_are_read_with_its_brief_of_then(workspace, add, serve, refresh):
    add("A", "/a", keep={"match": ["id"]})
    add("B", "/b", keep={"match": ["id"]})
    keep = {"match": ["id"]}
    query = add("Doubled", start=start("A"), keep=keep)
    for day, lines, of in ((0, [], "A"), (1, [{"do": "column", "name": "more", "expression": "fare * 2"}], "B")):
        serve("/a", [{"id": 1, "fare": day}])
        serve("/b", [{"id": 1, "fare": 100 + day}])
        brief = load_brief({"name": "Doubled", "start": start(of), "work_out": lines, "keep": keep})
        # The brief of a date is the one that was saved before the snapshot was taken.
        workspace.queries.save(query.id, brief, NOON + timedelta(days=day))
        for name in "AB":
            refresh(workspace.queries.find(name).id, NOON + timedelta(days=day, hours=1))
    old, new = (workspace.snapshots.of_query(workspace.queries.find("B").id)[at].id for at in (0, 1))
    with client_of(workspace) as client:
        query = {"then": old, "now": new, "query_id": query.id, "show": "all"}

        def compared(reading):
            rows = client.get("/api/compare/rows", params={**query, "reading": reading}).json()["rows"]
            return [(row["then"], row["now"]) for row in rows]

        assert compared("today") == [([1, 100, 200], [1, 101, 202])]
        assert compared("taken") == [([1, 100], [1, 101])]
        assert compared("then") == [([1, 0, None], [1, 101, 202])]
        asked = client.get(f"/api/snapshots/{old}/then", params={"query_id": query["query_id"]}).json()
        assert (asked["lines"], asked["start"]["tables"][0]["query"]) == ([], "A")


def test_its_rows_match_as_those_of_what_it_starts_from(workspace, add, serve, refresh):
    for name, path in (("A", "/a"), ("B", "/b")):
        add(name, path, keep={"match": ["id"]}, work_out=[{"do": "column", "name": "twice", "expression": "fare * 2"}])
    both = add("Both", start=start("A", "B", whose="of"))
    one = add("One", start=start("A"), work_out=[{"do": "first", "rows": 1, "by": [{"column": "fare"}]}])
    count = add("Count", start=start("Both"), work_out=[{"do": "count", "by": [{"column": "of"}]}])
    further = add("Further", start=start("One"))
    blind = add("Blind", start=start("A", "B"))
    for day in (0, 1):
        serve("/a", [{"id": 1, "fare": 5 + day}, {"id": 2, "fare": 10}])
        serve("/b", [{"id": 1, "fare": 7}])
        for name in "AB":
            refresh(workspace.queries.find(name).id, NOON + timedelta(days=day))
    with client_of(workspace) as client:

        def compared(query):
            dates = client.get(f"/api/queries/{query.id}/timeline").json()["ids"]
            asked = {"then": dates[0], "now": dates[-1], "query_id": query.id}
            found = client.get("/api/compare", params=asked).json()
            return found["match"], found["counts"]["changed"]

        assert compared(both) == (["id", "of"], 1)
        assert compared(one) == compared(further) == (["id"], 1)
        assert compared(count) == (["of"], 0)
        assert compared(blind) == ([], 0)


def test_a_sheet_is_what_a_query_starts_from(workspace, add, refresh):
    workspace.sheets.save("Codes", "c.csv", SheetSettings(), ["code"], 2, b"code\n007\n015\n", NOON)
    query = add("Own", start={"tables": [{"sheet": "Codes"}], "whose": "of"})
    assert refresh(query.id).state == "complete"
    assert table(workspace, "Own") == (["code", "of"], [("007", "Codes"), ("015", "Codes")])
    assert workspace.sheets.used_by("Codes") == ["Own"]


def test_a_table_of_a_sheet_has_no_date_and_is_exported_and_worked_out_once(workspace, add, serve, refresh, tmp_path):
    workspace.sheets.save("Codes", "c.csv", SheetSettings(), ["code"], 2, b"code\n007\n015\n", NOON)
    serve("/fares", [{"code": "007", "fare": 5}])
    fares = add("Fares", "/fares")
    refresh(fares.id, NOON + timedelta(days=400_000))  # Later than this machine's clock.
    bring = {"do": "bring", "table": {"query": "Fares"}, "match": [{"theirs": "code", "ours": "code"}],
             "columns": [{"column": "fare"}]}  # fmt: skip
    query = add("Dear", start={"tables": [{"sheet": "Codes"}]}, work_out=[bring])
    assert [row[:2] for row in table(workspace, "Dear")[1]] == [("007", 5), ("015", Miss("none", "no match"))]
    with client_of(workspace) as client:
        lines = client.get(f"/api/queries/{query.id}").json()["brief"]["work_out"]
        told = client.get(f"/api/queries/{query.id}/table.csv", params={"lines": json.dumps(lines)})
        assert told.text.split() == ["code,fare", "007,5", "015,"]
        plain = client.get(f"/api/queries/{query.id}/table.csv")
        assert plain.text.split() == ["code", "007", "015"]
        refused = client.get(f"/api/queries/{add('Unasked', '/fares').id}/table.csv").json()
        assert refused["what"] == "“Unasked” has no table yet."
    out = tmp_path / "dear.csv"
    Target.of(out, ExportOptions()).write(workspace, query, None)
    assert out.read_text(encoding="utf-8").split() == ["code,fare", "007,5", "015,"]
    clock = SetClock(NOON)
    work = WorkOut(workspace, clock)
    first = work.undated()
    clock.set(NOON + timedelta(minutes=1))
    assert work.undated() == first


def test_the_top_of_one_table_is_asked_for_in_another_in_one_refresh(workspace, awkward, add, serve, refresh):
    serve("/fares", [{"id": "x", "fare": 5}, {"id": "y", "fare": 9}, {"id": "z", "fare": 7}])
    for code in "xyz":
        serve(f"/detail/{code}", [{"name": f"detail of {code}"}])
    add("Fares", "/fares", work_out=[TOP])
    parts = {
        "parameters": [{"name": "code", "kind": "text"}],
        "each": [{"by": "column", "parameter": "code", "query": "Fares", "column": "id", "first": True}],
    }
    details = add("Details", "/detail/{code}", **parts)
    awkward.seen.clear()
    run = refresh(details.id)
    assert run.query_id == details.id
    assert [path for path, _ in awkward.seen] == ["/fares", "/detail/y", "/detail/z"]
    assert sorted(row[0] for row in table(workspace, "Details")[1]) == ["y", "z"]


def test_a_refresh_that_is_begun_twice_is_refused_while_others_come_first(workspace, add, serve):
    serve("/fares", [{"id": "x", "fare": 5}])
    serve("/detail/x", [{"name": "x"}])
    add("Fares", "/fares")
    parts = {
        "parameters": [{"name": "code", "kind": "text"}],
        "each": [{"by": "column", "parameter": "code", "query": "Fares", "column": "id", "first": True}],
    }
    details = add("Details", "/detail/{code}", **parts)

    async def go():
        engine = Engine(workspace, LeapingClock(NOON))
        first = await engine.start(details.id, {}, "by hand")
        assert engine.running()[details.id] == first
        with pytest.raises(ProblemError, match="is being refreshed now"):
            await engine.start(details.id, {}, "by hand")
        ended = await engine.ended(details.id, first)
        await engine.close()
        return ended

    assert asyncio.run(go()).query_id == details.id


def test_a_chain_is_carried_with_all_that_it_is_made_of_and_keeps_its_names(workspace, tmp_path, add, serve, refresh):
    serve("/a", [{"id": 1, "fare": 5}, {"id": 2, "fare": 9}, {"id": 3, "fare": 7}])
    serve("/p", [{"id": 2, "port": "Oxnith"}])
    add("Fares", "/a")
    add("Ports", "/p")
    add("Not wanted", "/a")
    port = {"do": "bring", "table": {"query": "Ports"}, "match": [{"theirs": "id", "ours": "id"}],
            "columns": [{"column": "port"}]}  # fmt: skip
    add("Dear", start=start("Fares"), work_out=[TOP, port])
    bundle = export_bundle(workspace, ["Dear"], NOON)
    assert [one.name for one in bundle.queries] == ["Fares", "Ports", "Dear"]
    document = json.loads(bundle_text(bundle))
    there = Workspace(tmp_path / "there", create=True)
    import_bundle(there, document, {}, NOON)
    # A second time beside the first: the copies read the copies.
    import_bundle(there, document, {f"query {name}": "beside" for name in ("Fares", "Ports", "Dear")}, NOON)
    copy = next(one for one in there.queries.all() if one.name.startswith("Dear") and one.name != "Dear")
    assert set(queries_named(copy.brief)) == {"Fares 2", "Ports 2"}

    async def go():
        engine = Engine(there, LeapingClock(NOON))
        await engine.refresh(copy.id, {}, "by hand")
        await engine.close()

    asyncio.run(go())
    columns, rows = table(there, copy.name)
    assert columns == ["id", "fare", "port"]
    assert [row[:2] for row in rows] == [(2, 9), (3, 7)]
    assert rows[0][2] == "Oxnith"
    there.close()
