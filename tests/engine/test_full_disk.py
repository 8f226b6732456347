"""A disk that fills up in the middle of a refresh: the run ends in words, what was kept stays, a refresh later works."""

import json
import sqlite3

import pytest
from aiohttp import web

from tin_bucket.store import database

PAGES = {"by": "number", "last_page": "$.pages"}


@pytest.fixture
def room(monkeypatch):
    """How many pages of 4 KB the workspace's file may have, on every connection; ``None`` is no limit."""
    limit = {"pages": None}

    class Limited(sqlite3.Connection):
        def execute(self, sql, *values):
            if sql.startswith("BEGIN") and limit["pages"] is not None:
                super().execute(f"PRAGMA max_page_count={limit['pages']}")
            elif sql.startswith("BEGIN"):
                super().execute("PRAGMA max_page_count=1000000")
            return super().execute(sql, *values)

    def connect(*args, **options):
        return real(*args, factory=Limited, **options)

    real = sqlite3.connect
    monkeypatch.setattr(database.sqlite3, "connect", connect)
    return limit


def answers(awkward, text):
    async def page(request):
        number = int(request.query["page"])
        rows = (
            [{"id": f"{number}-{at}", "text": f"{text}{number}-{at} " * 40} for at in range(50)] if number <= 12 else []
        )
        return web.Response(body=json.dumps({"pages": 12, "data": rows}).encode(), content_type="application/json")

    awkward.answers["/data"] = page


@pytest.mark.parametrize("more", [0, 3, 10, 20, 30, 40, 50, 100])
def test_a_disk_that_fills_up_ends_the_run_in_words(room, workspace, awkward, ask_awkward, more):
    answers(awkward, "a")
    first = ask_awkward(pages=PAGES, keep={"match": ["id"]})
    assert (first.state, first.rows) == ("complete", 600)
    before = workspace.snapshots.window(first.snapshot_id, 0, 600)
    answers(awkward, "b")
    workspace.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    room["pages"] = workspace.db.execute("PRAGMA page_count").fetchone()[0] + more
    run = ask_awkward(pages=PAGES, keep={"match": ["id"]})
    assert run.state in ("failed", "complete")
    assert workspace.runs.latest(run.query_id)[0].state == run.state
    room["pages"] = None
    if run.state != "complete":
        assert "disk is full" in run.problem.what
        assert workspace.snapshots.latest(run.query_id).id == first.snapshot_id
    assert workspace.snapshots.window(first.snapshot_id, 0, 600) == before
    later = ask_awkward(pages=PAGES, keep={"match": ["id"]})
    assert (later.state, later.rows) == ("complete", 600)
    with workspace.read() as db:
        assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        stored = [state for (state,) in db.execute("SELECT state FROM run ORDER BY id")]
    assert stored == ["complete", run.state, "complete"]
