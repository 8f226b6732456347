"""A refresh asks only for what changed, where the service says of what version its answers are."""

import asyncio
import hashlib
import json

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.engine.test_resume import BY_NUMBER, go, ids_of, query_on
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.formats.http import origin
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.engine.workspace.run_archive import run_archive

PAGES = 6


class Versioned:
    """Numbered pages, each with its ETag; what was asked is in `asked` as (page, named, status)."""

    def __init__(self):
        self.rows = [{"id": at, "says": "as it was"} for at in range(PAGES * 5)]
        self.asked = []
        self.more = {}
        self.left = None  # Calls that are left, where it says so; 304 are free.

    async def __call__(self, request):
        page = int(request.query.get("page", 1))
        body = json.dumps({"pages": PAGES, "total": len(self.rows), "rows": self.rows[(page - 1) * 5 : page * 5]})
        etag = f'"{hashlib.sha1(body.encode()).hexdigest()[:12]}"'
        named = request.headers.get("If-None-Match")
        status = 304 if named == etag else 200
        self.asked.append((page, named, status))
        told = {"ETag": etag, **self.more}
        if self.left is not None:
            self.left -= status != 304
            told["X-RateLimit-Remaining"] = str(self.left)
        if status == 304:
            return web.Response(status=304, headers=told)
        return web.Response(body=body, headers={**told, "Content-Type": "application/json"})

    def statuses(self):
        """The statuses since the last time that they were looked at."""
        made, self.asked = self.asked, []
        return [status for _, _, status in sorted(made, key=lambda one: one[0])]


@pytest.fixture
def versioned(awkward):
    awkward.answers["/data"] = made = Versioned()
    return made


def test_a_second_refresh_takes_what_did_not_change_from_the_saved_answers(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base)
    first = refresh(query.id)
    assert versioned.statuses() == [200] * PAGES
    second = refresh(query.id)
    assert versioned.statuses() == [304] * PAGES
    assert (second.state, second.calls, second.rows) == ("complete", PAGES, first.rows)
    assert ids_of(workspace, second) == ids_of(workspace, first)
    assert (second.report.tally.unchanged, second.report.tally.saved, second.report.tally.bytes) == (PAGES, 0, 0)
    assert first.report.tally.bytes > 0
    calls = workspace.runs.calls(second.id)
    assert {(call.state, call.came_as, call.status) for call in calls} == {("unchanged", 304, 200)}
    # The condition is of that one call; the question as it is shown and copied brings its rows.
    assert not any(name == "If-None-Match" for call in calls for name, _ in call.headers)
    entries = run_archive(workspace, second.id)["log"]["entries"]
    assert {entry["response"]["status"] for entry in entries} == {304}
    assert "up to date" in entries[0]["comment"]


def test_only_the_page_that_changed_is_sent(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base)
    refresh(query.id)
    versioned.rows[7]["says"] = "changed"
    versioned.statuses()
    run = refresh(query.id)
    assert versioned.statuses() == [304, 200, 304, 304, 304, 304]
    rows = list(workspace.snapshots.all_rows(run.snapshot_id))
    assert [row for row in rows if row[1] == "changed"] == [(7, "changed")]
    assert run.report.tally.unchanged == PAGES - 1
    # And the next one names the newer version of that page.
    refresh(query.id)
    assert versioned.statuses() == [304] * PAGES


def test_what_was_saved_before_an_incomplete_run_is_asked_for_too(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base, tries=1)
    refresh(query.id)
    awkward.answers["/data"], good = (500, {}, b"down"), versioned
    assert refresh(query.id).state == "failed"
    awkward.answers["/data"] = good
    versioned.statuses()
    assert refresh(query.id).state == "complete"
    assert versioned.statuses() == [304] * PAGES


def test_a_service_that_is_set_so_is_asked_for_everything(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base, conditional=False)
    refresh(query.id)
    versioned.statuses()
    refresh(query.id)
    assert versioned.statuses() == [200] * PAGES
    assert not any("If-None-Match" in headers for _, headers in awkward.seen)


def test_answers_that_came_with_another_key_are_asked_for_anew(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base, key=Key(name="own key"))
    bound = origin(awkward.base)
    workspace.vault.store("own", bound, "first-key-of-a-test", NOON)
    refresh(query.id)
    versioned.statuses()
    refresh(query.id)
    assert versioned.statuses() == [304] * PAGES
    later = NOON.replace(hour=13)
    workspace.vault.store("own", bound, "other-key-of-a-test", later)
    refresh(query.id, later)
    assert versioned.statuses() == [200] * PAGES


def test_an_answer_that_was_let_go_is_asked_for_again(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base)
    refresh(query.id)
    versioned.statuses()
    body = workspace.archive.body

    def gone(run_id, number):
        if number == 3:
            workspace.archive.prune(query.id, 0)
        return body(run_id, number)

    workspace.archive.body = gone
    run = refresh(query.id)
    assert (run.state, run.rows) == ("complete", PAGES * 5)
    assert sorted(ids_of(workspace, run)) == list(range(PAGES * 5))


def test_a_service_that_refuses_the_condition_is_asked_without_it(workspace, awkward, versioned, refresh):
    query = query_on(workspace, awkward.base)
    refresh(query.id)
    versioned.statuses()

    async def refuses(request):
        if "If-None-Match" in request.headers:
            return web.Response(status=412)
        return await versioned(request)

    awkward.answers["/data"] = refuses
    run = refresh(query.id)
    assert (run.state, run.rows) == ("complete", PAGES * 5)
    assert versioned.statuses() == [200] * PAGES


def test_a_304_that_nobody_asked_for_is_said_to_be_none(workspace, awkward, versioned, refresh):
    awkward.answers["/data"] = (304, {}, b"")
    query = query_on(workspace, awkward.base)
    run = refresh(query.id)
    assert run.problem.kind == "nothing-changed"


def test_lookups_are_conditional_too(workspace, awkward, refresh):
    asked = []

    async def port(request):
        named = request.headers.get("If-None-Match")
        asked.append(named)
        return web.Response(status=304) if named else web.json_response({"name": "Ost"}, headers={"ETag": '"p"'})

    awkward.answers["/ports/1"] = port
    awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, b'{"rows":[{"id":1},{"id":1}]}')
    query = query_on(workspace, awkward.base, pages={"by": "none"})
    document = query.brief.model_dump(by_alias=True, mode="json")
    look_up = {"name": "port", "path": "/ports/{id}", "with": {"id": "id"}, "take": [{"place": "$.name", "name": "n"}]}
    workspace.queries.save(query.id, load_brief({**document, "look_up": [look_up]}), NOON)
    refresh(query.id)
    run = refresh(query.id)
    assert asked == [None, '"p"']
    assert list(workspace.snapshots.all_rows(run.snapshot_id)) == [(1, "Ost"), (1, "Ost")]
    assert run.report.tally.unchanged == 1


@pytest.mark.parametrize(("counts", "left"), [(True, 94), (False, 100)])
def test_the_limits_count_a_304_as_the_service_does(workspace, awkward, versioned, counts, left):
    query = query_on(
        workspace, awkward.base, limits=[Window(calls=100, per="PT1H")], unchanged_counts=counts, at_once=1
    )

    async def twice(engine):
        await engine.refresh(query.id, {}, "by hand")
        service = workspace.services.get("own")
        lane = engine.pacer.lane(service)
        before = lane.left()[0].left
        await engine.refresh(query.id, {}, "by hand")
        return before, lane.left()[0].left

    before, after = go(workspace, twice)
    assert before == 100 - PAGES
    assert after == before - (100 - left)


def test_that_a_304_is_free_is_learnt_from_what_is_left(workspace, awkward, versioned):
    versioned.left = 1_000
    query = query_on(workspace, awkward.base, limits=[Window(calls=100, per="PT1H")], at_once=1)

    async def often(engine):
        for _ in range(3):
            await engine.refresh(query.id, {}, "by hand")
        return engine.pacer.lane(workspace.services.get("own")).left()[0].left

    # The first six and those until it is proved are counted.
    assert go(workspace, often) >= 100 - PAGES - 4
    assert versioned.left == 1_000 - PAGES


def test_a_run_that_goes_on_takes_over_what_was_unchanged(workspace, awkward, versioned):
    query = query_on(workspace, awkward.base, pages={**BY_NUMBER}, tries=1, at_once=1)

    async def work(engine):
        await engine.refresh(query.id, {}, "by hand")
        versioned.statuses()
        fails = {4}

        async def broken(request):
            if int(request.query.get("page", 1)) in fails:
                return web.Response(status=503)
            return await versioned(request)

        awkward.answers["/data"] = broken
        stopped = await engine.refresh(query.id, {}, "by hand")
        assert stopped.state == "incomplete"
        versioned.statuses()
        fails.clear()
        run_id = await engine.resume(stopped.id)
        await engine.wait(run_id)
        return await asyncio.to_thread(workspace.runs.get, run_id)

    run = go(workspace, work)
    assert (run.state, run.rows, run.calls) == ("complete", PAGES * 5, 1)
    assert versioned.statuses() == [304]
    assert run.report.tally.saved == PAGES - 1
