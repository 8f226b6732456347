"""Feeds behind refreshes: each day's table comes into workbooks, files and histories, and what fails is tried again."""

import asyncio
import csv
import json
from datetime import datetime, timedelta

import openpyxl
import psycopg
import pyarrow.dataset
import pyarrow.parquet
import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.postgres import PASSWORD, needs_server
from tests.waiting import LeapingClock
from tin_bucket.core.document.query import load_brief
from tin_bucket.engine.engine import Engine

MATCH = {"match": ["id"]}


@pytest.fixture
def day(awkward, ask_awkward, workspace):
    """Refresh with some sailings on a day; gives the run."""

    def go(number, ids, feeds, state="complete", **parts):
        rows = [{"id": f"{at:03}", "delay": number * 10 + at, "day": "2026-11-01"} for at in ids]
        total = len(rows) + (state == "incomplete")

        async def page(request):
            shown = rows if request.query["page"] == "1" else []
            return web.json_response({"data": shown, "total": total})

        awkward.answers["/data"] = page
        pages = {"by": "number", "total": "$.total", "size": 100}
        take = {
            "records": "$.data[*]",
            "columns": [
                {"name": "id", "place": "$.id", "kind": "text"},
                {"name": "delay", "place": "$.delay"},
                {"name": "day", "place": "$.day"},
            ],
        }
        moment = NOON + timedelta(days=number)
        return ask_awkward(moment=moment, pages=pages, take=take, keep=MATCH, hand_over=feeds, **parts)

    return go


def last(workspace, feed=0):
    query = workspace.queries.find("awkward")
    return workspace.feeds.last().get((query.id, query.brief.hand_over[feed].key))


def sheet_values(path, sheet="awkward"):
    return [[cell.value for cell in row] for row in openpyxl.load_workbook(path)[sheet].iter_rows()]


SHEET = {"to": "sheet", "path": "harbour.xlsx"}
CSV = {"to": "file", "path": "sailings-{date}.csv"}
HISTORY = {"to": "history", "path": "history"}


def test_a_month_of_days_in_workbook_file_and_history(day, workspace):
    """Each day some sailings come, go and change; every target follows."""
    feeds = [
        SHEET,
        {**SHEET, "sheet": "Log", "way": "add"},
        {**SHEET, "sheet": "Kept", "way": "update"},
        CSV,
        HISTORY,
    ]
    out = workspace.settings.own_folder
    seen, logged = [], 0
    for number in range(30):
        ids = [at for at in range(12) if (at * 7 + number) % 5]
        day(number, ids, feeds)
        told = [last(workspace, at) for at in range(len(feeds))]
        assert [one.state for one in told] == ["done"] * len(feeds), [one.problem for one in told]
        rows = sheet_values(out / "harbour.xlsx")
        assert [row[0] for row in rows] == ["id", *[f"{at:03}" for at in ids]]
        assert [row[1] for row in rows[1:]] == [number * 10 + at for at in ids]
        logged += len(ids)
        assert len(sheet_values(out / "harbour.xlsx", "Log")) == logged + 1
        kept = sheet_values(out / "harbour.xlsx", "Kept")
        seen += [at for at in ids if at not in seen]
        assert [row[0] for row in kept[1:]] == [f"{at:03}" for at in seen]
        gone = {row[0] for row in kept[1:] if row[3]}
        assert gone >= {f"{at:03}" for at in seen if at not in ids}
    # A file a day, and a history that an engine reads with its dates.
    files = sorted(out.glob("sailings-*.csv"))
    assert len(files) == 30
    table = pyarrow.dataset.dataset(out / "history", partitioning="hive").to_table()
    assert table.num_rows == logged
    assert set(table.column_names) == {"id", "delay", "day", "taken_at", "taken"}
    assert len(set(table["taken"].to_pylist())) == 30
    assert not any(path.name.startswith(".") for path in out.rglob("*"))


@needs_server
def test_a_month_of_days_in_a_database(day, workspace, postgres_server):
    """Each day the table of the database is the table of the day, and the log has all days."""
    account = {"to": "database", "host": postgres_server, "database": "harbour", "user": "desk"}
    feeds = [
        {**account, "id": "now", "table": "month_now"},
        {**account, "id": "log", "table": "month_log", "way": "add"},
    ]
    day(-1, [1], feeds)
    query = workspace.queries.find("awkward")

    async def store():
        engine = Engine(workspace, LeapingClock(NOON))
        for feed in query.brief.hand_over:
            engine.deliveries.store_password(query.id, feed, PASSWORD)
        await engine.close()

    asyncio.run(store())
    logged = 0
    with psycopg.connect(host=postgres_server, dbname="harbour", user="desk", password=PASSWORD, autocommit=True) as db:
        for number in range(30):
            ids = [at for at in range(12) if (at * 7 + number) % 5]
            day(number, ids, feeds)
            assert [last(workspace, at).problem for at in (0, 1)] == [None, None]
            logged += len(ids)
            found = db.execute("SELECT id, delay FROM month_now ORDER BY id").fetchall()
            assert found == [(f"{at:03}", number * 10 + at) for at in ids]
            assert db.execute('SELECT count(*), count(DISTINCT "as of") FROM month_log').fetchone() == (
                logged,
                number + 1,
            )


def test_a_feed_runs_at_times_of_its_own(day, workspace):
    feed = {**CSV, "path": "own.csv", "when": "schedule", "schedule": {"kind": "at", "at": "18:00"}}
    day(0, [1, 2], [feed])
    out = workspace.settings.own_folder / "own.csv"

    def look(moment):
        async def once():
            engine = Engine(workspace, LeapingClock(moment))
            await engine.deliveries.look()
            await engine.deliveries.idle()
            await engine.close()

        asyncio.run(once())

    look(NOON + timedelta(hours=5))
    assert not out.exists()
    look(NOON + timedelta(hours=7))
    assert last(workspace).cause == "schedule"
    look(NOON + timedelta(hours=8))
    assert len(workspace.feeds.history()) == 1
    look(NOON + timedelta(days=1, hours=7))
    assert len(workspace.feeds.history()) == 2


def test_an_incomplete_table_is_handed_over_when_asked_for_and_marked(day, workspace):
    out = workspace.settings.own_folder
    marked = {**SHEET, "sheet": "Marked", "cell": "A3", "stamp": "B1", "when": "any"}
    assert day(0, [1, 2], [SHEET, marked, HISTORY], state="incomplete").state == "incomplete"
    assert last(workspace, 0) is None
    assert last(workspace, 2) is None
    assert last(workspace, 1).state == "done"
    rows = sheet_values(out / "harbour.xlsx", "Marked")
    assert rows[0][1].startswith("As of 2026-11-25 12:00, incomplete: ")
    day(1, [1, 2], [SHEET, marked, HISTORY])
    assert sheet_values(out / "harbour.xlsx", "Marked")[0][1] == "As of 2026-11-26 12:00, complete"
    assert [path.parent.name for path in out.glob("history/*/*")] == ["taken=2026-11-26"]


def test_only_new_rows_and_only_what_differs(day, workspace):
    out = workspace.settings.own_folder
    new = {"to": "file", "path": "new.csv", "rows": "new"}
    changed = {"to": "file", "path": "changed.csv", "rows": "changed", "most": 3}
    feeds = [new, changed]
    day(0, [1, 2], feeds)

    def read(name):
        return [row[:2] for row in csv.reader((out / name).open(newline=""))]

    assert read("new.csv") == [["id", "delay"], ["001", "1"], ["002", "2"]]
    day(1, [2, 3, 4], feeds)
    assert read("new.csv") == [["id", "delay"], ["003", "13"], ["004", "14"]]
    assert read("changed.csv") == [["change", "id"], ["gone", "001"], ["changed", "002"], ["new", "003"]]


def test_what_fails_is_told_and_tried_again(day, workspace):
    out = workspace.settings.own_folder
    day(0, [1], [SHEET, CSV])
    lock = out / ".~lock.harbour.xlsx#"
    lock.write_text("somebody")
    old = (out / "harbour.xlsx").read_bytes()
    run = day(1, [1, 2], [SHEET, CSV])
    # The refresh is as good as ever, and so is the other feed.
    assert run.state == "complete"
    assert last(workspace, 1).state == "done"
    failed = last(workspace, 0)
    assert (failed.state, failed.problem.kind) == ("failed", "file-open")
    assert (out / "harbour.xlsx").read_bytes() == old
    key = failed.key
    record = workspace.feeds.record(failed.query_id, key)
    assert record.tries == 1
    assert (
        record.next_try == (NOON + timedelta(days=1, minutes=1)).isoformat()[: len(record.next_try)] or record.next_try
    )

    def look(moment):
        async def once():
            engine = Engine(workspace, LeapingClock(moment))
            await engine.deliveries.look()
            await engine.deliveries.idle()
            await engine.close()

        asyncio.run(once())

    look(NOON + timedelta(days=1))  # It is not due yet.
    assert workspace.feeds.record(failed.query_id, key).tries == 1
    look(NOON + timedelta(days=1, minutes=10))
    assert workspace.feeds.record(failed.query_id, key).tries == 2
    lock.unlink()
    look(NOON + timedelta(days=1, minutes=20))
    assert last(workspace, 0).cause == "tried again"
    assert last(workspace, 0).state == "done"
    record = workspace.feeds.record(failed.query_id, key)
    assert (record.tries, record.next_try) == (0, None)
    assert [row[0] for row in sheet_values(out / "harbour.xlsx")] == ["id", "001", "002"]


def test_a_feed_by_hand_waits_for_a_person_and_says_what_it_would_do(day, workspace):
    feed = {**SHEET, "when": "by hand"}
    day(0, [1, 2, 3], [feed])
    assert last(workspace) is None
    query = workspace.queries.find("awkward")

    async def once():
        engine = Engine(workspace, LeapingClock(NOON))
        handed, _ = engine.deliveries.ahead(query.id, query.brief, query.brief.hand_over[0])
        assert not list(workspace.settings.own_folder.rglob("*"))
        done = engine.deliveries.deliver(query, query.brief.hand_over[0], "by hand")
        again, _ = engine.deliveries.ahead(query.id, query.brief, query.brief.hand_over[0])
        await engine.close()
        return handed, done, again

    handed, done, again = asyncio.run(once())
    assert handed.there == "The workbook is not there yet: it is made."
    assert done.told == ["3 rows written."]
    assert again.there == "A1:C4 of “awkward” holds 3 rows now."
    assert again.told == ["3 rows replaced by 3 rows."]


@pytest.mark.parametrize(
    ("path", "kind"),
    [
        ("../out.csv", "path-refused"),
        ("a/../../out.csv", "path-refused"),
        ("..\\out.csv", "path-refused"),
        ("/etc/out.csv", "folder-refused"),
        ("C:\\out.csv", "path-refused"),
        ("out", "format-unknown"),
        ("out.pdf", "format-unknown"),
        ("a\nb.csv", "path-refused"),
    ],
)
def test_places_that_may_not_be_written(day, workspace, path, kind, tmp_path):
    day(0, [1], [{"to": "file", "path": path}])
    told = last(workspace)
    assert (told.state, told.problem.kind) == ("failed", kind)
    assert told.problem.do


def test_a_link_leads_out_of_no_folder(day, workspace, tmp_path):
    outside = tmp_path / "outside"
    outside.mkdir()
    own = workspace.settings.own_folder
    own.mkdir(parents=True)
    (own / "link").symlink_to(outside)
    day(0, [1], [{"to": "file", "path": "link/out.csv"}])
    assert last(workspace).problem.kind == "folder-refused"
    workspace.settings.allow_writing([outside])
    day(1, [1], [{"to": "file", "path": "link/out.csv"}, {"to": "file", "path": str(outside / "b.csv")}])
    assert sorted(path.name for path in outside.iterdir()) == ["b.csv", "out.csv"]


def test_a_file_for_each_value_and_a_schema_beside(day, workspace):
    feed = {
        "to": "file",
        "path": "by/{query}-{value}.csv",
        "part_by": "id",
        "table_schema": True,
        "separator": "semicolon",
        "decimal": "comma",
        "quotes": "texts",
        "line_ends": "lf",
        "encoding": "utf-8-bom",
    }
    day(0, [1, 2], [feed])
    folder = workspace.settings.own_folder / "by"
    assert sorted(path.name for path in folder.iterdir()) == [
        "awkward-001.csv", "awkward-001.schema.json", "awkward-002.csv", "awkward-002.schema.json",
    ]  # fmt: skip
    data = (folder / "awkward-001.csv").read_bytes()
    assert data == b'\xef\xbb\xbf"id";"delay";"day"\n"001";1;"2026-11-01"\n'
    schema = json.loads((folder / "awkward-001.schema.json").read_text())
    assert [(one["name"], one["type"]) for one in schema["schema"]["fields"]] == [
        ("id", "string"), ("delay", "integer"), ("day", "date"),
    ]  # fmt: skip
    assert schema["schema"]["primaryKey"] == ["id"]
    assert schema["dialect"] == {"delimiter": ";", "lineTerminator": "\n", "header": True}


def test_a_workbook_of_several_queries_says_where_from(day, workspace):
    other = workspace.queries.add(load_brief({"name": "Other", "start": {"tables": [{"query": "awkward"}]}}), NOON)
    assert other.id
    day(0, [1, 2], [{"to": "file", "path": "all.xlsx", "also": ["Other"]}])
    book = openpyxl.load_workbook(workspace.settings.own_folder / "all.xlsx")
    assert book.sheetnames == ["awkward", "Other", "Where from"]
    assert [row[0].value for row in book["Other"].iter_rows()] == ["id", "001", "002"]
    about = {row[0].value: row[1].value for row in book["Where from"].iter_rows(max_row=5)}
    assert about["Where from"] == "Awkward, GET /data"
    assert about["As of"].startswith("2026-11-25 12:00")
    assert about["State"].startswith("complete")


def test_a_deleted_query_takes_its_records_along(day, workspace):
    day(0, [1], [SHEET])
    query = workspace.queries.find("awkward")
    workspace.queries.delete(query.id)
    assert workspace.feeds.history() == []
    assert workspace.feeds.records() == {}


def test_a_table_that_is_made_of_another_is_handed_over_behind_it(day, workspace):
    brief = {"name": "Made", "start": {"tables": [{"query": "awkward"}]}, "hand_over": [{**SHEET, "sheet": "Made"}]}
    chained = {
        "name": "Chained",
        "start": {"tables": [{"query": "Made"}]},
        "hand_over": [{**CSV, "path": "chained.csv"}],
    }
    day(0, [1], [])
    made = [workspace.queries.add(load_brief(one), NOON) for one in (brief, chained)]
    day(1, [1, 2], [])
    told = [workspace.feeds.history(one.id) for one in made]
    assert [[one.state for one in some] for some in told] == [["done"], ["done"]]
    assert told[0][0].cause == "after “awkward”"
    out = workspace.settings.own_folder
    assert [row[0] for row in sheet_values(out / "harbour.xlsx", "Made")] == ["id", "001", "002"]
    assert len((out / "chained.csv").read_text().splitlines()) == 3


def test_times_in_a_fed_sheet_keep_their_instant_when_the_clocks_change(awkward, ask_awkward, workspace):
    """The first time is one of summer, and what comes later one of winter; a row is found by its time."""

    def fed(rows, number, **more):
        awkward.answers["/data"] = (
            200, {"Content-Type": "application/json"}, json.dumps({"data": rows, "total": len(rows)}).encode()
        )  # fmt: skip
        feed = {**SHEET, "way": "update", **more}
        columns = [{"name": name, "place": f"$.{name}", "kind": kind}
                   for name, kind in (("at", "date and time"), ("late", "whole number"))]  # fmt: skip
        run = ask_awkward(
            moment=NOON + timedelta(days=number), take={"records": "$.data[*]", "columns": columns},
            pages={"by": "none", "total": "$.total"}, keep={"match": ["at"]}, hand_over=[feed],
        )  # fmt: skip
        assert run.problem is None
        return last(workspace)

    done = fed([{"at": "2026-10-20T09:30:00+02:00", "late": 1}], 0)
    assert "Times of “at” are in UTC+02:00." in done.told
    again = [{"at": "2026-10-20T07:30:00Z", "late": 5}, {"at": "2026-11-25T09:30:00+01:00", "late": 2}]
    fed(again, 1)
    path = workspace.settings.own_folder / "harbour.xlsx"
    rows = sheet_values(path)
    assert [row[:2] for row in rows[1:]] == [[datetime(2026, 10, 20, 9, 30), 5], [datetime(2026, 11, 25, 10, 30), 2]]
    path.unlink()
    fed(again, 2, moments="text")
    assert [row[0] for row in sheet_values(path)[1:]] == [one["at"] for one in again]
