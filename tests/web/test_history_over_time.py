"""A row's story and a figure over time, told over the API."""

import csv
import json
from datetime import datetime, timedelta
from itertools import pairwise
from urllib.parse import unquote

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.web.test_history import query, run_of, serve  # noqa: F401 a fixture


@pytest.fixture
def days(client, awkward, query):  # noqa: F811
    """Make a date of the query for each list of rows; gives its number and the snapshots."""

    def make(*dates, **parts):
        number = query(**parts)
        taken = []
        clock = client.app.state.context.engine.clock
        for day, rows in enumerate(dates):
            clock.set(NOON + timedelta(days=day))
            serve(awkward, "/d", {"d": rows})
            taken.append(run_of(client, number)[0]["snapshot_id"])
        return number, taken

    return make


def row(sku, fare, **more):
    return {"sku": sku, "fare": fare, **more}


DATES = (
    [row("1", 10.0), row("2", 5)],
    [row("1", 10.0), row("2", 6), row("3", 1)],
    [row("2", 6)],
    [row("1", 12.5), row("2", 7, note="x")],
)


def story(client, number, *key, **more):
    return client.get(f"/api/queries/{number}/story", params={"key": json.dumps(key), **more})


def test_a_row_tells_when_it_came_changed_went_and_came_back(client, days):
    number, taken = days(*DATES, keep={"match": ["sku"]})
    told = story(client, number, "1").json()
    assert [(one["snapshot"], one["what"], one["changes"]) for one in told["events"]] == [
        (taken[0], "came", []),
        (taken[2], "went", []),
        (taken[3], "back", [{"name": "fare", "then": 10.0, "now": 12.5}]),
    ]
    assert (told["dates"], told["there"], told["several"]) == (4, 3, False)
    assert (told["match"], told["values"][:2], told["lines"]) == (["sku"], ["1", 12.5], {"fare": [10, 10, None, 12.5]})
    other = story(client, number, "2").json()
    assert [one["what"] for one in other["events"]] == ["came", "changed", "changed"]
    # A column that came with the table is no change of the row.
    assert [change["name"] for one in other["events"] for change in one["changes"]] == ["fare", "fare"]
    # Where an event is told, the row stands.
    for one in other["events"]:
        seen = client.get(f"/api/snapshots/{one['snapshot']}/rows", params={"start": one["row"], "count": 1}).json()
        assert seen["rows"][0][0] == "2"


def test_what_has_no_story_says_why(client, days):
    number, _ = days(*DATES[:2])
    assert story(client, number, "1").json()["kind"] == "match-missing"
    assert story(client, number, "1", match='["sku"]').json()["there"] == 2
    assert story(client, number, "99", match='["sku"]').json()["kind"] == "row-unknown"
    assert story(client, number, "1", "2", match='["sku"]').json()["kind"] == "row-unknown"
    assert client.get(f"/api/queries/{number}/story", params={"key": "nonsense"}).json()["kind"] == "row-unknown"
    assert story(client, 99, "1").json()["kind"] == "query-unknown"


def test_rows_of_odd_keys_have_their_story(client, days):
    odd = ['"', "ä\\", "\ud83d\ude00", "", "a b"]
    number, _ = days([row(one, 1) for one in odd], [row(one, 2) for one in odd], keep={"match": ["sku"]})
    for one in odd:
        assert [event["what"] for event in story(client, number, one).json()["events"]] == ["came", "changed"], one
    numbers = [1, 2.5, True, None, 10**30, 1e20, 1e-7]
    number, _ = days(
        [row(one, 1) for one in numbers], [row(one, 2) for one in numbers], name="n", keep={"match": ["sku"]}
    )
    for one in numbers:
        told = client.get(f"/api/queries/{number}/story", params={"key": json.dumps([one])}).json()
        assert told.get("there") == 2, (one, told)


def test_an_id_that_a_browser_s_numbers_do_not_hold_comes_as_a_text(client, days):
    ids = [4611686018427387919, 4611686018427387921]
    number, _ = days([row(one, 1) for one in ids], [row(one, 2) for one in ids], keep={"match": ["sku"]})
    assert story(client, number, str(ids[0])).json()["there"] == 2
    assert story(client, number, str(ids[0] + 1)).json()["kind"] == "row-unknown"


def test_a_row_that_a_key_stands_for_several_of_says_so(client, days):
    number, _ = days([row("1", 1), row("1", 2)], keep={"match": ["sku"]})
    assert story(client, number, "1").json()["several"]


def figure(client, number, **asked):
    return client.get(f"/api/queries/{number}/figure", params=asked).json()


def test_a_figure_over_time_is_that_of_each_date(client, days):
    number, taken = days(*DATES, keep={"match": ["sku"]})
    told = figure(client, number, column="fare", figure="sum")
    assert (told["snapshots"], told["values"]) == (taken, [15, 17, 6, 19.5])
    for name, values in {
        "mean": [7.5, 17 / 3, 6, 9.75], "highest": [10, 10, 6, 12.5], "different": [2, 3, 1, 2], "median": [7.5, 6, 6, 9.75], "filled": [2, 3, 1, 2],
    }.items():  # fmt: skip
        assert figure(client, number, column="fare", figure=name)["values"] == pytest.approx(values)
    assert figure(client, number)["values"] == [2, 3, 1, 2]
    note = figure(client, number, column="note", figure="filled")
    assert (note["values"], note["why"][0]) == ([None, None, None, 1], "There is no column “note”.")
    assert figure(client, number, column="bogus", figure="sum")["kind"] == "column-unknown"
    file = client.get(f"/api/queries/{number}/figure.csv", params={"column": "fare", "figure": "sum"})
    lines = list(csv.reader(file.text.splitlines()))
    assert lines[0] == ["date", "sum of fare", "table", "why not"]
    assert [(one[0][:10], float(one[1]), one[2]) for one in lines[1:]] == [
        ("2026-11-25", 15, "unverified"), ("2026-11-26", 17, "unverified"), ("2026-11-27", 6, "unverified"),
        ("2026-11-28", 19.5, "unverified"),
    ]  # fmt: skip
    assert "sum of fare through time" in unquote(file.headers["content-disposition"])
    assert client.get(f"/api/queries/{number}/figure.doc").json()["kind"] == "format-unknown"
    # After some snapshots are deleted, the others tell the same.
    client.post(f"/api/queries/{number}/snapshots/delete", json={"ids": [taken[1]]})
    assert figure(client, number, column="fare", figure="sum")["values"] == [15, 6, 19.5]
    assert [one["what"] for one in story(client, number, "2").json()["events"]] == ["came", "changed", "changed"]


def test_a_figure_of_what_is_worked_out_is_done_for_each_date(client, days):
    keep = {"keep": {"match": ["sku"]}}
    lines = [{"do": "column", "name": "double", "expression": "fare * 2"}]
    number, _ = days(*DATES, work_out=lines, **keep)
    assert figure(client, number, column="double", figure="sum")["values"] == [30, 34, 12, 39]
    assert figure(client, number, column="fare", figure="sum")["values"] == [15, 17, 6, 19.5]


def test_rows_and_figures_are_watched(client, awkward, days):
    number, _ = days(*DATES, keep={"match": ["sku"]})
    watch = {"what": "row", "key": ["2"], "column": "fare"}
    one = client.post("/api/watches", json={"query_id": number, "watch": watch}).json()
    assert (one["value"], one["before"], one["there"], one["points"]) == (7, 6, True, [5, 6, 6, 7])
    assert client.post("/api/watches", json={"query_id": number, "watch": watch}).json()["id"] == one["id"]
    other = {"what": "figure", "figure": "sum", "column": "fare"}
    client.post("/api/watches", json={"query_id": number, "watch": other})
    told = client.get("/api/watches").json()
    assert [(one["query_name"], one["value"], one["before"]) for one in told] == [("q", 7, 6), ("q", 19.5, 6)]
    # A new date is seen at once.
    serve(awkward, "/d", {"d": [row("1", 1.0)]})
    run_of(client, number)
    told = client.get("/api/watches").json()
    assert [(one["there"], one["value"]) for one in told] == [(False, None), (True, 1)]
    gone = {"what": "figure", "figure": "sum", "column": "gone"}
    assert "gone" in client.post("/api/watches", json={"query_id": number, "watch": gone}).json()["problem"]
    for wrong in ({"what": "row"}, {"what": "figure", "figure": "sum"}, {"what": "luck"}):
        assert client.post("/api/watches", json={"query_id": number, "watch": wrong}).status_code == 422
    assert client.post("/api/watches", json={"query_id": 99, "watch": other}).json()["kind"] == "query-unknown"
    client.delete(f"/api/watches/{one['id']}")
    assert len(client.get("/api/watches").json()) == 2
    client.delete(f"/api/queries/{number}")
    assert client.get("/api/watches").json() == []


def started(client, name, *, lines=(), **every):
    """A query that starts from every date of another one; gives its number."""
    start = {"tables": [{"query": name}], "every_date": every}
    brief = {"name": f"{name}, all dates {every} {len(lines)}", "start": start, "work_out": list(lines)}
    return client.post("/api/queries", json={"brief": brief}).json()["id"]


def table_of(client, number, **view):
    detail = client.get(f"/api/queries/{number}").json()
    newest = client.get(f"/api/queries/{number}/timeline").json()["ids"][-1]
    ref = {"snapshot": newest, "query_id": number, "starts_from": detail["brief"]["start"]}
    body = {**ref, "lines": detail["brief"]["work_out"], "start": 0, "count": 1_000, **view}
    return ref, client.post("/api/table/rows", json=body).json()


@pytest.mark.parametrize("worked", [False, True])
def test_every_date_as_a_source_equals_reading_each_snapshot(client, days, worked):
    lines = [{"do": "column", "name": "double", "expression": "fare * 2"}] if worked else []
    dates = (*DATES, [row("1", 1), row("1", 1)], [row("4", 2, note=None, new=3)])
    _, taken = days(*dates, keep={"match": ["sku"]}, work_out=lines)
    number = started(client, "q", days=None, column="day")
    ref, told = table_of(client, number)
    columns = [one["name"] for one in client.get(f"/api/work-out/{number}/columns").json()]
    assert columns[0] == "day"
    wanted = []
    for snapshot in taken:
        moment = client.get(f"/api/snapshots/{snapshot}").json()["taken"]
        names = [one["name"] for one in client.get(f"/api/snapshots/{snapshot}/columns").json()]
        for cells in client.get(f"/api/snapshots/{snapshot}/rows").json()["rows"]:
            values = dict(zip(names, cells, strict=True))
            values |= {"double": values["fare"] * 2} if worked else {}
            wanted.append([moment, *(values.get(name) for name in columns[1:])])
    assert told["rows"] == wanted
    # The column alone, some of its rows, and what is found in it are the same.
    view = {"view": {"where": [{"by": "one of", "column": "sku", "values": ["2"]}]}}
    assert table_of(client, number, **view)[1]["rows"] == [one for one in wanted if one[columns.index("sku")] == "2"]
    # Each cell leads to its own date.
    for at, cells in enumerate(wanted):
        trace = client.post("/api/table/trace", json={**ref, "row": at, "column": columns.index("fare")}).json()
        assert trace["value"] == cells[columns.index("fare")]
        assert cells[0][:10] in trace["through"][0]
    assert client.post("/api/table/trace", json={**ref, "row": 0, "column": 0}).json()["value"] == wanted[0][0]


def test_a_figure_through_time_is_an_ordinary_query(client, days):
    days(*DATES, keep={"match": ["sku"]})
    by_day = {"do": "count", "by": [{"column": "as of"}], "figures": [{"of": "sum", "column": "fare"}]}
    number = started(client, "q", lines=[by_day], days=30)
    told = table_of(client, number)[1]
    sums = figure(client, client.get("/api/desk").json()["queries"][0]["id"], column="fare", figure="sum")["values"]
    assert [cells[-1] for cells in told["rows"]] == sums
    # Of the last days alone there are fewer.
    fewer = started(client, "q", lines=[by_day], days=2)
    assert [cells[-1] for cells in table_of(client, fewer)[1]["rows"]] == sums[-2:]
    brief = {"name": "x", "start": {"tables": [{"query": "q"}, {"query": "q"}], "every_date": {}}}
    assert client.post("/api/queries", json={"brief": brief}).status_code == 422


@pytest.mark.parametrize("worked", [False, True])
def test_each_row_that_was_ever_seen_stays_with_when_it_was_seen(client, days, worked):
    lines = [{"do": "column", "name": "double", "expression": "fare * 2"}] if worked else []
    # An API that forgets: each day has the last two rows alone; of one day nothing is left the next time.
    dates = ([row("1", 1), row("2", 2)], [row("2", 3), row("3", 3)], [row("8", 8), row("9", 9)])
    days(*dates, keep={"match": ["sku"]}, work_out=lines)
    number = started(client, "q", days=None, rows="each once")
    ref, told = table_of(client, number)
    cells = [(one[0], one[1], one[-3][:10], one[-2][:10], one[-1]) for one in told["rows"]]
    assert cells == [
        ("1", 1, "2026-11-25", "2026-11-25", 1),
        ("2", 3, "2026-11-25", "2026-11-26", 2),
        ("3", 3, "2026-11-26", "2026-11-26", 1),
        ("8", 8, "2026-11-27", "2026-11-27", 1),
        ("9", 9, "2026-11-27", "2026-11-27", 1),
    ]
    found = client.get(f"/api/queries/{number}/breaks").json()
    assert [[one[:10] for one in pair] for pair in found] == [["2026-11-26", "2026-11-27"]]
    trace = client.post("/api/table/trace", json={**ref, "row": 1, "column": 1}).json()
    assert trace["value"] == 3
    assert any("2026-11-26" in one for one in trace["through"])
    assert (
        client.post("/api/table/trace", json={**ref, "row": 1, "column": len(told["rows"][0]) - 1}).json()["value"] == 2
    )


def test_what_changed_is_told_for_all_queries_and_since_somebody_looked(client, awkward, days):
    number, _ = days(*DATES, keep={"match": ["sku"]})
    line = client.get("/api/desk").json()["queries"][0]
    assert (line["unseen"], line["matched"]) == (None, True)
    client.post(f"/api/queries/{number}/looked")
    assert client.get("/api/desk").json()["queries"][0]["unseen"] is None
    clock = client.app.state.context.engine.clock
    for day in (10, 11):
        clock.set(NOON + timedelta(days=day))
        serve(awkward, "/d", {"d": [row("1", day)]})
        run_of(client, number)
    unseen = client.get("/api/desk").json()["queries"][0]["unseen"]
    assert (unseen["taken"][:10], unseen["dates"]) == ("2026-11-28", 2)
    told = client.get("/api/changes?days=5").json()
    assert [(one["taken"][:10], one["since"], one["seen"]) for one in told] == [
        ("2026-12-06", {"new": 0, "gone": 0, "changed": 1}, False),
        ("2026-12-05", {"new": 0, "gone": 1, "changed": 1}, False),
    ]
    assert [one["seen"] for one in client.get("/api/changes?days=30").json()] == [False] * 2 + [True] * 4
    client.post(f"/api/queries/{number}/looked")
    assert client.get("/api/desk").json()["queries"][0]["unseen"] is None
    assert client.post("/api/queries/99/looked").json()["kind"] == "query-unknown"
    assert client.get("/api/changes?days=0").status_code == 422


def test_each_row_ever_seen_is_told_by_what_says_which_row_is_which_behind_the_lines(client, days):
    # The line counts by place and kind; one of the query's match columns is gone behind it, and another one came.
    rows = [{"sku": f"{n}", "place": place, "kind": "xyzz"[n]} for n, place in enumerate("aabb")]
    count = {"do": "count", "by": [{"column": "place"}, {"column": "kind"}], "figures": [{"of": "rows"}]}
    days(rows, rows[1:], keep={"match": ["sku", "place"]}, work_out=[count])
    told = table_of(client, started(client, "q", days=None, rows="each once"))[1]["rows"]
    assert [(one[0], one[1], one[2], one[-1]) for one in told] == [("a", "x", 1, 1), ("a", "y", 1, 2), ("b", "z", 2, 2)]


def test_what_is_watched_follows_all_that_it_is_made_of(client, awkward, days):
    number, taken = days(*DATES, keep={"match": ["sku"]})
    other, _ = days([{"sku": "1", "name": "one"}], name="names", keep={"match": ["sku"]})
    bring = {
        "do": "bring", "table": {"query": "names"}, "match": [{"theirs": "sku", "ours": "sku"}],
        "columns": [{"column": "name"}],
    }  # fmt: skip
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    client.put(f"/api/queries/{number}", json={"brief": {**brief, "work_out": [bring]}, "based_on": None})
    for watch in ({"what": "figure", "figure": "filled", "column": "name"}, {"what": "figure"}):
        client.post("/api/watches", json={"query_id": number, "watch": watch})

    def told():
        return [one["points"] for one in client.get("/api/watches").json()]

    assert told() == [[1, 1, 0, 1], [2, 3, 1, 2]]
    # An older date goes.
    client.post(f"/api/queries/{number}/snapshots/delete", json={"ids": [taken[1]]})
    assert told() == [[1, 0, 1], [2, 1, 2]]
    # The other table is read in another way: its brief is another one, and so is its snapshot.
    brief = client.get(f"/api/queries/{other}").json()["brief"]
    named = {**brief["take"], "columns": [{"place": "$.sku", "name": "sku"}, {"place": "$.none", "name": "name"}]}
    client.put(f"/api/queries/{other}", json={"brief": {**brief, "take": named}, "based_on": None})
    run = client.get(f"/api/queries/{other}").json()["latest"]["run_id"]
    assert client.post(f"/api/runs/{run}/rebuild").status_code == 200
    assert told() == [[0, 0, 0], [2, 1, 2]]


def was_there(client, snapshot, cells):
    """A row that went, with all columns that it had."""
    names = [one["name"] for one in client.get(f"/api/snapshots/{snapshot}/columns").json()]
    rows = client.get(f"/api/snapshots/{snapshot}/rows").json()["rows"]
    found = [dict(zip(names, one, strict=True)) for one in rows if one[names.index("sku")] == cells["sku"]]
    return {**cells, **found[-1]}


@pytest.mark.parametrize("worked", [False, True])
def test_the_changes_of_every_date_as_a_source_equal_each_comparison(client, days, worked):
    lines = [{"do": "column", "name": "double", "expression": "fare * 2"}] if worked else []
    dates = (*DATES, [row("1", 1), row("1", 1)], [row("4", None, note=None, new=3)], [row("4", 4, note=None, new=None)])
    keep = {"match": ["sku"], "alike": [{"by": "amount", "columns": ["fare"], "amount": 1.0}]}
    _, taken = days(*dates, keep=keep, work_out=lines)
    changes = started(client, "q", days=None, rows="changes", column="day")
    ref, told = table_of(client, changes)
    names = [one["name"] for one in client.get(f"/api/work-out/{changes}/columns").json()]
    assert names[:5] == ["day", "change", "changed in", "sku", "fare"]
    assert "fare, before" in names
    assert "sku, before" not in names
    wanted = []
    for then, now in pairwise(taken):
        moment = client.get(f"/api/snapshots/{now}").json()["taken"]
        asked = {"then": then, "now": now, "reading": "today"}
        own = [one["name"] for one in client.get("/api/compare", params=asked).json()["headings"]]
        for one in client.get("/api/compare/rows", params={**asked, "show": "all"}).json()["rows"]:
            if one["state"] not in ("new", "gone", "changed"):
                continue
            cells = dict(zip(own, one["now"] or one["then"], strict=True))
            moved = [own[at] for at in one["changed"]]
            was = {f"{own[at]}, before": one["then"][at] for at in one["changed"]}
            if one["state"] == "gone":
                # The later table may lack a column of the row.
                cells = was_there(client, then, cells)
            values = {"day": moment, "change": one["state"], "changed in": ", ".join(moved) or None, **cells, **was}
            wanted.append([values.get(name) for name in names])
    assert told["rows"] == wanted
    kinds = [(cells[1], cells[3]) for cells in wanted if cells[1] != "changed"]
    assert kinds[:3] == [("new", "3"), ("gone", "1"), ("gone", "3")]
    # Each cell leads to the date that it is of; what it was to the one before.
    for at, cells in enumerate(wanted):
        for column in ("fare", "fare, before"):
            place = names.index(column)
            trace = client.post("/api/table/trace", json={**ref, "row": at, "column": place}).json()
            assert trace["value"] == cells[place]
    # Of the last days alone there are fewer; the first of them is laid over the date before it.
    fewer = table_of(client, started(client, "q", days=2, rows="changes"))[1]["rows"]
    assert fewer == [cells for cells in wanted if cells[0] >= "2026-11-30T12"]
    assert fewer
    by_day = {"do": "count", "by": [{"column": "as of"}, {"column": "change"}], "figures": [{"of": "rows"}]}
    counted = table_of(client, started(client, "q", days=None, rows="changes", lines=[by_day]))[1]["rows"]
    assert sum(one[-1] for one in counted) == len(wanted)


def test_a_row_of_totals_is_no_row_of_any_date(client, days):
    count = {"do": "count", "by": [{"column": "sku"}], "figures": [{"of": "rows"}], "totals": True}
    days(*DATES, keep={"match": ["sku"]}, work_out=[count])
    told = table_of(client, started(client, "q", days=None))[1]["rows"]
    assert [cells[1:] for cells in told] == [[one["sku"], 1] for date in DATES for one in date]


def test_a_query_that_asks_from_the_last_refresh_on_is_collected_and_nothing_is_said_to_be_missed(
    client, awkward, query  # noqa: F811
):  # fmt: skip
    """A service that gives what came since a moment; one refresh is incomplete, one day is missed."""
    born = {n: (NOON + timedelta(hours=8 * n)).isoformat() for n in range(15)}
    broken = False

    async def since(request):
        clock = client.app.state.context.engine.clock.now()
        start = datetime.fromisoformat(request.query["since"])
        rows = [{"sku": f"{n}", "born": at} for n, at in born.items() if start <= datetime.fromisoformat(at) < clock]
        page = int(request.query.get("page", 1))
        if broken and page == 2:
            return web.json_response({"error": "closed"}, status=400)
        got = rows[(page - 1) * 2 : page * 2]
        return web.json_response({"d": got, "pages": max(1, -(-len(rows) // 2)), "total": len(rows)})

    awkward.answers["/d"] = since
    parameter = {
        "name": "since", "kind": "date and time",
        "default": {"anchor": "last refresh", "first": (NOON - timedelta(days=1)).isoformat()},
    }  # fmt: skip
    number = query(
        parameters=[parameter],
        ask={"service": "awkward", "path": "/d", "query": [{"name": "since", "value": "{since}"}]},
        pages={"by": "number", "last_page": "$.pages", "total": "$.total"},
        keep={"match": ["sku"]},
    )
    clock = client.app.state.context.engine.clock
    states = []
    for day in (1, 2, 4, 5):  # Of the third there is none.
        clock.set(NOON + timedelta(days=day))
        broken = day == 2
        states.append(run_of(client, number)[0]["state"])
    assert states == ["complete", "incomplete", "complete", "complete"]
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    seen = started(client, brief["name"], days=None, rows="each once")
    told = table_of(client, seen)[1]["rows"]
    assert sorted(int(cells[0]) for cells in told) == list(range(15))
    assert client.get(f"/api/queries/{seen}/breaks").json() == []
