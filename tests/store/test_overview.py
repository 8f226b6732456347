"""All queries at a glance: what is remembered of them is never older than what is stored."""

from datetime import timedelta
from itertools import pairwise

import numpy as np
import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.report import RunReport, SchemaDrift
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import Problem
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.store.overview import Overview


@pytest.fixture
def at(workspace):
    workspace.services.save(Service(id="s", name="s", base="http://h"))

    def add(name, **more):
        return workspace.queries.add(load_brief({"name": name, "ask": {"service": "s"}, **more}), NOON).id

    return add


def table(height):
    column = TableColumn("id", "text")
    return Table(
        [column], [[str(n) for n in range(height)]], np.zeros(height, np.int64), np.arange(height, dtype=np.int64)
    )


def end(workspace, query, state="complete", height=None, hour=0, **report):
    moment = NOON + timedelta(hours=hour)
    run = workspace.runs.get(workspace.runs.begin(query, "{}", {}, "by hand", moment))
    run.state, run.report, run.records = state, RunReport(**report), height or 0
    if state == "failed":
        run.problem = Problem("status", "The service failed.", "", "Wait.")
    with workspace.write() as db:
        if height is not None:
            workspace.snapshots.add(
                db,
                query,
                run.id,
                table(height),
                match=["id"],
                state="complete",
                evidence="",
                stated_total=None,
                now=moment,
            )
        if state != "running":
            workspace.runs.end(db, run, moment)
    return run.id


def test_every_change_is_seen_at_once(workspace, at):
    first, second = at("Ports"), at("Fares", keep={"schedule": {"kind": "every", "every": "PT1H"}})
    deeds = [
        lambda: end(workspace, first, height=3),
        lambda: end(workspace, first, height=5, hour=1),
        lambda: end(workspace, second, "failed", gaps=["page 2 failed"]),
        lambda: end(workspace, second, "running", hour=1),
        lambda: end(workspace, first, "cancelled"),
        lambda: end(workspace, second, height=2, hour=2, drift=SchemaDrift(missing=["$.a"], columns=1, words="a is gone")),
        lambda: workspace.queries.save(first, load_brief({"name": "Harbours", "note": "n", "ask": {"service": "s"}}), NOON),
        lambda: workspace.queries.save(
            second, load_brief({"name": "Fares", "ask": {"service": "s"}, "keep": {"paused": True}}), NOON
        ),
        lambda: at("Tides"),
        lambda: workspace.queries.delete(first),
        lambda: at("Ports"),
    ]  # fmt: skip
    seen = [workspace.overview.lines()]
    for deed in deeds:
        deed()
        now = workspace.overview.lines()
        assert now == Overview(workspace, workspace.runs).lines()
        seen.append(now)
    # Each of these changed what is shown, but for the run that was cancelled before anything came of it.
    changed = [before != after for before, after in pairwise(seen)]
    assert changed == [True, True, True, True, False, True, True, True, True, True, True]


def test_a_line_says_what_is_stored(workspace, at):
    query = at("Fares", note="for the board", keep={"schedule": {"kind": "every", "every": "PT1H"}})
    for hour in range(40):
        end(workspace, query, height=hour + 1, hour=hour)
    failed = end(workspace, query, "failed", hour=41, gaps=["page 2 failed"])
    end(workspace, query, "running", hour=42)
    (line,) = workspace.overview.lines()
    latest = workspace.snapshots.latest(query)
    assert (line.snapshots, line.counts) == (40, list(range(11, 41)))
    assert (line.latest.id, line.latest.rows, line.latest.since) == (latest.id, 40, {"new": 1, "gone": 0, "changed": 0})
    assert (line.last_run.id, line.last_run.state, line.last_run.gaps) == (failed, "failed", ("page 2 failed",))
    assert line.last_run.problem.what == "The service failed."
    assert (line.facts.note, line.facts.services) == ("for the board", ("s",))
    assert line.scheduled == workspace.queries.scheduled()[0]


def test_an_end_that_could_not_be_written_is_shown(workspace, at, monkeypatch):
    query = at("Fares")
    run = workspace.runs.get(end(workspace, query, "running"))
    run.state, run.problem = "failed", Problem("workspace-unreadable", "The disk is full.", "", "Make room.")
    monkeypatch.setattr(workspace.runs, "write_ends", lambda: None)
    workspace.runs.finish(run, NOON)
    (line,) = workspace.overview.lines()
    assert (line.last_run.state, line.last_run.problem.what) == ("failed", "The disk is full.")
    assert workspace.runs.running() == []
