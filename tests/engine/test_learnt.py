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
from tin_bucket.engine.tables.provenance import trace_snapshot


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


def looked_up_in_batches(workspace, awkward, refuses, count=60, place=None):
    """A query of so many codes that are looked up 40 in one call; `refuses` gets the request and its codes."""
    rows = [{"code": f"port-{at:03}"} for at in range(count)]
    asked = []

    async def ports(request):
        codes = (await request.json())["codes"] if place else request.query["codes"].split(",")
        found = refuses(request, codes)
        asked.append((len(codes), found is not None))
        return found or web.json_response([{"code": code, "name": code.upper()} for code in codes])

    awkward.answers["/rows"] = lambda request: _json(rows)
    awkward.answers["/ports"] = ports
    ask = (
        {"query": [{"name": "codes", "value": "{code}"}]} if not place else {"method": "POST", "body": {"kind": "none"}}
    )
    document = {
        "name": "ports",
        "ask": {"service": "own", "path": "/rows"},
        "take": {"records": "$[*]"},
        "look_up": [
            {
                "name": "port",
                "path": "/ports",
                "with": {"code": "code"},
                "take": [{"place": "$.name", "name": "port"}],
                "batch": {"most": 40, "match": "$.code", "place": place},
                **ask,
            }
        ],
    }
    return workspace.queries.add(load_brief(document), NOON), asked


async def _json(rows):
    return web.json_response(rows)


def names_of(workspace, run):
    return [row[1] for row in workspace.snapshots.all_rows(run.snapshot_id)]


ALL_NAMES = [f"PORT-{at:03}" for at in range(60)]


def by_address(request, codes):
    return web.Response(status=414) if len(str(request.url)) > 250 else None


def by_words(request, codes):
    return web.json_response({"message": "at most 8 items"}, status=400) if len(codes) > 8 else None


@pytest.mark.parametrize("refuses", [by_address, by_words])
def test_batches_of_a_lookup_are_cut_to_what_the_service_takes(workspace, awkward, service, refresh, refuses):
    query, asked = looked_up_in_batches(workspace, awkward, refuses)
    run = refresh(query.id)
    assert names_of(workspace, run) == ALL_NAMES
    assert run.report.lookups["port"].failed == 0
    assert any("takes fewer values in a call than the lookup “port” has" in words for words in run.report.oddities)
    # What one refusal tells holds for the other batches, and each value is answered once.
    refused = [size for size, was_refused in asked if was_refused]
    assert refused == [40, 20, 10][: len(refused)]
    assert sum(size for size, was_refused in asked if not was_refused) == 60
    # Answers that are read again are found, though they are not those that were planned.
    engine = Engine(workspace)
    preview = engine.previews.get(engine.rereader.reread(query.id, query.brief))
    assert [row[1] for row in preview.replay.table.rows(0, 60)] == ALL_NAMES
    traced = trace_snapshot(workspace, run.snapshot_id, 59, 1)
    assert (traced.value, traced.source.state) == ("PORT-059", "there")


def test_the_length_that_was_learnt_holds_for_the_next_refresh(workspace, awkward, service):
    query, asked = looked_up_in_batches(workspace, awkward, by_address)

    async def twice():
        engine = Engine(workspace)
        try:
            await engine.refresh(query.id, {}, "by hand")
            asked.clear()
            return await engine.refresh(query.id, {}, "by hand")
        finally:
            await engine.close()

    run = asyncio.run(twice())
    assert names_of(workspace, run) == ALL_NAMES
    assert not any(was_refused for _, was_refused in asked)
    assert run.report.tally.retries == 0


@pytest.mark.parametrize("kind", ["lookup", "ids"])
def test_a_bound_that_is_set_is_kept_from_the_first_call(workspace, awkward, service, refresh, kind):
    workspace.services.save(service.model_copy(update={"most_address": 250}))
    if kind == "lookup":
        query, asked = looked_up_in_batches(workspace, awkward, by_address)
        run = refresh(query.id)
        assert names_of(workspace, run) == ALL_NAMES
        assert not any(was_refused for _, was_refused in asked)
    else:
        longest = []

        async def details(request):
            longest.append(len(str(request.url)))
            return web.json_response([{"id": one} for one in request.query["ids"].split(",")])

        awkward.answers["/ids"] = lambda request: _json([f"port-{at:03}" for at in range(60)])
        awkward.answers["/details"] = details
        pages = {"by": "ids", "ids": "$[*]", "path": "/details?ids={id}", "batch": 40}
        document = {"name": "d", "ask": {"service": "own", "path": "/ids"}, "pages": pages, "take": {"records": "$[*]"}}
        run = refresh(workspace.queries.add(load_brief(document), NOON).id)
        assert (run.rows, run.report.failed_pages) == (60, [])
        assert max(longest) <= 250
    assert run.report.tally.retries == 0


def test_a_value_that_is_too_long_by_itself_fails_alone(workspace, awkward, service, refresh):
    def refuses(request, codes):
        return web.Response(status=414) if "port-007" in codes else None

    query, _ = looked_up_in_batches(workspace, awkward, refuses)
    run = refresh(query.id)
    names = names_of(workspace, run)
    assert names[:7] + names[8:] == ALL_NAMES[:7] + ALL_NAMES[8:]
    assert "failed: status 414" in str(names[7])
    assert run.report.lookups["port"].failed == 1
