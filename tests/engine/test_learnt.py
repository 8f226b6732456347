"""What a service keeps to and does not state is learnt from its refusals: a limit, and how many ids a call takes."""

import asyncio
import time

import pytest
from aiohttp import web

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.traffic.rate_window import Window
from tin_bucket.engine.engine import Engine


@pytest.fixture
def service(workspace, awkward):
    made = Service(id="own", name="Own", base=awkward.base, tries=9)
    workspace.services.save(made)
    return made


def refreshed(workspace, query):
    """As time goes by: the service counts in seconds of its own."""

    async def once():
        engine = Engine(workspace)
        try:
            return await engine.refresh(query.id, {}, "by hand")
        finally:
            await engine.close()

    return asyncio.run(once())


def limited(workspace, awkward, per_second=4):
    """A place that answers so many calls in any second; and a query that asks it for 14 values."""
    answered = []

    async def answer(request):
        now = time.monotonic()
        if sum(at > now - 1 for at in answered) >= per_second:
            return web.json_response({"error": "slow down"}, status=429, headers={"Retry-After": "1"})
        answered.append(now)
        return web.json_response([{"id": request.query["v"]}])

    awkward.answers["/v"] = answer
    document = {
        "name": "many",
        "parameters": [{"name": "v", "kind": "text"}],
        "ask": {"service": "own", "path": "/v", "query": [{"name": "v", "value": "{v}"}]},
        "each": [{"by": "list", "parameter": "v", "values": [str(at) for at in range(14)]}],
        "take": {"records": "$[*]"},
    }
    return workspace.queries.add(load_brief(document), NOON)


def test_a_limit_that_is_nowhere_stated_is_reported_with_what_fits_it(workspace, awkward, service):
    run = refreshed(workspace, limited(workspace, awkward))
    assert (run.rows, run.report.iterations_failed) == (14, 0)
    (refusals,) = run.report.refusals
    assert (refusals.service_id, refusals.service) == ("own", "Own")
    assert refusals.calls == run.report.tally.retries >= 3
    assert refusals.limit is not None
    assert refusals.limit.calls / refusals.limit.seconds <= 4


def test_calls_that_are_made_again_are_no_further_pages(workspace, awkward, service):
    query = limited(workspace, awkward)

    async def watched():
        engine = Engine(workspace)
        try:
            run_id = await engine.start(query.id, {}, "by hand")
            return [summary async for summary in engine.progress(run_id).listen()]
        finally:
            await engine.close()

    pages = [summary for summary in asyncio.run(watched()) if summary.stage == "pages"]
    assert max(summary.again for summary in pages) >= 3
    assert max(summary.calls for summary in pages) > 14
    assert max(summary.calls - summary.again for summary in pages) <= 14


def test_where_a_limit_is_set_nothing_is_offered(workspace, awkward, service):
    workspace.services.save(service.model_copy(update={"limits": [Window(calls=1000, per="PT1S")]}))
    run = refreshed(workspace, limited(workspace, awkward))
    assert run.report.tally.retries >= 3
    assert run.report.refusals == []


@pytest.mark.parametrize(
    ("status", "words"), [(414, ""), (400, "at most 6 ids in one call")], ids=["by its status", "by the API's words"]
)
def test_a_call_with_too_many_ids_is_made_again_with_fewer(workspace, awkward, service, refresh, status, words):
    async def details(request):
        ids = request.query["ids"].split(",")
        if len(ids) > 6:
            return web.json_response({"error": {"message": words}} if words else {}, status=status)
        return web.json_response([{"id": one} for one in ids])

    awkward.answers["/ids"] = (200, {"Content-Type": "application/json"}, b"%s" % str(list(range(40))).encode())
    awkward.answers["/details"] = details
    query = workspace.queries.add(
        load_brief(
            {
                "name": "details",
                "ask": {"service": "own", "path": "/ids"},
                "pages": {"by": "ids", "ids": "$[*]", "path": "/details?ids={id}", "batch": 40},
                "take": {"records": "$[*]"},
            }
        ),
        NOON,
    )
    run = refresh(query.id)
    ids = [int(row[0]) for row in workspace.snapshots.all_rows(run.snapshot_id)]
    assert sorted(ids) == list(range(40))
    assert run.report.failed_pages == []
    assert run.report.page_size is not None
    assert (run.report.page_size.asked, run.report.page_size.got) == (40, 5)
