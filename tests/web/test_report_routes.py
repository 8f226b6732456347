"""Reports over the API: read as of any date, held against another, never a figure without its doubt."""

import json
import re
from datetime import timedelta

from tests.conftest import NOON
from tests.web.reporting import CHANGES, JSON, LINE, MEAN, ROWS, TABLE, TEXT, dated, read, report, rows  # noqa: F401
from tin_bucket.core.schedule.models import DailySchedule


def mean(day):
    fares = [one["fare"] for one in rows(day)]
    return sum(fares) / len(fares)


def plain(text):
    return text.replace("\u00a0", " ")


def test_a_report_is_read_as_of_any_date_and_against_another(client, dated):  # noqa: F811
    document = report(dated, TEXT, LINE, TABLE, CHANGES, figures=[ROWS, MEAN])
    now = read(client, document)
    assert now["as_of"] == NOON.isoformat()
    assert now["against"] == (NOON - timedelta(days=7)).isoformat()
    words = plain(now["blocks"][0]["text"])
    assert words == f"There are 10, unchanged. They cost {mean(10):.2f}, {mean(10) - mean(3):.2f} more."
    assert [block["number"] for block in now["blocks"]] == [0, 1, 2, 3]
    # The line of the other date lies under.
    series = now["blocks"][1]["drawing"]["panels"][0]["series"]
    assert [one["then"] for one in series] == [False, True]
    # Seven came and seven went; what stayed and was dearer is marked.
    assert (
        "<strong>7</strong> rows are new, <strong>7</strong> are gone, <strong>2</strong> changed"
        in now["blocks"][3]["html"]
    )
    table = now["blocks"][2]["html"]
    assert len(re.findall("<tr class=new>", table)) == 7
    assert len(re.findall("<tr class=gone>", table)) == 5
    assert len(re.findall('class="number changed', table)) == 2
    assert table.count("noted") == 1
    # As of four days ago, against the one before.
    then = read(client, document, as_of="2026-11-21", against="2026-11-20")
    assert plain(then["blocks"][0]["text"]) == f"There are 10, unchanged. They cost {mean(6):.2f}, 1.00 more."
    assert {source["taken"][:10] for source in then["sources"]} == {"2026-11-21"}
    assert "<strong>1</strong> rows are new" in then["blocks"][3]["html"]
    # Against nothing.
    alone = read(client, document, against="none")
    assert alone["against"] == ""
    assert "no earlier figure: missing" in alone["blocks"][0]["text"]
    assert "There is no other date" in alone["blocks"][3]["html"]
    assert "<tr class" not in alone["blocks"][2]["html"]


def test_every_figure_is_that_of_the_table_of_its_date(client, dated):  # noqa: F811
    document = report(dated, figures=[MEAN, ROWS])
    for day in range(11):
        moment = NOON - timedelta(days=10 - day)
        found = read(client, document, as_of=moment.isoformat(), against="before")["figures"]
        assert found[0]["words"] == f"{mean(day):.2f}"
        if day:
            assert found[0]["parts"]["then"] == f"{mean(day - 1):.2f}"
        else:
            assert found[0]["parts"] == {}


def test_a_figure_leads_to_its_rows(client, dated):  # noqa: F811
    cheap = {"tells": "amount", "name": "cheap", "where": [{"by": "between", "column": "fare", "high": "22"}]}
    document = report(dated, {"block": "text", "text": "{cheap}"}, figures=[cheap])
    html = read(client, document)["blocks"][0]["html"]
    assert f'href="#/query/{dated}?where=' in html
    assert "as-of" not in html
    assert "as-of=%23" in read(client, document, as_of="2026-11-20")["blocks"][0]["html"]


def test_what_is_gone_or_missing_says_so_and_the_rest_stays(client, dated):  # noqa: F811
    lost = {"tells": "amount", "name": "lost", "figure": "sum", "column": "gone"}
    text = {"block": "text", "text": "{fares} and {lost} and {never}."}
    blocks = (text, {"block": "chart", "chart": {"draw": "line", "x": "gone", "y": ["fare"]}}, TABLE)
    document = report(dated, *blocks, figures=[ROWS, lost])
    seen = read(client, document)
    assert seen["blocks"][0]["text"] == "10 and [lost: missing] and [never: missing]."
    assert seen["blocks"][0]["odd"] == ["No figure is named “never”."]
    assert "There is no column “gone” any more." in seen["blocks"][1]["html"]
    assert "<table>" in seen["blocks"][2]["html"]
    # Too early a date, and a query that was deleted.
    early = read(client, document, as_of="2026-10-01")
    assert early["blocks"][0]["text"].startswith("[fares: missing]")
    assert early["sources"][0]["notes"] == ["There is no table as old as 1 October."]
    assert read(client, document, as_of="soon")["sources"][0]["notes"] == ["“soon” is no date."]
    # A day without a table of its own is told.
    (source,) = read(client, document, as_of="2026-12-24")["sources"]
    assert source["notes"] == ["There is no table of 24 December; this is of 25 November."]
    client.delete(f"/api/queries/{dated}")
    gone = read(client, document)
    assert gone["sources"][0]["name"] == "a query that is gone"
    assert all(source["state"] == "missing" for block in gone["blocks"] for source in block["sources"])


def test_a_figure_that_is_old_or_incomplete_is_marked(client, dated, ask_awkward, awkward):  # noqa: F811
    document = report(dated, TEXT, figures=[ROWS, MEAN])
    awkward.answers["/data"] = (500, JSON, b"{}")
    ask_awkward(moment=NOON + timedelta(minutes=1), keep={"match": ["sku"]})
    seen = read(client, document)
    assert seen["sources"][0]["old"] == "Its refresh of 25 November, 12:01 failed."
    assert seen["blocks"][0]["text"].startswith("There are 10 (old)")
    # Of an earlier date it was never otherwise.
    assert read(client, document, as_of="2026-11-24")["sources"][0]["old"] == ""
    answer = {"data": rows(11), "total": 99}
    awkward.answers["/data"] = (200, JSON, json.dumps(answer).encode())
    ask_awkward(moment=NOON + timedelta(minutes=2), keep={"match": ["sku"]}, pages={"by": "none", "total": "$.total"})
    seen = read(client, document)
    assert seen["sources"][0]["state"] == "incomplete"
    assert "99" in seen["sources"][0]["evidence"]
    assert seen["blocks"][0]["text"].startswith("There are 10 (incomplete)")


def test_a_schedule_that_was_missed_makes_a_table_old(client, dated, workspace):  # noqa: F811
    query = workspace.queries.get(dated)
    keep = query.brief.keep.model_copy(update={"schedule": DailySchedule(at="08:00")})
    workspace.queries.save(dated, query.brief.model_copy(update={"keep": keep}), NOON - timedelta(days=5))
    clock = client.app.state.context.engine.clock
    for hours, old in ((1, ""), (20.1, ""), (20.5, "A refresh was due on 26 November, 08:00.")):
        clock.set(NOON + timedelta(hours=hours))
        assert read(client, report(dated, figures=[ROWS]))["sources"][0]["old"] == old


def test_readers_choose_among_what_is_there(client, dated):  # noqa: F811
    choices = [{"name": "route", "column": "route"}, {"name": "from", "column": "day", "how": "from"}]
    document = report(dated, TEXT, TABLE, LINE, CHANGES, figures=[ROWS, MEAN], choices=choices)
    seen = read(client, document)
    assert [(one["name"], one["options"], one["kind"]) for one in seen["choices"]] == [
        ("route", ["a", "b"], "text"),
        ("from", [], "date"),
    ]
    seen = read(client, document, chosen={"route": "a"})
    assert seen["blocks"][0]["text"].startswith("There are 5")
    assert seen["blocks"][2]["drawing"]["rows"] == 5
    assert seen["blocks"][3]["odd"] == ["This is of all rows, whatever is chosen above."]
    seen = read(client, document, chosen={"from": "2026-11-18"})
    assert seen["blocks"][0]["text"].startswith("There are 3")
    other = report(dated, TEXT, figures=[ROWS, MEAN], choices=[{"name": "port", "column": "port", "value": "X"}])
    (source,) = read(client, other)["sources"]
    assert source["notes"] == ["It has no column “port”: port changes nothing here."]


def test_markup_and_long_names_in_a_table_stay_texts(client, ask_awkward, awkward):
    name = "<script>alert(1)</script>" + "x" * 300
    data = [{"sku": 1, name: "<img src=x onerror=alert(1)>"}]
    awkward.answers["/data"] = (200, JSON, json.dumps({"data": data}).encode())
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    leading = {"tells": "leading", "name": "worst", "by": name}
    text = {"block": "text", "text": "{worst} <script>x</script>"}
    blocks = (text, {"block": "table"}, {"block": "chart", "chart": {"draw": "bars", "x": name}})
    seen = read(client, report(number, *blocks, figures=[leading], title="<b>t</b>"))
    for block in seen["blocks"]:
        assert not re.search(r"<(script|img)", block["html"])
    page = client.post(
        "/api/reports/page", json={"report": report(number, *blocks, figures=[leading], title="<b>t</b>")}
    )
    assert page.text.count("<script") == page.text.count("</script>")
    assert "<img" not in page.text
    assert "<b>t</b>" not in page.text


def test_a_report_begins_from_a_query_and_reads_well(client, dated):  # noqa: F811
    made = client.post("/api/reports/begin", json={"query_id": dated})
    assert made.status_code == 201
    document = made.json()["report"]
    seen = read(client, document)
    assert "missing" not in seen["blocks"][0]["text"]
    assert seen["blocks"][0]["text"].startswith("As of 25 November there are 10 rows")
    assert seen["blocks"][1]["drawing"]["panels"]
    offers = client.post("/api/reports/offers", json={"query_id": dated}).json()
    assert {"mean fare", "a rows, in %"} <= {one["figure"]["name"] for one in offers["figures"]}
    assert all(one["words"] for one in offers["figures"])


def test_a_report_is_kept_changed_and_deleted(client, dated):  # noqa: F811
    document = report(dated, TEXT, figures=[ROWS, MEAN])
    made = client.post("/api/reports", json={"report": document}).json()
    at = f"/api/reports/{made['id']}"
    assert client.get("/api/reports").json()[0]["queries"] == ["awkward"]
    changed = {**made["report"], "title": "Another title", "address": "fares"}
    assert client.put(at, json={"report": changed, "version": 1}).json()["version"] == 2
    # Whoever changed an older version is told, and nothing is overwritten.
    late = client.put(at, json={"report": {**changed, "title": "Late"}, "version": 1})
    assert (late.status_code, late.json()["kind"]) == (409, "report-changed")
    assert client.get(at).json()["report"]["title"] == "Another title"
    other = client.post("/api/reports", json={"report": {**document, "address": "fares"}})
    assert (other.status_code, other.json()["kind"]) == (409, "address-taken")
    assert client.post("/api/reports", json={"report": {**document, "address": "Not one"}}).status_code == 422
    assert client.delete(at).status_code == 204
    assert client.get(at).json()["kind"] == "report-unknown"
    dates = client.post("/api/reports/dates", json={"queries": [dated, 999]}).json()["dates"]
    assert len(dates) == 11
    assert dates == sorted(dates, reverse=True)
