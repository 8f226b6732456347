"""When the calls of a run are written down, with a disk that takes its time."""

import asyncio
import threading

from tests.conftest import NOON
from tests.engine.test_resume import query_on
from tests.waiting import PATIENCE, async_until
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.network.pacer import Pacer
from tin_bucket.engine.run.journal import CallJournal
from tin_bucket.engine.run.progress import Progress


def test_what_is_answered_while_a_batch_is_stored_is_stored_before_a_long_wait(workspace, monkeypatch):
    query = query_on(workspace, "http://127.0.0.1:9")
    run_id = workspace.runs.begin(query.id, query.brief.model_dump_json(by_alias=True), {}, "test", NOON)
    begun, may_end = threading.Event(), threading.Event()
    store = workspace.runs.add_calls

    def slowly(run, calls):
        begun.set()
        assert may_end.wait(PATIENCE)
        store(run, calls)

    monkeypatch.setattr(workspace.runs, "add_calls", slowly)

    async def scene():
        run = workspace.runs.get(run_id)
        journal = CallJournal(workspace, run, Progress(run_id, query.id), Pacer(workspace, Clock()))
        call, answer = Call("GET", "http://127.0.0.1:9/data"), Answer(200, body=b"[]")
        journal.made(call, answer, run.started)
        journal.flush_soon()
        await async_until(begun.is_set)
        journal.made(call, answer, run.started)
        journal.made(call, answer, run.started)
        journal.flush_soon()
        journal.flush_soon()
        may_end.set()
        # Nothing else happens in the run now: it waits.
        await async_until(lambda: len(workspace.runs.calls(run_id)) == 3)
        await journal.flush()

    asyncio.run(scene())
    assert [call.number for call in workspace.runs.calls(run_id)] == [1, 2, 3]


def test_what_is_answered_right_behind_a_batch_is_stored_though_no_call_follows(workspace):
    """Of several calls at once, one finds the allowance used up, and the others are answered a moment later."""
    query = query_on(workspace, "http://127.0.0.1:9")
    run_id = workspace.runs.begin(query.id, query.brief.model_dump_json(by_alias=True), {}, "test", NOON)

    async def scene():
        run = workspace.runs.get(run_id)
        journal = CallJournal(workspace, run, Progress(run_id, query.id), Pacer(workspace, Clock()))
        call, answer = Call("GET", "http://127.0.0.1:9/data"), Answer(200, body=b"[]")
        journal.made(call, answer, run.started)
        journal.flush_soon()
        for _ in range(3):
            journal.made(call, answer, run.started)
            await journal.flush_if_due()
        await async_until(lambda: len(workspace.runs.calls(run_id)) == 4)

    asyncio.run(scene())
