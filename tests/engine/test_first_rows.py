"""Only the first rows: of pages, of many values, of lists in records, and of sheets."""

from types import SimpleNamespace

import pytest
from aiohttp import web

from tests.conftest import NOON
from tin_bucket.core.analysis.completeness import may_go_on
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.interchange.workbook import read_sheet
from tin_bucket.engine.attention import attention
from tin_bucket.engine.engine import Engine

PAGED = {"by": "number", "last_page": "$.pages", "total": "$.total"}


@pytest.fixture
def listing(workspace, awkward):
    """A list of 100 rows, ten a page; `v` names another list of three rows."""

    async def pages(request):
        if "v" in request.query:
            return web.json_response({"rows": [{"id": f"{request.query['v']}{at}"} for at in range(3)]})
        page = int(request.query.get("page", 1))
        rows = [{"id": at, "parts": [1, 2, 3]} for at in range(page * 10 - 10, page * 10)]
        return web.json_response({"pages": 10, "total": 100, "rows": rows if page <= 10 else []})

    awkward.answers["/list"] = pages
    workspace.services.save(Service(id="own", name="Own", base=awkward.base))
    return awkward


def query_of(workspace, **more):
    document = {"name": "first rows", "ask": {"service": "own", "path": "/list"}, **more}
    return workspace.queries.add(load_brief(document), NOON)


def rows_of(workspace, run):
    at = [column.name for column in workspace.snapshots.get(run.snapshot_id).columns].index("id")
    return [row[at] for row in workspace.snapshots.all_rows(run.snapshot_id)]


def test_no_page_behind_the_first_rows_is_asked_for(workspace, listing, refresh):
    query = query_of(workspace, pages=PAGED, take={"records": "$.rows[*]", "most_rows": 25})
    run = refresh(query.id)
    assert rows_of(workspace, run) == list(range(25))
    assert len(workspace.runs.calls(run.id)) == 3
    assert (run.state, run.report.gaps) == ("incomplete", ["the brief takes the first 25 rows only, of 100 stated"])
    assert run.report.only_first
    assert attention(workspace, workspace.overview.lines(), {}, {}, {"own": SimpleNamespace(left=[])}, NOON) == []


def test_a_page_that_failed_among_them_is_told_and_can_be_tried_again(workspace, listing, refresh):
    good = listing.answers["/list"]

    async def second_page_fails(request):
        return web.json_response({}, status=500) if request.query["page"] == "2" else await good(request)

    listing.answers["/list"] = second_page_fails
    run = refresh(query_of(workspace, pages=PAGED, take={"records": "$.rows[*]", "most_rows": 25}).id)
    assert rows_of(workspace, run) == [*range(10), *range(20, 35)]
    assert run.report.gaps[1] == "1 page has failed, so these are not all of the first rows"
    assert (run.state, run.report.only_first) == ("incomplete", False)
    assert may_go_on(run.state, run.records, run.report)


def test_a_snapshot_that_is_rebuilt_with_fewer_rows_is_not_called_complete(workspace, listing, refresh):
    query = query_of(workspace, pages=PAGED, take={"records": "$.rows[*]"})
    run = refresh(query.id)
    assert run.state == "complete"
    shorter = query.brief.model_copy(update={"take": query.brief.take.model_copy(update={"most_rows": 5})})
    workspace.queries.save(query.id, shorter, NOON)
    for _ in range(2):
        Engine(workspace).rereader.rebuild(run.id)
        snapshot, now = workspace.snapshots.get(run.snapshot_id), workspace.runs.get(run.id)
        assert (snapshot.rows, snapshot.state, now.state) == (5, "incomplete", "incomplete")
        assert (snapshot.evidence, now.report.only_first) == (
            "the brief takes the first 5 rows only, of 100 stated",
            True,
        )


def test_fewer_rows_than_that_are_a_whole_table(workspace, listing, refresh):
    query = query_of(workspace, pages=PAGED, take={"records": "$.rows[*]", "most_rows": 100})
    run = refresh(query.id)
    assert (run.state, run.rows, run.report.only_first) == ("complete", 100, False)


def test_of_one_answer_rows_are_left_out_and_that_is_said(workspace, listing, refresh):
    query = query_of(workspace, take={"records": "$.rows[*]", "rows_for": ["$.parts"], "most_rows": 5})
    run = refresh(query.id)
    assert rows_of(workspace, run) == [0, 0, 0, 1, 1]
    assert run.state == "incomplete"


def test_of_many_values_only_as_many_are_asked_for_as_the_rows_take(workspace, listing, refresh):
    query = query_of(
        workspace,
        ask={"service": "own", "path": "/list", "query": [{"name": "v", "value": "{v}"}]},
        parameters=[{"name": "v", "kind": "text"}],
        each=[{"by": "list", "parameter": "v", "values": ["a", "b", "c", "d"]}],
        take={
            "records": "$.rows[*]",
            "columns": [{"place": "$.id", "name": "id"}],
            "most_rows": 5,
        },
    )
    run = refresh(query.id)
    assert rows_of(workspace, run) == ["a0", "a1", "a2", "b0", "b1"]
    assert len(workspace.runs.calls(run.id)) == 2
    assert run.report.gaps == ["the brief takes the first 5 rows only"]


def test_of_a_sheet_and_for_lookups_too(workspace, listing, refresh):
    settings = SheetSettings()
    data = b"v\na\nb\nc\n"
    table = read_sheet("v.csv", data, settings)
    workspace.sheets.save("values", "v.csv", settings, table.headings, len(table.records), data, NOON)
    brief = load_brief(
        {
            "name": "sheet",
            "sheet": {"sheet": "values"},
            "take": {"records": "$[*]", "most_rows": 2},
            "look_up": [
                {
                    "name": "list",
                    "service": "own",
                    "path": "/list",
                    "query": [{"name": "v", "value": "{v}"}],
                    "with": {"v": "v"},
                    "take": [{"place": "$.rows[0].id", "name": "first"}],
                }
            ],
        }
    )
    run = refresh(workspace.queries.add(brief, NOON).id)
    assert [tuple(row) for row in workspace.snapshots.all_rows(run.snapshot_id)] == [("a", "a0"), ("b", "b0")]
    assert run.report.lookups["list"].calls == 2


def test_the_limit_of_earlier_versions_is_read_as_one_of_rows():
    brief = load_brief(
        {"name": "old", "ask": {"service": "own", "path": "/"}, "pages": {"by": "number", "most_rows": 30}}
    )
    assert (brief.take.most_rows, hasattr(brief.pages, "most_rows")) == (30, False)


def test_records_that_are_left_out_are_none_of_the_first_rows(workspace, listing, refresh):
    async def pages(request):
        page = int(request.query.get("page", 1))
        rows = [{"id": at, "parts": [at] if at % 5 == 0 else []} for at in range(page * 10 - 10, page * 10)]
        return web.json_response({"pages": 10, "total": 100, "rows": rows})

    listing.answers["/list"] = pages
    take = {"records": "$.rows[*]", "rows_for": ["$.parts"], "without_items": "leave out", "most_rows": 5}
    run = refresh(query_of(workspace, pages=PAGED, take=take).id)
    assert rows_of(workspace, run) == [0, 5, 10, 15, 20]
    assert len(workspace.runs.calls(run.id)) == 3
