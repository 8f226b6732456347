"""Charts of a table as it is seen, over the API."""

import io
from collections import Counter
from datetime import datetime

import openpyxl
import pytest

from tests.web.test_history import query, run_of, serve  # noqa: F401 a fixture

ROWS = [
    {"at": f"2026-11-{1 + n // 2:02}", "route": "ab"[n % 2], "fare": 10.0 + n if n != 5 else None, "sku": f"s{n}"}
    for n in range(20)
]


@pytest.fixture
def table(client, awkward, query):  # noqa: F811
    """A table with fares by day and route."""
    number = query(keep={"match": ["sku"]})
    serve(awkward, "/d", {"d": ROWS})
    return {"snapshot": run_of(client, number)[0]["snapshot_id"], "query_id": number}


def drawn(client, table, chart, **more):
    return client.post("/api/table/chart", json={**table, "chart": chart, **more})


def test_a_line_is_drawn_of_what_is_seen(client, table):
    chart = {"draw": "line", "x": "at", "y": ["fare"], "series": "route"}
    made = drawn(client, table, chart).json()
    assert [(one["name"], one["points"]) for one in made["panels"][0]["series"]] == [("a", 10), ("b", 9)]
    assert made["x"]["kind"] == "day"
    assert "Lowest: 10 (a, 2026-11-01)" in made["sentence"]
    # Filters and lines count; rows are told by their number in the table.
    view = {"where": [{"by": "one of", "column": "route", "values": ["b"]}], "sort": [{"column": "at", "down": True}]}
    made = drawn(client, table, chart, view=view).json()
    (series,) = made["panels"][0]["series"]
    assert (series["name"], series["points"]) == ("b", 9)
    assert series["rows"][:2] == [1, 3]
    lines = [{"do": "column", "name": "double", "expression": "fare * 2"}]
    made = drawn(client, {**table, "lines": lines}, {**chart, "y": ["double"], "series": ""}).json()
    assert max(y for y in made["panels"][0]["series"][0]["y"] if y is not None) == 58
    # A part of it has a point on either side.
    day = 86_400_000
    first = made["panels"][0]["series"][0]["x"][0]
    part = drawn(client, table, chart, within=[first + 3 * day, first + 5 * day]).json()
    assert [len(one["x"]) for one in part["panels"][0]["series"]] == [5, 5]


def test_charts_are_proposed_from_the_columns_and_kept_with_the_query(client, table):
    charts = client.post("/api/table/chart/proposals", json={**table, "match": ["sku"]}).json()["charts"]
    assert [one["draw"] for one in charts] == ["line", "bars", "bars", "spread", "figure"]
    assert (charts[0]["x"], charts[0]["y"], charts[0]["series"], charts[0]["figure"]) == (
        "at",
        ["fare"],
        "route",
        "mean",
    )
    for chart in charts:
        assert drawn(client, table, chart).status_code == 200
    number = table["query_id"]
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    saved = client.put(f"/api/queries/{number}", json={"brief": {**brief, "show": charts[:2]}, "based_on": None}).json()
    assert saved["brief"]["show"] == charts[:2]


@pytest.mark.parametrize(("chart", "kind"), [
    ({"draw": "line", "x": "gone", "y": ["fare"]}, "column-unknown"),
    ({"draw": "line", "x": "route", "y": ["fare"]}, "chart-unfit"),
    ({"draw": "bars", "x": "route", "figure": "sum"}, "chart-unfit"),
])  # fmt: skip
def test_what_cannot_be_drawn_is_said(client, table, chart, kind):
    told = drawn(client, table, chart).json()
    assert told["kind"] == kind
    assert told["do"]


def test_what_is_no_chart_is_refused(client, table):
    for chart in ({"draw": "magic"}, {"draw": "line", "references": [{"value": "x"}]}, {"draw": "bars", "most": 0}):
        assert drawn(client, table, chart).status_code == 422
    assert drawn(client, table, {"draw": "figure"}, width=1).status_code == 422


@pytest.mark.parametrize("chart", [
    {"draw": "line", "x": "at", "y": ["fare"], "series": "route"},
    {"draw": "bars", "x": "route", "figure": "sum", "y": ["fare"]},
    {"draw": "bars", "x": "at", "figure": "rows", "series": "route", "how": "stacked"},
    {"draw": "points", "x": "fare", "y": "fare"}, {"draw": "spread", "x": "fare"},
    {"draw": "line", "x": "at", "y": ["fare"], "each": "route"}, {"draw": "figure", "figure": "mean", "y": "fare"},
])  # fmt: skip
def test_a_chart_goes_into_a_workbook_with_its_figures(client, table, chart):
    made = drawn(client, table, chart).json()
    body = {**table, "chart": chart, "title": "Fares <&>", "about": [["Query", "=1+1"]]}
    answer = client.post("/api/table/chart/workbook", json=body)
    book = openpyxl.load_workbook(io.BytesIO(answer.content))
    sheets = book.worksheets[:-1]
    assert len(sheets) == len(made["panels"])
    assert book.worksheets[-1]["B1"].value == "=1+1"
    assert book.worksheets[-1]["B1"].data_type == "s"
    for sheet, panel in zip(sheets, made["panels"], strict=True):
        figures = [cell.value for column in sheet.iter_cols(min_row=2) for cell in column if cell.value is not None]
        for series in panel["series"]:
            wanted = Counter(f"{y:.12g}" for y in series["y"] if y is not None)
            assert wanted <= Counter(f"{one:.12g}" for one in figures if isinstance(one, int | float))
        if chart["draw"] == "figure":
            assert sheet._charts == []
            continue
        (own,) = sheet._charts
        assert len(own.series) == len(panel["series"])
        if made["x"]["kind"] == "day":
            assert sheet["A2"].value == datetime(2026, 11, 1)


def test_a_row_of_totals_is_no_bar_and_months_are_times(client, awkward, query):  # noqa: F811
    number = query(name="months")
    rows = [{"month": f"2026-{1 + n % 9:02}", "kind": "ab"[n % 2], "fare": n + 0.5} for n in range(30)]
    serve(awkward, "/d", {"d": rows})
    table = {"snapshot": run_of(client, number)[0]["snapshot_id"], "query_id": number}
    charts = client.post("/api/table/chart/proposals", json=table).json()["charts"]
    assert (charts[0]["draw"], charts[0]["x"]) == ("line", "month")
    count = {"do": "count", "by": [{"column": "kind"}], "figures": [{"of": "rows", "name": "n"}], "totals": True}
    made = drawn(client, {**table, "lines": [count]}, {"draw": "bars", "x": "kind", "figure": "sum", "y": ["n"]}).json()
    assert made["panels"][0]["categories"] == ["a", "b"]
    assert (made["panels"][0]["series"][0]["y"], made["rows"]) == ([15, 15], 2)
