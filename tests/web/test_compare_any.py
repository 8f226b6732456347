"""Any two tables are compared: what counts as the same, which column is which, which rows are the same thing."""

import io
import json
import re

import openpyxl
import pytest

from tests.web.test_history import query, run_of, serve  # noqa: F401 a fixture

ROWS = [{"sku": f"{n:03}", "fare": 10.0 + n, "status": "On time", "seen": "a"} for n in range(5)]


@pytest.fixture
def two(client, awkward, query):  # noqa: F811
    """Make two dates of a query without match columns; gives its number and the two."""

    def make(then, now, **parts):
        number = query(**parts)
        taken = []
        for rows in (then, now):
            serve(awkward, "/d", {"d": rows})
            taken.append(run_of(client, number)[0]["snapshot_id"])
        return number, {"then": str(taken[0]), "now": str(taken[1])}

    return make


def by(**how):
    return {"by": json.dumps(how)}


def changed(rows, **cells):
    return [{**row, **cells} for row in rows]


def test_what_counts_as_the_same_is_tried_and_then_kept_with_the_query(client, two):
    now = [{**row, "fare": row["fare"] + 0.05, "status": "on time"} for row in ROWS]
    now[0]["fare"] = 20.0
    number, ids = two(ROWS, now, keep={"match": ["sku"]})
    found = client.get("/api/compare", params=ids).json()
    assert (found["counts"]["changed"], found["alike"]) == (5, [])
    rules = [{"by": "text", "columns": ["status"]}, {"by": "amount", "amount": 0.1, "columns": ["fare"]}]
    found = client.get("/api/compare", params={**ids, **by(alike=rules)}).json()
    assert (found["counts"]["changed"], found["counts"]["alike"]) == (1, 4)
    assert found["alike_cells"] == {"fare": 4, "status": 5}
    rows = client.get("/api/compare/rows", params={**ids, **by(alike=rules), "show": "alike"}).json()
    assert (rows["total"], rows["rows"][0]["changed"], rows["rows"][0]["alike"]) == (4, [], [1, 2])
    assert rows["rows"][0]["then"] == ["001", 11.0, "On time", "a"]
    file = client.get("/api/compare/table.csv", params={**ids, **by(alike=rules), "show": "alike"}).text
    assert file.splitlines()[1].startswith("alike,001,")
    # Kept with the query, it holds without being asked for, and on the desk.
    detail = client.get(f"/api/queries/{number}").json()
    assert detail["latest"]["since"] == {"new": 0, "gone": 0, "changed": 5}
    kept = {"brief": {**detail["brief"], "keep": {**detail["brief"]["keep"], "alike": rules}}, "based_on": None}
    saved = client.put(f"/api/queries/{number}", json=kept).json()
    assert saved["latest"]["since"] == {"new": 0, "gone": 0, "changed": 1, "alike": 4}
    assert client.get("/api/compare", params=ids).json()["counts"]["alike"] == 4
    assert client.get("/api/compare", params={**ids, **by(alike=[])}).json()["counts"]["alike"] == 0
    refused = client.get("/api/compare", params={**ids, **by(alike=[{"by": "amount", "amount": -1}])})
    assert refused.status_code == 422
    assert refused.json()["do"]


def test_match_columns_are_proposed_with_evidence_and_hold_for_earlier_dates(client, two):
    now = [{**row, "fare": row["fare"] + 1} for row in ROWS]
    number, ids = two(ROWS, now)
    found = client.get("/api/compare", params=ids).json()
    assert (found["match"], found["counts"]["new"], found["counts"]["gone"]) == ([], 5, 5)
    proposal = client.get("/api/compare/proposals", params=ids).json()["match"]
    assert proposal == {"columns": ["sku"], "evidence": "sku is filled and different in all 5 rows of both."}
    assert client.get("/api/compare", params={**ids, **by(match=["sku"])}).json()["counts"]["changed"] == 5
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    brief["keep"]["match"] = ["sku"]
    client.put(f"/api/queries/{number}", json={"brief": brief, "based_on": None})
    assert client.get("/api/compare", params=ids).json()["match"] == ["sku"]
    assert client.get("/api/compare/proposals", params=ids).json() == {"match": None, "renamed": [], "other_key": 0}


def test_a_renamed_column_is_offered_and_then_compared(client, two):
    now = [{"code": row["sku"], "fare": row["fare"] + 1, "status": "late", "seen": "a"} for row in ROWS]
    _, ids = two(ROWS, now, keep={"match": ["fare"]})
    found = client.get("/api/compare", params=ids).json()
    assert (found["new_columns"], found["gone_columns"]) == (["code"], ["sku"])
    # Four fares are of both dates, and say which rows are the same thing.
    now = [{"code": row["sku"], "fare": row["fare"], "status": "late", "seen": "a"} for row in ROWS]
    number, ids = two(ROWS, now, name="other", keep={"match": ["fare"]})
    offered = client.get("/api/compare/proposals", params=ids).json()["renamed"]
    assert offered == [{"then": "sku", "now": "code", "equal": 5, "compared": 5, "in_rows": True}]
    found = client.get("/api/compare", params={**ids, **by(pairs=[{"then": "sku", "now": "code"}], match=["code"])})
    assert (found.json()["match"], found.json()["counts"]["changed"]) == (["code"], 5)
    assert found.json()["renamed"] == [{"then": "sku", "now": "code", "by_hand": True}]
    assert (found.json()["new_columns"], found.json()["gone_columns"]) == ([], [])
    # Kept with the query, it holds without being asked for, until it is taken off for once.
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    brief["keep"] |= {"renamed": [{"then": "sku", "now": "code"}], "match": ["code"]}
    assert client.put(f"/api/queries/{number}", json={"brief": brief, "based_on": None}).status_code == 200
    kept = client.get("/api/compare", params=ids).json()
    assert (kept["match"], kept["counts"]["changed"], kept["renamed"][0]["by_hand"]) == (["code"], 5, True)
    assert client.get("/api/compare", params={**ids, **by(pairs=[])}).json()["gone_columns"] == ["sku"]


def test_a_sheet_of_last_quarter_is_compared_with_today(client, two):
    _, ids = two(ROWS, ROWS, keep={"match": ["sku"]})
    data = b"sku,fare,status,note\n000,10,On time,x\n001,99,On time,\n007,1,late,\n"
    client.post("/api/sheets", params={"file": "q.csv", "name": "Last quarter"}, content=data)
    asked = {"then": "sheet:Last quarter", "now": ids["now"]}
    found = client.get("/api/compare", params=asked).json()
    assert (found["then"]["name"], found["then"]["snapshot"], found["then"]["rows"]) == ("Last quarter", None, 3)
    assert found["match"] == ["sku"]
    # A number and its text are one: 10 of the sheet is 10.0 of the table.
    assert found["counts"] == {"same": 1, "new": 3, "gone": 1, "changed": 1, "alike": 0}
    assert (found["new_columns"], found["gone_columns"]) == (["seen"], ["note"])
    rows = client.get("/api/compare/rows", params={**asked, "show": "changed"}).json()["rows"]
    assert rows[0]["now"][:2] == ["001", 11.0]
    name = client.get("/api/compare/table.xlsx", params=asked).headers["content-disposition"]
    assert "Last%20quarter%20to%20q%20" in name
    assert client.get("/api/compare", params={**asked, "then": "sheet:None"}).json()["kind"] == "sheet-unknown"
    for wrong in ("", "x", "sheet:", "12@", "preview:x"):
        assert client.get("/api/compare", params={**asked, "then": wrong}).json()["kind"] in (
            "compared-unreadable", "preview-gone",
        ), wrong  # fmt: skip


def test_two_queries_and_a_changed_brief_are_compared(client, two):
    number, ids = two(ROWS, ROWS, keep={"match": ["sku"]})
    _, others = two(ROWS, [*ROWS[1:], {"sku": "099", "fare": 1.0}], name="other", keep={"match": ["sku"]})
    found = client.get("/api/compare", params={"then": ids["now"], "now": others["now"]}).json()
    assert (found["then"]["name"], found["now"]["name"]) == ("q", "other")
    assert found["counts"] == {"same": 4, "new": 1, "gone": 1, "changed": 0, "alike": 0}
    # The draft reads the same answers in another way.
    brief = client.get(f"/api/queries/{number}").json()["brief"]
    brief["take"]["columns"] = [{"place": "$.sku", "name": "sku"}, {"place": "$.fare", "name": "price"}]
    preview = client.post(f"/api/queries/{number}/reread", json={"brief": brief, "values": {}, "query_id": number})
    asked = {"then": ids["now"], "now": f"preview:{preview.json()['id']}", "query_id": number}
    found = client.get("/api/compare", params=asked).json()
    assert found["renamed"] == [{"then": "fare", "now": "price", "by_hand": False}]
    assert (found["counts"]["same"], found["gone_columns"]) == (5, ["seen", "status"])


def test_rows_of_a_match_value_that_stands_for_several_are_listed(client, two):
    twice = [{"sku": "1", "fare": 1}, {"sku": "1", "fare": 2}, {"sku": "2", "fare": 3}]
    _, ids = two(twice, changed(twice, fare=9), keep={"match": ["sku"]})
    found = client.get("/api/compare", params=ids).json()
    assert (found["repeated_keys"], found["repeated_rows"]) == (1, 2)
    rows = client.get("/api/compare/rows", params={**ids, "show": "repeated"}).json()
    assert [row["now"] for row in rows["rows"]] == [["1", 9], ["1", 9]]


def test_all_that_differs_is_a_workbook_of_a_sheet_for_each_kind_and_a_page_that_stands_alone(client, two):
    now = [{**row, "fare": row["fare"] + 1} for row in ROWS[1:]] + [{"sku": "<b>9", "fare": 1, "status": None}]
    _, ids = two([ROWS[0], {**ROWS[1], "seen": None}, *ROWS[2:]], now, keep={"match": ["sku"]})
    answer = client.get("/api/compare/whole.xlsx", params=ids)
    book = openpyxl.load_workbook(io.BytesIO(answer.content))
    assert book.sheetnames == ["Changed", "New", "Gone", "Where from"]
    changed = [[cell.value for cell in row] for row in book["Changed"].iter_rows()]
    assert changed[0][:4] == ["sku", "fare", "fare, before", "status"]
    assert [row[:3] for row in changed[1:]] == [[f"00{at}", 11 + at, 10 + at] for at in range(1, 5)]
    # The cells that changed are marked by what they were.
    rules = book["Changed"].conditional_formatting
    assert {(str(one.sqref), rule.formula[0]) for one in rules for rule in one.rules} >= {
        ("B2:B5", "NOT(ISBLANK($C2))")
    }
    assert [row[0].value for row in book["New"].iter_rows(min_row=2)] == ["<b>9"]
    assert [row[0].value for row in book["Gone"].iter_rows(min_row=2)] == ["000"]
    told = " ".join(row[1].value for row in book["Where from"].iter_rows())
    assert "1 rows are new, 1 are gone, 4 changed" in told
    answer = client.get("/api/compare/whole.html", params=ids)
    page = answer.text
    assert answer.headers["content-disposition"].endswith(".html")
    assert "&lt;b&gt;9" in page
    assert "<b>9" not in page
    assert '<td class="changed number"><s>11.0</s>12.0</td>' in page
    assert page.count("<tr class=changed>") == 4
    # What was empty is said too.
    assert '<td class="changed"><s>empty</s>a</td>' in page
    # It loads nothing, from nowhere.
    assert not re.search(r"\b(src|href)=", page)
    assert "default-src 'none'" in page
    assert client.get("/api/compare/whole.pdf", params=ids).status_code == 422


def test_rows_of_a_comparison_are_sorted_by_any_column(client, two):
    now = [{**row, "fare": 20 - row["fare"]} for row in ROWS[2:]] + [{"sku": "9", "fare": None, "status": "b"}]
    _, ids = two(ROWS, now, keep={"match": ["sku"]})

    def fares(**asked):
        rows = client.get("/api/compare/rows", params={**ids, "sort": "fare", **asked}).json()["rows"]
        return [(row["now"] or row["then"])[1] for row in rows]

    # Of gone rows by what it was; empty ones last, whichever way.
    assert fares() == [6, 7, 8, 10, 11, None]
    assert fares(down=True) == [11, 10, 8, 7, 6, None]
    assert fares(show="gone", down=True) == [11, 10]
    assert client.get("/api/compare/rows", params={**ids, "sort": "bogus"}).json()["kind"] == "column-unknown"
    file = client.get("/api/compare/table.csv", params={**ids, "sort": "fare", "down": True}).text
    assert [line.split(",")[1] for line in file.splitlines()[1:]][:2] == ["001", "000"]


def test_rows_whose_key_changed_though_all_else_is_the_same_are_offered(client, two):
    now = [{**row, "sku": f"N{row['sku']}"} for row in ROWS[:4]] + [ROWS[4]]
    _, ids = two(ROWS, now, keep={"match": ["sku"]})
    assert client.get("/api/compare", params=ids).json()["counts"]["new"] == 4
    assert client.get("/api/compare/proposals", params=ids).json()["other_key"] == 4
    without = by(match=[], alike=[{"by": "ignored", "columns": ["sku"]}])
    found = client.get("/api/compare", params={**ids, **without}).json()
    assert found["counts"] == {"same": 1, "new": 0, "gone": 0, "changed": 0, "alike": 4}
    # Few of many are chance.
    now = [{**row, "sku": f"N{row['sku']}", "fare": row["fare"] + at + 0.5} for at, row in enumerate(ROWS)]
    _, ids = two(ROWS, now, name="other", keep={"match": ["sku"]})
    assert client.get("/api/compare/proposals", params=ids).json()["other_key"] == 0
