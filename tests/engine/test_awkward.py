"""Every way in which the awkward service misbehaves, as a refresh tells it."""

import asyncio
from contextlib import suppress

import pytest
from aiohttp import web

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.report import PageSize
from tin_bucket.core.document.service import Service

NUMBERED = {"by": "number", "last_page": "$.pages", "total": "$.total"}


@pytest.fixture
def ask(workspace, company, refresh):
    def go(way, pages=None, tries=1, timeout=20.0):
        service = workspace.services.get("skerrywick-awkward")
        workspace.services.save(service.model_copy(update={"tries": tries, "timeout": timeout}))
        document = {
            "name": way, "ask": {"service": service.id, "path": f"/ways/{way}"}, "pages": pages or {"by": "none"},
            "take": {"records": "$.rows[*]"}, "keep": {"match": ["id"]},
        }  # fmt: skip
        return refresh(workspace.queries.add(load_brief(document), NOON).id)

    return go


@pytest.mark.parametrize(
    ("way", "kind", "said"),
    [
        ("error-inside", "error-inside", "the hold is locked"),
        ("problem", "call-refused", "The hold is locked until noon."),
        ("cut-off", "cut-off", "the JSON is incomplete"),
        ("web-page", "web-page", "Sign in to Skerrywick"),
        ("to-sign-in", "web-page", "Sign in to Skerrywick"),
        ("redirect-loop", "redirect-loop", "keeps redirecting"),
        ("swells", "too-large", "larger than 256 MB"),
        ("not-compressed", "not-unpacked", "cannot be unpacked"),
        ("busy-first", "service-failed", "all hands at lunch"),
        ("too-many-seconds", "too-many-calls", "not so fast"),
        ("no-such-way", "not-found", "There is no way"),
        ("breaks-off", "broken-connection", "before the answer was complete"),
    ],
)
def test_what_cannot_be_used_is_said(ask, way, kind, said):
    run = ask(way)
    assert (run.state, run.problem.kind, run.snapshot_id) == ("failed", kind, None)
    assert said in run.problem.sentence()
    assert f"/ways/{way}" in run.problem.where
    assert run.problem.do


def test_an_answer_that_does_not_come_is_waited_for_no_longer_than_wanted(ask):
    run = ask("slow", timeout=0.3)
    assert (run.state, run.problem.kind) == ("failed", "time-out")


@pytest.mark.parametrize(
    ("way", "rows", "oddity"),
    [
        ("empty-list", 0, None), ("no-content", 0, None), ("latin-1", 1, "There is no column “id”"),
        ("byte-order-mark", 2, None), ("compressed", 2, None),
        ("wrong-charset", 1, "read as Windows-1252"), ("not-a-number", 3, "2 values are no number"),
        ("doubled-keys", 1, "Some objects contain “id” more than once"),
    ],
)  # fmt: skip
def test_what_is_odd_is_read_and_said(ask, workspace, way, rows, oddity):
    run = ask(way)
    assert (run.state, run.rows, run.problem) == ("unverified" if rows else "complete", rows, None)
    told = " ".join(run.report.oddities)
    assert (oddity in told) if oddity else told == ""
    if way in ("latin-1", "wrong-charset"):
        assert workspace.snapshots.window(run.snapshot_id, 0, 1) == [("Skjær",)]


@pytest.mark.parametrize(
    ("way", "pages", "rows", "lacks"),
    [
        ("well", NUMBERED, 118, []),
        ("lies-about-total", NUMBERED, 118, ["118 of 130 stated rows are here"]),
        ("rows-move", {"by": "number", "total": "$.total"}, 122,
         ["the stated total went from 118 to 122 while pages were turned", "4 rows came on two pages (by id)"]),
        ("repeats-cursor", {"by": "cursor", "cursor": "$.next_cursor"}, 75, ["the cursor of page 3 is a repeat"]),
        ("repeats-page", {"by": "number", "total": "$.total"}, 25,
         ["25 of 118 stated rows are here"]),
        ("caps-size", {"by": "offset", "size_parameter": "limit", "size": 100}, 118, []),
    ],
)  # fmt: skip
def test_the_completeness_line_says_what_is_not_as_it_should_be(ask, way, pages, rows, lacks):
    run = ask(way, pages)
    assert (run.state, run.rows) == ("incomplete" if lacks else "complete", rows)
    told = run.report.gaps
    assert all(any(line.startswith(wanted) for line in told) for wanted in lacks), told
    if way == "caps-size":
        assert run.report.page_size == PageSize(asked=100, got=25)


def test_rows_that_are_alike_across_pages_are_told_where_nothing_says_which_row_is_which(workspace, awkward, refresh):

    async def pages(request):
        page = int(request.query["page"])
        return web.json_response({"pages": 2, "rows": [{"n": page}, {"n": 9}] if page <= 2 else []})

    awkward.answers["/d"] = pages
    workspace.services.save(Service(id="own", name="Own", base=awkward.base))
    document = {
        "name": "q", "ask": {"service": "own", "path": "/d"}, "pages": {"by": "number", "last_page": "$.pages"},
        "take": {"records": "$.rows[*]"},
    }  # fmt: skip
    run = refresh(workspace.queries.add(load_brief(document), NOON).id)
    assert (run.state, run.rows) == ("unverified", 4)
    assert "1 row is the same as a row on an earlier page" in run.report.oddities[0]


def test_an_answer_that_drips_is_given_up_and_tried_once_more_alone(awkward, ask_awkward):
    asked = []

    async def drip(request):
        asked.append(1)
        response = web.StreamResponse(headers={"Content-Type": "application/json"})
        await response.prepare(request)
        with suppress(ConnectionError):
            for _ in range(100):
                await response.write(b" ")
                await asyncio.sleep(0.05)
        return response

    awkward.answers["/data"] = drip
    run = ask_awkward(timeout=0.3)
    assert (run.state, run.problem.kind, len(asked)) == ("failed", "slow-answer", 2)
    assert "did not end within 0.3 seconds" in run.problem.what
