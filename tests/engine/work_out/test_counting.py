"""The rows of tables that are worked out: counted in the background, once for what a table is made of."""

import threading
import time
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tests.web.conftest import client_of
from tin_bucket.core.problem import fail
from tin_bucket.engine.tables.counting import RowCounting
from tin_bucket.engine.work_out.sandbox import Stopped
from tin_bucket.engine.work_out.work import WorkOut


@pytest.fixture
def counting(workspace):
    made = RowCounting(workspace, WorkOut(workspace))
    yield made
    made.close()


@pytest.fixture
def cheap(add, serve, refresh):
    """A query that starts from one of three fares, and keeps those of at most 20."""
    serve("/fares", [{"fare": 10}, {"fare": 20}, {"fare": 30}])
    fares = add("Fares", "/fares")
    refresh(fares.id)
    line = {"do": "keep", "expression": "fare <= 20"}
    return add("Cheap", start={"tables": [{"query": "Fares"}]}, work_out=[line])


def counted(counting, query):
    told = counting.of([query.id], 20)[query.id]
    assert told is not None
    return told


def test_rows_are_counted_behind_the_lines_and_once(workspace, counting, cheap, monkeypatch):
    told = counted(counting, cheap)
    assert (told.rows, told.dates, told.problem) == (2, 1, "")
    # Another program that opens the workspace need not work anything out.
    later = RowCounting(workspace, WorkOut(workspace))
    monkeypatch.setattr(WorkOut, "other", lambda *_: pytest.fail("it was worked out again"))
    assert later.of([cheap.id], 0)[cheap.id] == told
    later.close()


def test_they_are_counted_again_when_a_table_or_a_line_is_another_one(workspace, counting, cheap, serve, refresh):
    first = counted(counting, cheap)
    serve("/fares", [{"fare": 10}, {"fare": 11}, {"fare": 12}])
    refresh(workspace.queries.find("Fares").id, NOON + timedelta(days=1))
    second = counted(counting, cheap)
    assert (second.rows, second.dates) == (3, 2)
    assert second.snapshot_id != first.snapshot_id
    brief = cheap.brief.model_copy(update={"work_out": []})
    workspace.queries.save(cheap.id, brief, NOON)
    assert counted(counting, cheap).rows == 3
    workspace.removal.delete(workspace.queries.find("Fares").id, [second.snapshot_id])
    assert counted(counting, cheap).snapshot_id == first.snapshot_id


def test_a_line_that_fails_is_told_and_a_query_without_a_table_has_no_rows(counting, cheap, add):
    wrong = add("Wrong", start={"tables": [{"query": "Cheap"}]}, work_out=[{"do": "keep", "expression": "nowhere > 1"}])
    assert "nowhere" in counted(counting, wrong).problem
    empty = add("Empty", "/none")
    none = add("None", start={"tables": [{"query": empty.name}]})
    assert counted(counting, none).snapshot_id is None


def test_the_desk_does_not_wait_for_a_table_that_takes_long(workspace, cheap, monkeypatch):
    go_on, other = threading.Event(), WorkOut.other

    def slow(*given):
        assert go_on.wait(20)
        return other(*given)

    monkeypatch.setattr(WorkOut, "other", slow)
    with client_of(workspace) as client:

        def line():
            return next(one for one in client.get("/api/desk").json()["queries"] if one["name"] == "Cheap")

        first = line()
        assert (first["counting"], first["latest"]) == (True, None)
        go_on.set()
        until = time.monotonic() + 20
        while line()["counting"] and time.monotonic() < until:
            time.sleep(0.02)
        assert (line()["counting"], line()["latest"]["rows"], line()["snapshots"]) == (False, 2, 1)


def test_a_query_that_is_deleted_while_it_is_counted_is_forgotten(workspace, counting, cheap):
    counted(counting, cheap)
    workspace.queries.delete(cheap.id)
    counting._count(cheap, "any")
    assert workspace.worked_rows.all() == {}


def test_a_query_that_is_gone_and_a_program_that_ends_are_waited_for_by_nobody(workspace, cheap):
    counting = RowCounting(workspace, WorkOut(workspace))
    assert counting.of([99_999], 0) == {99_999: None}
    counting.close()
    assert counting.of([cheap.id], 0) == {cheap.id: None}
    assert workspace.worked_rows.all() == {}


def test_a_full_disk_keeps_no_count_from_being_told(workspace, counting, cheap, monkeypatch):
    def full(*_):
        raise fail("workspace-unreadable", "The disk is full.", where="workspace", do="Make room.")

    monkeypatch.setattr(workspace.worked_rows, "put", full)
    assert counted(counting, cheap).rows == 2


def test_what_is_given_up_is_no_fault(workspace, cheap, monkeypatch, caplog):
    begun = threading.Event()

    def until_stopped(self, source, as_of, stack, stop):
        begun.set()
        assert stop.wait(20)
        raise Stopped

    monkeypatch.setattr(WorkOut, "other", until_stopped)
    counting = RowCounting(workspace, WorkOut(workspace))
    assert counting.of([cheap.id], 0) == {cheap.id: None}
    assert begun.wait(20)
    counting.close()
    assert workspace.worked_rows.all() == {}
    assert caplog.text == ""


def test_a_fault_of_the_program_is_told_and_logged(counting, cheap, monkeypatch, caplog):
    def broken(*_):
        raise RuntimeError("a fault")

    monkeypatch.setattr(WorkOut, "other", broken)
    told = counted(counting, cheap)
    assert (told.problem, told.dates) == ("Its table could not be worked out. Open it to see why.", 1)
    assert "could not be counted" in caplog.text
