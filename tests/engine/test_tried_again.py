"""A refresh that was due and brought no table is tried again by itself, and goes on from what is saved."""

import asyncio
from datetime import timedelta

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.engine.test_resume import in_pages, query_on
from tests.test_cli import tin_bucket
from tests.waiting import async_until
from tin_bucket.core.document.query import load_brief
from tin_bucket.engine.clock import Clock, SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.schedule import Schedule

AT_ONE = {"kind": "at", "at": "13:00"}


@pytest.fixture
def pages(awkward):
    """A service of ten pages, whose calls are in `asked`; the pages in `broken` answer with `status`."""

    class Pages:
        asked, broken, status, hangs = [], set(), 503, set()

    Pages.asked, Pages.broken, Pages.hangs = [], set(), set()
    plain = in_pages(10, 1)

    async def answer(request):
        page = int(request.query.get("page", 1))
        Pages.asked.append(page)
        if page in Pages.hangs:
            await asyncio.sleep(30)
        if page in Pages.broken:
            return web.json_response({"error": "no"}, status=Pages.status)
        return await plain(request)

    awkward.answers["/data"] = answer
    return Pages


def due_at_one(workspace, awkward, **service):
    """A cursor cannot go on behind a page that failed, so such a run has no table."""
    query = query_on(workspace, awkward.base, tries=1, at_once=1, **service)
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["keep"] |= {"schedule": AT_ONE}
    return workspace.queries.save(query.id, load_brief(document), NOON)


def looked(workspace, *minutes):
    """Look at the clock at these minutes past noon, each as a program that was started then."""

    async def go(minute):
        engine = Engine(workspace, SetClock(NOON + timedelta(minutes=minute)))
        schedule = Schedule(engine)
        for _ in range(2):
            await schedule.look()
            await async_until(lambda: not engine.running())
        await engine.close()

    for minute in minutes:
        asyncio.run(go(minute))


def states(workspace, query):
    return [run.state for run in workspace.runs.latest(query.id)][::-1]


def test_what_passes_is_tried_again_after_a_while(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    pages.broken = set(range(1, 11))
    looked(workspace, 61)
    assert states(workspace, query) == ["failed"]
    looked(workspace, 63)
    assert states(workspace, query) == ["failed"]
    pages.broken = set()
    looked(workspace, 67, 90, 200)
    assert states(workspace, query) == ["failed", "complete"]


def test_what_stays_as_it_is_waits_for_a_person(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    pages.broken, pages.status = set(range(1, 11)), 404
    looked(workspace, 61, 70, 90, 200)
    assert states(workspace, query) == ["failed"]


def test_it_is_given_up_after_some_times_until_it_is_due_again(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    pages.broken = set(range(1, 11))
    looked(workspace, *range(61, 400, 4))
    assert states(workspace, query) == ["failed"] * 4
    pages.broken = set()
    looked(workspace, 61 + 24 * 60)
    assert states(workspace, query)[-1] == "complete"


def test_a_program_that_is_stopped_goes_on_when_it_begins_again(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    pages.hangs = {6}

    async def stopped():
        engine = Engine(workspace, SetClock(NOON + timedelta(minutes=61)))
        await Schedule(engine).look()
        await async_until(lambda: 6 in pages.asked)
        await engine.close(goes_on=True)

    asyncio.run(stopped())
    assert states(workspace, query) == ["interrupted"]
    pages.hangs, pages.asked[:] = set(), []
    looked(workspace, 62)
    assert states(workspace, query) == ["interrupted", "complete"]
    assert sorted(pages.asked) == [6, 7, 8, 9, 10]


def test_what_a_person_stops_is_not_begun_again(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    pages.hangs = {3}

    async def stopped():
        engine = Engine(workspace, SetClock(NOON + timedelta(minutes=61)))
        await Schedule(engine).look()
        await async_until(lambda: 3 in pages.asked)
        (run_id,) = engine.running().values()
        engine.cancel(run_id)
        await engine.wait(run_id)
        await engine.close()

    asyncio.run(stopped())
    pages.hangs = set()
    looked(workspace, 62, 70, 100)
    assert states(workspace, query) == ["cancelled"]


def test_a_command_takes_up_what_is_due_and_broke_off(workspace, awkward, pages, monkeypatch):
    query = due_at_one(workspace, awkward)
    moment = NOON + timedelta(minutes=61)
    monkeypatch.setattr(Clock, "now", lambda _: moment)
    run_id = workspace.runs.begin(
        query.id, query.brief.model_dump_json(by_alias=True), {}, "command line", moment, [{}]
    )
    with workspace.write() as db:
        db.execute("UPDATE run SET process = 'gone' WHERE id = ?", (run_id,))
    workspace.runs.mark_interrupted()
    due = ("refresh", "--all", "--due", "--home", workspace.home)
    workspace.settings.put("schedules paused", "on")
    assert (tin_bucket(*due).stderr, pages.asked) == ("", [])
    workspace.settings.put("schedules paused", "")
    done = tin_bucket(*due)
    assert done.returncode == 0, done.stderr
    assert states(workspace, query) == ["interrupted", "complete"]
    assert (tin_bucket(*due).stderr, states(workspace, query)) == ("", ["interrupted", "complete"])


def test_a_call_that_may_change_something_is_not_made_again_unasked(workspace, awkward, pages):
    query = due_at_one(workspace, awkward)
    document = query.brief.model_dump(mode="json", by_alias=True)
    document["ask"] |= {"method": "POST", "body": {"kind": "json", "value": {}}}
    query = workspace.queries.save(query.id, load_brief(document), NOON)
    run_id = workspace.runs.begin(
        query.id, query.brief.model_dump_json(by_alias=True), {}, "schedule", NOON + timedelta(minutes=61), [{}]
    )
    with workspace.write() as db:
        db.execute("UPDATE run SET process = 'gone' WHERE id = ?", (run_id,))
    workspace.runs.mark_interrupted()
    looked(workspace, 62, 90)
    assert (states(workspace, query), pages.asked) == (["interrupted"], [])
