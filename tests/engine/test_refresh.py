import asyncio
import threading
import time
from datetime import timedelta

import pytest
from aiohttp import web

from tests.conftest import DAY, NOON
from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW
from tin_bucket.core.analysis.provenance import Excerpt
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.report import LookupReport
from tin_bucket.core.formats.http import origin
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.demo import timetable
from tin_bucket.demo.services.operations import KEY
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.preview.check import check_service
from tin_bucket.engine.tables.provenance import trace_snapshot


def served(day):
    return timetable.sailings(day, DAY - timedelta(days=7), DAY + timedelta(days=7))


def test_a_whole_refresh_has_every_row_the_service_has(workspace, desk, refresh, operations):
    run = refresh(desk["Sailings by route"].id)
    truth = served(DAY)
    assert (run.state, run.records, run.rows, run.stated_total) == ("complete", len(truth), len(truth), len(truth))
    assert 1200 <= len(truth) <= 1400
    snapshot = workspace.snapshots.get(run.snapshot_id)
    names = [column.name for column in snapshot.columns]
    rows = [dict(zip(names, row, strict=True)) for row in workspace.snapshots.all_rows(snapshot.id)]
    assert [row["sailing_id"] for row in rows] == [sailing["sailing_id"] for sailing in truth]
    assert [row["hull_id"] for row in rows] == [sailing["vessel"]["hull_id"] for sailing in truth]
    assert [row["car fare"] for row in rows] == [sailing["fares"][1]["amount"] for sailing in truth]
    for row, sailing in zip(rows, truth, strict=True):
        port = timetable.port(sailing["port_code"])
        assert row["port_code"] == sailing["port_code"]
        assert row["port"] == (port["name"] if port else Miss("none", "not found"))
    # Each port was asked for once, the unknown ones too.
    codes = {sailing["port_code"] for sailing in truth}
    note = run.report.lookups["port"]
    none = len(codes - set(timetable.PORTS))
    missing = sorted(codes - set(timetable.PORTS))
    assert sorted(note.missing) == missing
    assert note == LookupReport(calls=len(codes), rows=len(truth), none=none, values=len(codes), missing=note.missing)
    assert note.none == 2
    assert operations.calls == run.calls == -(-len(truth) // 100) + len(codes)


def test_a_comparison_is_right_against_what_the_service_changed(workspace, desk, refresh, operations):
    query = desk["Sailings by route"].id
    first = refresh(query).snapshot_id
    operations.today = DAY + timedelta(days=1)
    second = refresh(query, NOON + timedelta(hours=1)).snapshot_id
    then = {sailing["sailing_id"]: sailing for sailing in served(DAY)}
    now = {sailing["sailing_id"]: sailing for sailing in served(operations.today)}

    def told(sailing):
        return (sailing["port_code"], sailing["vessel"]["name"], sailing["status"], sailing["delay_min"],
                sailing["fares"][1]["amount"])  # fmt: skip

    changed = {key for key in then.keys() & now.keys() if told(then[key]) != told(now[key])}
    found = workspace.snapshots.compare(first, second)

    def ids(state, snapshot, rows):
        window = workspace.snapshots.rows_at(snapshot, rows[found.state == state])
        return {row[0] for row in window}

    assert ids(NEW, second, found.now_row) == now.keys() - then.keys()
    assert ids(GONE, first, found.then_row) == then.keys() - now.keys()
    assert ids(CHANGED, second, found.now_row) == changed
    assert min(len(now.keys() - then.keys()), len(then.keys() - now.keys()), len(changed)) > 0
    fare = next(column for column in found.columns if column.name == "car fare")
    assert fare.cells == sum(
        then[k]["fares"][1]["amount"] != now[k]["fares"][1]["amount"] for k in then.keys() & now.keys()
    )


def test_a_list_made_rows_and_a_value_for_a_parameter(workspace, desk, refresh):
    run = refresh(desk["Fares, week ahead"].id, route="hesta-quern", to="2026-11-26")
    truth = timetable.sailings(DAY, DAY, DAY + timedelta(days=1), "hesta-quern")
    assert (run.state, run.records, run.rows) == ("complete", len(truth), 3 * len(truth))
    rows = list(workspace.snapshots.all_rows(run.snapshot_id))
    assert [(row[0], row[2], row[3]) for row in rows] == [
        (sailing["sailing_id"], fare["class"], fare["amount"]) for sailing in truth for fare in sailing["fares"]
    ]
    assert run.bindings == {"route": "hesta-quern", "from": "2026-11-25", "to": "2026-11-26"}


def test_a_wrong_key_is_said_in_the_apis_words_and_everything_stays(workspace, desk, refresh, operations):
    query = desk["Ports"].id
    kept = refresh(query).snapshot_id
    operations.key = "another-key"
    run = refresh(query, NOON + timedelta(hours=1))
    assert run.state == "failed"
    assert run.problem.kind == "key-refused"
    assert run.problem.words == "This key is not known, or has been withdrawn."
    assert run.problem.where.startswith("GET http://127.0.0.1:")
    assert run.snapshot_id is None
    assert workspace.snapshots.latest(query).id == kept
    assert [one.state for one in workspace.runs.latest(query)] == ["failed", "complete"]


def test_a_key_that_is_not_stored_stops_the_run_before_any_call(workspace, desk, refresh, operations):
    workspace.vault.forget("skerrywick-operations")
    run = refresh(desk["Ports"].id)
    assert (run.state, run.problem.kind, run.calls, operations.calls) == ("failed", "key-missing", 0, 0)


def test_a_key_does_not_follow_a_service_to_another_origin(workspace, desk, refresh, awkward):
    service = workspace.services.get("skerrywick-operations")
    workspace.services.save(service.model_copy(update={"base": awkward.base}))
    run = refresh(desk["Ports"].id)
    assert (run.state, run.problem.kind) == ("failed", "key-bound-elsewhere")
    assert awkward.seen == []


async def cut(request):
    response = web.StreamResponse(headers={"Content-Length": "1000"})
    await response.prepare(request)
    await response.write(b'{"data": [')
    request.transport.close()
    return response


async def slow(request):
    await asyncio.sleep(30)


JSON = {"Content-Type": "application/json"}


@pytest.mark.parametrize(
    ("answer", "kind", "word"),
    [
        ((200, JSON, b'{"data": [{"a": 1}, {"a"'), "cut-off", "is cut off"),
        ((200, {"Content-Type": "text/html"}, b"<!doctype html><title>Sign in</title>"), "web-page", "web page"),
        ((200, JSON, b"id;name\n1;x"), "not-json", "not JSON"),
        ((200, JSON, b""), "empty-answer", "empty"),
        ((500, JSON, b'{"detail": "the crew is asleep"}'), "service-failed", "failed"),
        ((302, {"Location": "ftp://127.0.0.1/elsewhere"}, b""), "redirected", "redirects"),
        ((200, JSON, b'{"rows": []}'), "no-rows-there", "$.data"),
        (cut, "broken-connection", "was lost"),
        (slow, "time-out", "0.3 seconds"),
    ],
)
def test_a_bad_answer_is_a_failed_run_in_the_history_and_old_snapshots_stay(
    workspace, awkward, ask_awkward, answer, kind, word
):
    awkward.answers["/data"] = (200, JSON, b'{"data": [{"a": 1}]}')
    kept = ask_awkward()
    assert kept.state == "unverified"
    awkward.answers["/data"] = answer
    run = ask_awkward(timeout=0.3, moment=NOON + timedelta(hours=1))
    assert (run.state, run.problem.kind, run.snapshot_id) == ("failed", kind, None)
    assert word in run.problem.what
    assert run.problem.do
    assert awkward.base in run.problem.where
    call = workspace.runs.calls(run.id)[0]
    assert call.number == 1
    assert list(workspace.snapshots.all_rows(kept.snapshot_id)) == [(1,)]
    assert workspace.runs.latest(run.query_id)[0].problem == run.problem


@pytest.mark.parametrize(
    ("base", "kind"), [("http://no-such-host.invalid", "host-unknown"), ("http://127.0.0.1:9", "refused")]
)
def test_a_host_that_cannot_be_reached_is_said(ask_awkward, base, kind):
    run = ask_awkward(base=base)
    assert (run.state, run.problem.kind) == ("failed", kind)
    assert "Check" in run.problem.do


def test_an_empty_list_is_a_true_answer(awkward, ask_awkward):
    awkward.answers["/data"] = (200, JSON, b'{"data": []}')
    run = ask_awkward()
    assert (run.state, run.rows) == ("complete", 0)


def test_fewer_rows_than_the_api_states_is_not_whole(awkward, ask_awkward):
    awkward.answers["/data"] = (200, JSON, b'{"data": [{"a": 1}], "total": 118}')
    run = ask_awkward(pages={"by": "none", "total": "$.total"})
    assert (run.state, run.records, run.stated_total) == ("incomplete", 1, 118)
    assert run.snapshot_id is not None


def test_one_failed_lookup_among_many_loses_nothing_and_is_not_whole(workspace, awkward, ask_awkward):
    awkward.answers["/data"] = (200, JSON, b'{"data": [{"p": "1"}, {"p": "2"}, {"p": "3"}]}')
    awkward.answers["/p/1"] = (200, JSON, b'{"n": "one"}')
    awkward.answers["/p/2"] = (500, JSON, b"{}")
    awkward.answers["/p/3"] = (404, JSON, b"{}")
    run = ask_awkward(
        look_up=[{"name": "p", "path": "/p/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}]
    )
    assert run.state == "incomplete"
    assert run.report.gaps == ["1 lookup has failed"]
    report = run.report.lookups["p"]
    assert report.why is not None
    assert (report.why.label, report.why.kind) == ("2", "service-failed")
    plain = report.model_copy(update={"why": None})
    assert plain == LookupReport(calls=3, rows=3, none=1, failed=1, values=3, missing=["3"])
    column = [row[1] for row in workspace.snapshots.all_rows(run.snapshot_id)]
    assert column == ["one", Miss("failed", "failed: status 500"), Miss("none", "not found")]


def test_a_redirect_within_the_service_is_followed(awkward, ask_awkward):
    awkward.answers["/data"] = (307, {"Location": "/moved"}, b"")
    awkward.answers["/moved"] = (200, JSON, b'{"data": [{"a": 1}]}')
    assert ask_awkward().state == "unverified"


def test_new_and_missing_fields_are_said_and_the_refresh_goes_on(workspace, awkward, ask_awkward):
    columns = [{"place": "$.a", "name": "a"}, {"place": "$.b", "name": "b"}]
    awkward.answers["/data"] = (200, JSON, b'{"data": [{"c": 3, "a": 1}]}')
    run = ask_awkward(take={"records": "$.data[*]", "columns": columns})
    assert (run.state, run.report.reading.absent, run.report.reading.not_taken) == ("unverified", ["$.b"], 1)
    assert list(workspace.snapshots.all_rows(run.snapshot_id)) == [(1, None)]


def test_cancelling_keeps_nothing_and_says_so(workspace, desk, operations):
    operations.pause = 0.05

    async def go():
        engine = Engine(workspace, SetClock(NOON))
        run_id = await engine.start(desk["Sailings by route"].id, {}, "by hand")
        with pytest.raises(ProblemError, match="being refreshed now"):
            await engine.start(desk["Sailings by route"].id, {}, "by hand")
        async for summary in engine.progress(run_id).listen():
            if summary.calls >= 3:
                engine.cancel(run_id)
                break
        await engine.wait(run_id)
        await engine.close()
        return workspace.runs.get(run_id)

    run = asyncio.run(go())
    assert (run.state, run.problem.kind, run.snapshot_id) == ("cancelled", "cancelled", None)
    assert 3 <= run.calls < 13
    assert len(workspace.runs.calls(run.id)) == run.calls
    assert workspace.snapshots.latest(run.query_id) is None


def test_reading_saved_answers_anew_costs_no_call_and_gives_the_same(workspace, desk, refresh, operations):
    query = desk["Sailings by route"]
    run = refresh(query.id)
    made = operations.calls
    engine = Engine(workspace, SetClock(NOON))
    preview = engine.previews.get(engine.reread(query.id, query.brief))
    kept = list(workspace.snapshots.all_rows(run.snapshot_id))
    assert preview.replay.table.rows(0, 9999) == kept
    wide = query.brief.model_copy(
        update={"take": query.brief.take.model_copy(update={"columns": None, "rows_for": ["$.fares"]})}
    )
    preview = engine.previews.get(engine.reread(query.id, wide))
    assert preview.replay.table.height == 3 * len(kept)
    assert operations.calls == made


def test_asking_once_makes_one_call_and_sees_rows_and_pages(workspace, desk, operations):
    brief = desk["Sailings by route"].brief
    fresh = brief.model_copy(update={"pages": brief.pages.__class__(), "take": brief.take.__class__(), "look_up": []})
    plain = fresh.model_validate({**fresh.model_dump(by_alias=True), "pages": {"by": "none"}})

    async def go():
        engine = Engine(workspace, SetClock(NOON))
        number = await engine.ask_once(plain, {})
        await engine.close()
        return engine.previews.get(number)

    preview = asyncio.run(go())
    assert operations.calls == 1
    assert (preview.rows[0].path, preview.rows[0].count) == ("$.data[*]", 25)
    assert preview.pages[0].pages.last_page == "$.meta.total_pages"
    assert any(words.startswith("25 of ") for words in preview.pages[0].evidence)


def test_only_the_newest_runs_keep_their_answers(workspace, desk, refresh):
    query = desk["Ports"].id
    runs = [refresh(query, NOON + timedelta(hours=hour)) for hour in range(5)]
    assert [workspace.archive.answers(run.id, "pages") is not None for run in runs] == [False, False, True, True, True]
    with pytest.raises(ProblemError, match="no longer kept"):
        workspace.archive.body(runs[0].id, 1)


def test_checking_a_service_reads_as_it_should(workspace, desk, operations):
    service = workspace.services.get("skerrywick-operations")

    async def check(one):
        engine = Engine(workspace)
        found = await check_service(engine.connections, one)
        await engine.close()
        return found

    found = asyncio.run(check(service))
    assert found.reading == "key-accepted"
    assert "key accepted: without it the answer is 401" in found.what
    lost = asyncio.run(check(service.model_copy(update={"check": "/sailings"})))
    assert lost.reading == "key-accepted"
    assert "needs a parameter" in lost.what
    assert "from is wanted" in lost.what
    unclear = asyncio.run(check(service.model_copy(update={"check": "/"})))
    assert unclear.reading == "reached"
    assert "does not show whether the key is valid" in unclear.what
    operations.key = "another"
    refused = asyncio.run(check(service))
    assert (refused.reading, "was rejected" in refused.what) == ("key-refused", True)
    away = service.model_copy(update={"base": "http://127.0.0.1:9", "key": None})
    assert asyncio.run(check(away)).reading == "not-reached"


def test_an_echoed_key_is_nowhere_in_what_is_kept(workspace, desk, refresh, awkward):
    service = workspace.services.get("skerrywick-operations").model_copy(update={"base": awkward.base})
    workspace.services.save(service)
    workspace.vault.store(service.id, origin(awkward.base), KEY, NOON)
    body = f'{{"data": [{{"you sent": "{KEY}"}}], "error": "bad key {KEY}"}}'.encode()
    awkward.answers["/ports"] = (200, {**JSON, "X-Echo": KEY}, body)
    run = refresh(desk["Ports"].id)
    assert run.state in ("unverified", "incomplete")
    assert awkward.seen[0][1]["X-Skerrywick-Key"] == KEY
    awkward.answers["/ports"] = (403, JSON, body)
    assert KEY not in str(refresh(desk["Ports"].id, NOON + timedelta(hours=1)))
    assert KEY.encode() not in workspace.archive.body(run.id, 1)
    assert KEY not in str(list(workspace.snapshots.all_rows(run.snapshot_id)))
    assert KEY not in str(workspace.runs.calls(run.id))


def test_two_refreshes_of_a_query_never_start_together(workspace, desk):
    async def go():
        engine = Engine(workspace, SetClock(NOON))
        started = await asyncio.gather(
            *(engine.start(desk["Ports"].id, {}, "by hand") for _ in range(5)), return_exceptions=True
        )
        await engine.wait(next(one for one in started if isinstance(one, int)))
        again = await engine.refresh(desk["Ports"].id, {}, "by hand")
        await engine.close()
        return started, again

    started, again = asyncio.run(go())
    assert sum(isinstance(one, int) for one in started) == 1
    assert {one.problem.kind for one in started if isinstance(one, ProblemError)} == {"already-running"}
    assert again.state == "complete"


def test_after_a_failed_run_the_answers_of_the_one_before_are_read(workspace, desk, refresh, operations):
    query = desk["Ports"]
    whole = refresh(query.id)
    operations.key = "another-key-now"
    assert refresh(query.id, NOON + timedelta(hours=1)).state == "failed"
    engine = Engine(workspace, SetClock(NOON))
    preview = engine.previews.get(engine.reread(query.id, query.brief))
    assert (preview.run_id, preview.problem, preview.replay.table.height) == (whole.id, None, 12)


def stopped_while(workspace, query_id, method, monkeypatch):
    """Stop a run while the named write of the store is under way; gives the run and its live state."""
    room, name = method
    original = getattr(room, name)
    begun = threading.Event()

    def slow(*args, **options):
        begun.set()
        time.sleep(0.2)
        return original(*args, **options)

    monkeypatch.setattr(room, name, slow)

    async def go():
        engine = Engine(workspace, SetClock(NOON))
        run_id = await engine.start(query_id, {}, "by hand")
        await asyncio.to_thread(begun.wait, 10)
        engine.cancel(run_id)
        await asyncio.wait_for(engine.wait(run_id), 10)
        state = engine.progress(run_id).state
        await engine.close()
        return workspace.runs.get(run_id), state

    return asyncio.run(go())


def test_a_run_that_is_stopped_while_its_snapshot_is_written_is_whole(workspace, desk, monkeypatch):
    run, state = stopped_while(workspace, desk["Ports"].id, (workspace.snapshots, "add"), monkeypatch)
    assert (run.state, state, run.problem) == ("complete", "complete", None)
    assert workspace.snapshots.get(run.snapshot_id).rows == 12


def test_a_run_that_is_stopped_while_its_calls_are_stored_stops(workspace, desk, monkeypatch, operations):
    operations.pause = 0.03  # Longer than calls wait to be stored.
    run, state = stopped_while(workspace, desk["Sailings by route"].id, (workspace.runs, "add_calls"), monkeypatch)
    assert (run.state, state, run.snapshot_id) == ("cancelled", "cancelled", None)
    assert len(workspace.runs.calls(run.id)) == run.calls < 27


def test_a_workspace_that_is_locked_during_a_run_is_said_and_the_run_ends(workspace, desk, monkeypatch):
    def locked(*args, **options):
        raise fail("workspace-locked", "The workspace is locked by another program.", do="Close it.")

    monkeypatch.setattr(workspace.snapshots, "add", locked)

    async def go():
        engine = Engine(workspace, SetClock(NOON))
        run_id = await engine.start(desk["Ports"].id, {}, "by hand")
        told = [summary async for summary in engine.progress(run_id).listen()]
        await engine.close()
        return told[-1], workspace.runs.get(run_id)

    told, run = asyncio.run(go())
    assert (told.state, told.problem.kind) == ("failed", "workspace-locked")
    assert (run.state, run.problem.kind, run.snapshot_id) == ("failed", "workspace-locked", None)
    # Even when the end itself cannot be written, whoever listens or looks is told.
    monkeypatch.setattr(workspace.runs, "end", locked)
    told, run = asyncio.run(go())
    assert (told.state, run.state) == ("failed", "failed")


def test_answers_that_cannot_be_let_go_do_not_undo_a_snapshot(workspace, desk, refresh, monkeypatch):
    def locked(*args):
        raise fail("workspace-locked", "The workspace is locked by another program.", do="Close it.")

    monkeypatch.setattr(workspace.archive, "prune", locked)
    run = refresh(desk["Ports"].id)
    assert (run.state, run.problem) == ("complete", None)
    assert workspace.snapshots.get(run.snapshot_id).rows == 12


def test_a_looked_up_cell_is_traced_by_any_kind_of_value(workspace, awkward, ask_awkward):
    awkward.answers["/data"] = (200, JSON, b'{"data": [{"p": true}, {"p": 1.0}, {"p": null}]}')
    awkward.answers["/p/true"] = (200, JSON, b'{"n": "yes"}')
    awkward.answers["/p/1.0"] = (200, JSON, b'{"n": "one"}')
    look_up = {"name": "p", "path": "/p/{p}", "with": {"p": "p"}, "take": [{"place": "$.n", "name": "n"}]}
    run = ask_awkward(look_up=[look_up])
    first, second, third = (trace_snapshot(workspace, run.snapshot_id, row, 1) for row in range(3))
    assert (first.value, first.label, first.source.pointer, first.source.excerpt) == (
        "yes", "true", "/n", Excerpt('{"n":', '"yes"', "}"),
    )  # fmt: skip
    assert [(one.name, one.value) for one in first.made_with] == [("p", True)]
    assert (second.value, second.label) == ("one", "1.0")
    assert (third.value, third.source, third.number) == (None, None, None)
    taken = trace_snapshot(workspace, run.snapshot_id, 1, 0)
    assert (taken.number, taken.calls, taken.source.pointer) == (1, 1, "/data/1/p")
