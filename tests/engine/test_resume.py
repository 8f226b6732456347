"""Limits, trying again, several pages at a time and going on, over real HTTP."""

import asyncio
import json
import os
import signal
import subprocess
import sys
from datetime import UTC, datetime

import pytest
from aiohttp import web

from tests.conftest import DAY, NOON
from tests.waiting import LeapingClock, until
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.demo.services import bookings
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.preview.estimate import cost_of
from tin_bucket.engine.run.plan import make_plan
from tin_bucket.store.workspace import Workspace

BY_NUMBER = {"by": "number", "last_page": "$.pages", "total": "$.total"}


def query_on(workspace, base, path="/data", pages=None, name="asked", **service):
    """A query on a service of a test; more of it by keyword."""
    workspace.services.save(Service(id="own", name="Own", base=base, **service))
    document = {
        "name": name,
        "ask": {"service": "own", "path": path},
        "pages": pages or BY_NUMBER,
        "take": {"records": "$.rows[*]"},
        "keep": {"match": ["id"]},
    }
    return workspace.queries.add(load_brief(document), NOON)


def in_pages(count, size=5, refuse=None):
    """A handler that gives rows in numbered pages; `refuse` gets the page and may give another answer."""
    rows = [{"id": number} for number in range(count)]

    async def handle(request):
        page = int(request.query.get("page", 1))
        found = refuse(page) if refuse is not None else None
        if found is not None:
            return found
        got = rows[(page - 1) * size : page * size]
        return web.json_response({"pages": -(-count // size), "total": count, "rows": got})

    return handle


def ids_of(workspace, run):
    snapshot = workspace.snapshots.get(run.snapshot_id)
    return [row[0] for row in workspace.snapshots.window(snapshot.id, 0, 10_000)]


def go(workspace, work, clock=None):
    async def inside():
        engine = Engine(workspace, clock or LeapingClock(NOON))
        try:
            return await work(engine)
        finally:
            await engine.close()

    return asyncio.run(inside())


def test_known_pages_are_fetched_several_at_a_time_and_stay_in_order(workspace, awkward, refresh):
    under_way, most = 0, 0

    async def slow(request):
        nonlocal under_way, most
        under_way += 1
        most = max(most, under_way)
        # Later pages are answered sooner.
        await asyncio.sleep(0.01 + 0.005 * (20 - int(request.query["page"])))
        under_way -= 1
        return await in_pages(100)(request)

    awkward.answers["/data"] = slow
    run = refresh(query_on(workspace, awkward.base, at_once=5).id)
    assert (run.state, run.calls) == ("complete", 20)
    assert ids_of(workspace, run) == list(range(100))
    assert most == 5
    again = workspace.archive.answers(run.id, "pages")
    assert [json.loads(page.answer.body)["rows"][0]["id"] for page in again] == list(range(0, 100, 5))


def test_limits_are_kept_beforehand_by_all_runs_together(workspace, company, refresh):
    company.bookings.windows = ((6, 0.5), (20, 2.0))
    service = workspace.services.get("skerrywick-bookings")
    # A service counts in whole seconds; its windows are the same here, told in the test's own spans.
    service = service.model_copy(update={"limits": [Window(calls=6, per="PT1S"), Window(calls=20, per="PT2S")]})
    workspace.services.save(service)
    document = {
        "ask": {"service": service.id, "path": "/bookings", "query": [
            {"name": "from", "value": str(DAY)}, {"name": "to", "value": str(DAY)}, {"name": "size", "value": "9"}]},
        "pages": {"by": "next", "next": "$.next"}, "take": {"records": "$.bookings[*]"}, "keep": {"match": ["booking"]},
    }  # fmt: skip
    first = workspace.queries.add(load_brief(document | {"name": "first"}), NOON)
    second = workspace.queries.add(load_brief(document | {"name": "second"}), NOON)
    truth = [one["booking"] for one in bookings.bookings(DAY, DAY, DAY)]
    clock = LeapingClock(NOON)
    company.bookings.elapsed = clock.elapsed

    async def both(engine):
        runs = [await engine.start(query.id, {}, "by hand") for query in (first, second)]
        waits = set()
        for run_id in runs:
            async for told in engine.progress(run_id).listen(0.01):
                if told.waiting:
                    waits.add(told.waiting.why)
        return [workspace.runs.get(run_id) for run_id in runs], waits

    runs, waits = go(workspace, both, clock)
    assert company.bookings.refused == 0
    calls = sum(run.calls for run in runs)
    assert calls == 2 * -(-len(truth) // 9) > 20
    assert (calls - 1) // 6 - 1 < clock.leapt < (calls - 1) // 6 + 2
    assert waits == {"6 calls a second"}
    assert [sorted(ids_of(workspace, run)) for run in runs] == [sorted(truth)] * 2
    # Both had their turns: the first did not make the second wait until it was done.
    sent = [[call.sent for call in workspace.runs.calls(run.id)] for run in runs]
    assert sent[1][0] < sent[0][-1]
    assert sent[0][0] < sent[1][-1]
    # What is left is remembered by the next program.
    times = workspace.paces.since(service.id, 0, "another")
    assert len(times) == 20 or len(times) <= calls


def test_limits_are_remembered_over_a_restart(workspace, awkward):
    awkward.answers["/data"] = in_pages(4)
    query = query_on(workspace, awkward.base, limits=[Window(calls=3, per="PT1H")])

    async def ask(engine):
        await engine.refresh(query.id, {}, "by hand")
        return engine.pacer.lane(workspace.services.get("own")).left()[0].left

    assert go(workspace, ask) == 2
    workspace.close()
    later = Workspace(workspace.home)
    assert go(later, ask) == 1
    later.close()


@pytest.mark.parametrize("way", ["busy-first", "too-many-seconds", "too-many-date", "breaks-off"])
def test_what_passes_is_tried_again_and_the_run_is_whole(workspace, company, refresh, way):
    document = {
        "name": way,
        "ask": {"service": "skerrywick-awkward", "path": f"/ways/{way}"},
        "take": {"records": "$.rows[*]"},
    }
    query = workspace.queries.add(load_brief(document), NOON)

    async def ask(engine):
        return await engine.refresh(query.id, {}, "by hand")

    # The service counts from the machine's time.
    run = go(workspace, ask, LeapingClock(datetime.now(UTC)))
    assert (run.state, run.rows) == ("unverified", 2)
    calls = workspace.runs.calls(run.id)
    assert [call.state for call in calls] == ["again"] * (len(calls) - 1) + ["answered"]
    assert run.report.tally.retries == len(calls) - 1 == (2 if way == "busy-first" else 1)
    assert [call.used for call in calls] == [False] * (len(calls) - 1) + [True]


def test_what_does_not_pass_fails_at_once_with_the_apis_words(workspace, company, refresh):
    document = {"name": "p", "ask": {"service": "skerrywick-awkward", "path": "/ways/problem"}}
    run = refresh(workspace.queries.add(load_brief(document), NOON).id)
    assert (run.state, run.calls, run.problem.words) == ("failed", 1, "The hold is locked until noon.")


def test_calls_that_keep_failing_are_given_up_after_their_tries(workspace, awkward, refresh):
    awkward.answers["/data"] = (503, {}, b"")
    run = refresh(query_on(workspace, awkward.base, tries=2).id)
    assert (run.state, run.calls, run.problem.kind) == ("failed", 2, "service-failed")


def test_a_failed_page_does_not_lose_the_others_and_is_tried_again_alone(workspace, company, refresh):
    document = {
        "name": "crates", "ask": {"service": "skerrywick-awkward", "path": "/ways/one-page-fails"},
        "pages": BY_NUMBER, "take": {"records": "$.rows[*]"}, "keep": {"match": ["id"]},
    }  # fmt: skip
    query = workspace.queries.add(load_brief(document), NOON)
    run = refresh(query.id)
    assert (run.state, run.rows, run.calls) == ("incomplete", 93, 5)
    assert [one.label for one in run.report.failed_pages] == ["page 3"]
    assert "1 page has failed" in " ".join(run.report.gaps)
    assert ids_of(workspace, run) == [n for n in range(118) if not 50 <= n < 75]

    async def again(engine):
        first = await engine.resume(run.id)
        await engine.wait(first)
        second = await engine.resume(first)
        await engine.wait(second)
        return workspace.runs.get(first), workspace.runs.get(second)

    first, second = go(workspace, again)
    assert (first.state, first.calls, first.resumed_from) == ("incomplete", 1, run.id)
    assert (second.state, second.calls, second.rows, second.resumed_from) == ("complete", 1, 118, first.id)
    assert ids_of(workspace, second) == list(range(118))
    assert company.awkward.asked["one-page-fails"] == 7
    states = [("saved" if call.saved else call.state) for call in workspace.runs.calls(second.id)]
    assert sorted(states) == ["answered", "saved", "saved", "saved", "saved"]


def test_a_run_that_was_stopped_goes_on_from_its_saved_answers(workspace, awkward):
    asked = []

    def stuck(page):
        asked.append(page)

    slow = in_pages(100, refuse=stuck)

    async def handle(request):
        await asyncio.sleep(0.02)
        return await slow(request)

    awkward.answers["/data"] = handle
    query = query_on(workspace, awkward.base, at_once=1)

    async def work(engine):
        run_id = await engine.start(query.id, {}, "by hand")
        async for told in engine.progress(run_id).listen(0.005):
            if told.rows >= 40:
                break
        engine.cancel(run_id)
        await engine.wait(run_id)
        made = len(workspace.runs.calls(run_id))
        second = await engine.resume(run_id)
        await engine.wait(second)
        return made, workspace.runs.get(second)

    made, run = go(workspace, work)
    assert (run.state, run.rows, run.calls) == ("complete", 100, 20 - made)
    assert ids_of(workspace, run) == list(range(100))
    # The call that was under way when the run was stopped is made once more; no other is.
    assert len(asked) <= 21
    assert set(asked) == set(range(1, 21))


def test_pages_that_were_answered_before_the_one_that_is_stuck_are_not_asked_for_again(workspace, awkward):
    asked, stuck = [], True

    async def handle(request):
        page = int(request.query.get("page", 1))
        asked.append(page)
        if page == 2 and stuck:
            await asyncio.sleep(60)
        return await in_pages(30)(request)

    awkward.answers["/data"] = handle
    query = query_on(workspace, awkward.base, at_once=3)

    async def work(engine):
        nonlocal stuck
        run_id = await engine.start(query.id, {}, "by hand")
        async for told in engine.progress(run_id).listen(0.005):
            if told.calls == 5:
                break
        engine.cancel(run_id)
        await engine.wait(run_id)
        stuck = False
        second = await engine.resume(run_id)
        await engine.wait(second)
        return workspace.runs.get(second)

    run = go(workspace, work)
    assert (run.state, run.rows, run.calls) == ("complete", 30, 1)
    assert sorted(asked) == [1, 2, 2, 3, 4, 5, 6]


def test_going_on_is_refused_in_words_where_it_makes_no_sense(workspace, awkward, refresh):
    awkward.answers["/data"] = in_pages(4)
    query = query_on(workspace, awkward.base)
    run = refresh(query.id)
    with pytest.raises(ProblemError, match="lacks nothing"):
        go(workspace, lambda engine: engine.resume(run.id))
    awkward.answers["/data"] = (500, {}, b"{}")
    run = refresh(query.id)
    changed = query.brief.model_copy(
        update={"pages": load_brief({"name": "x", "ask": {"service": "own", "path": "/"}}).pages}
    )
    workspace.queries.save(query.id, changed, NOON)
    with pytest.raises(ProblemError, match="asks another question"):
        go(workspace, lambda engine: engine.resume(run.id))


def test_killed_while_it_waits_and_gone_on_each_call_is_made_once(workspace, company, tmp_path):
    """300 calls would take 30 seconds; the windows are those of the service, in small."""
    company.bookings.windows = ((10, 1.0),)
    # The program that is killed waits for a minute behind its tenth call, however slow the machine is.
    service = workspace.services.get("skerrywick-bookings")
    workspace.services.save(service.model_copy(update={"limits": [Window(calls=10, per="PT1M")]}))
    document = {
        "name": "bookings", "pages": {"by": "next", "next": "$.next"}, "take": {"records": "$.bookings[*]"},
        "ask": {"service": service.id, "path": "/bookings", "query": [
            {"name": "from", "value": str(DAY)}, {"name": "to", "value": str(DAY)}, {"name": "size", "value": "4"}]},
    }  # fmt: skip
    query = workspace.queries.add(load_brief(document), NOON)
    truth = [one["booking"] for one in bookings.bookings(DAY, DAY, DAY)]
    workspace.close()
    command = [sys.executable, "-m", "tin_bucket.cli", "run", "bookings", "--home", str(workspace.home)]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env={**os.environ})
    kept = Workspace(workspace.home)
    until(lambda: [len(kept.runs.calls(run.id)) for run in kept.runs.latest(query.id)] == [10])
    kept.close()
    process.send_signal(signal.SIGKILL)
    process.wait(timeout=10)
    later = Workspace(workspace.home)
    broken = later.runs.latest(query.id)[0]
    assert broken.problem.kind == "interrupted", broken.problem
    assert (broken.state, broken.snapshot_id, broken.calls) == ("interrupted", None, 10)
    later.services.save(service.model_copy(update={"limits": [Window(calls=10, per="PT1S")]}))

    async def again(engine):
        run_id = await engine.resume(broken.id)
        await engine.wait(run_id)
        return later.runs.get(run_id)

    run = go(later, again, Clock())
    assert (run.state, run.calls, run.resumed_from) == ("complete", -(-len(truth) // 4) - 10, broken.id)
    assert ids_of(later, run) == truth
    assert company.bookings.calls == -(-len(truth) // 4)
    assert company.bookings.refused == 0
    later.close()


def test_a_program_goes_on_with_what_broke_off_where_that_is_safe(workspace, awkward):
    awkward.answers["/data"] = in_pages(10)
    query = query_on(workspace, awkward.base)
    run_id = workspace.runs.begin(
        query.id, query.brief.model_dump_json(by_alias=True), {}, "schedule", Clock().now(), [{}]
    )
    with workspace.write() as db:
        db.execute("UPDATE run SET process = 'gone' WHERE id = ?", (run_id,))
    workspace.runs.mark_interrupted()

    async def resume(engine):
        begun = await engine.resume_all()
        for one in begun:
            await engine.wait(one)
        return begun, await engine.resume_all()

    begun, again = go(workspace, resume, Clock())
    assert [(workspace.runs.get(one).state, workspace.runs.get(one).resumed_from) for one in begun] == [
        ("complete", run_id)
    ]
    assert again == []


def test_what_a_refresh_will_cost_is_told_before_it(workspace, awkward):
    awkward.answers["/data"] = in_pages(118, 25)
    query = query_on(
        workspace, awkward.base, limits=[Window(calls=2, per="PT1S"), Window(calls=4, per="P1D")], at_once=1
    )

    async def ask(engine):
        plan = make_plan(workspace, query.brief, {}, engine.moment())
        lanes = engine.lanes(plan.services.values())
        unknown = cost_of(workspace, plan, query.id, None, lanes, lambda: None, NOON)
        preview = engine.previews.get(await engine.ask_once(query.brief, {}))
        return unknown, cost_of(
            workspace, plan, query.id, preview, engine.lanes(plan.services.values()), lambda: None, NOON
        )

    unknown, known = go(workspace, ask)
    assert (unknown.calls, unknown.seconds) == (None, None)
    assert known.calls == 5
    assert "118 rows, 25 a page" in known.basis
    assert known.seconds > 80_000
    assert [one.left for one in known.left] == [3]
    assert "resumes by itself" in known.warning


def test_an_allowance_that_the_service_says_is_used_up_is_waited_for(workspace, company):
    document = {
        "name": "n", "ask": {"service": "skerrywick-awkward", "path": "/ways/none-left"},
        "pages": {"by": "number", "last_page": "$.pages"}, "take": {"records": "$.rows[*]"},
    }  # fmt: skip
    query = workspace.queries.add(load_brief(document), NOON)
    service = workspace.services.get("skerrywick-awkward").model_copy(update={"at_once": 1})
    workspace.services.save(service)
    clock = LeapingClock(NOON)
    run = go(workspace, lambda engine: engine.refresh(query.id, {}, "by hand"), clock)
    assert (run.state, run.rows) == ("complete", 100)
    assert clock.leapt > 0.9
    assert run.report.tally.waited > 0.5


def test_a_service_that_slows_down_is_asked_fewer_at_once(awkward, workspace, refresh):
    refused = []

    def busy(page):
        if page > 3 and len(refused) < 3:
            refused.append(page)
            return web.json_response({}, status=503, headers={"Retry-After": "0"})
        return None

    awkward.answers["/data"] = in_pages(100, refuse=busy)
    query = query_on(workspace, awkward.base, at_once=8)

    async def ask(engine):
        run = await engine.refresh(query.id, {}, "by hand")
        return run, engine.pacer.lane(workspace.services.get("own")).throttle.now

    run, at_once = go(workspace, ask)
    assert (run.state, run.report.tally.retries) == ("complete", 3)
    assert at_once < 8
