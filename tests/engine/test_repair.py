"""A snapshot that is not as it was stored is repaired from its saved answers, or it is said why not."""

import json
import random
import sqlite3
from datetime import timedelta

import pytest

from tests.conftest import NOON
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.clock import SetClock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.tables.repair import repair
from tin_bucket.store.integrity import faults_of
from tin_bucket.store.row_store.tuning import StoreTuning
from tin_bucket.store.workspace import Workspace

ROWS = 60


@pytest.fixture
def kept(workspace, awkward, ask_awkward):
    """Three dates of a query whose rows are partly the same; gives the home and the query's number."""
    for day in range(3):
        rows = [{"id": n, "fare": n * 2 + (day if n % 7 == 0 else 0), "at": {"port": f"P{n % 5}"}} for n in range(ROWS)]
        awkward.answers["/data"] = (200, {"Content-Type": "application/json"}, json.dumps({"data": rows}).encode())
        run = ask_awkward(
            moment=NOON + timedelta(days=day), take={"records": "$.data[*]"}, keep={"match": ["id"]},
        )  # fmt: skip
    query_id = run.query_id
    # The brief is another one today; a date is repaired as it was read then.
    query = workspace.queries.get(query_id)
    document = query.brief.model_dump(by_alias=True, mode="json")
    document["take"]["columns"] = [{"place": "$.id", "name": "number"}]
    workspace.queries.save(query_id, load_brief(document), NOON)
    home = workspace.home
    workspace.close()
    return home, query_id


def opened(home):
    return Workspace(home, tuning=StoreTuning(copied_from=50))


def damage(home, statement, *values):
    db = sqlite3.connect(home / "workspace.sqlite")
    db.execute("PRAGMA foreign_keys=OFF")
    db.execute(statement, values)
    db.commit()
    db.close()


def everything(workspace, query_id):
    snapshots = workspace.snapshots
    return [
        (one.columns, one.match, list(snapshots.all_rows(one.id)), [snapshots.origin(one.id, at) for at in range(ROWS)])
        for one in snapshots.of_query(query_id)
    ]  # fmt: skip


def flipped(home, table, column, chance):
    db = sqlite3.connect(home / "workspace.sqlite")
    number, value = chance.choice(db.execute(f"SELECT rowid, {column} FROM {table}").fetchall())
    db.close()
    data = bytearray(value)
    data[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
    damage(home, f"UPDATE {table} SET {column} = ? WHERE rowid = ?", bytes(data), number)


@pytest.mark.parametrize(("table", "column"), [("row", "content"), ("snapshot", "row_ids"), ("snapshot", "origins")])
@pytest.mark.parametrize("seed", range(4))
def test_what_is_damaged_is_as_it_was_again(kept, table, column, seed):
    home, query_id = kept
    workspace = opened(home)
    before = everything(workspace, query_id)
    workspace.close()
    chance = random.Random(seed)
    for _ in range(1 + seed):
        flipped(home, table, column, chance)
    workspace = opened(home)
    engine = Engine(workspace, SetClock(NOON + timedelta(days=9)))
    faults = faults_of(workspace, query_id)
    assert list(faults) == [one.id for one in workspace.snapshots.of_query(query_id)]
    damaged = [number for number, found in faults.items() if found]
    for number in damaged:
        assert repair(workspace, engine.rereader, number) == []
    assert not any(faults_of(workspace, query_id).values())
    assert everything(workspace, query_id) == before
    workspace.close()


def test_rows_that_are_gone_come_back_in_every_snapshot_that_has_them(kept):
    home, query_id = kept
    workspace = opened(home)
    before = everything(workspace, query_id)
    workspace.close()
    damage(home, "DELETE FROM row WHERE id % 3 = 0")
    workspace = opened(home)
    engine = Engine(workspace, SetClock(NOON))
    assert all(faults_of(workspace, query_id).values())
    for one in workspace.snapshots.of_query(query_id):
        assert repair(workspace, engine.rereader, one.id) == []
    assert everything(workspace, query_id) == before
    workspace.close()


def test_without_its_answers_it_is_said_and_nothing_else_is_lost(kept):
    home, query_id = kept
    damage(home, "DELETE FROM row WHERE id = 2")
    damage(home, "DELETE FROM answer")
    workspace = opened(home)
    engine = Engine(workspace, SetClock(NOON))
    first = workspace.snapshots.of_query(query_id)[0]
    with pytest.raises(ProblemError, match="cannot be repaired") as found:
        repair(workspace, engine.rereader, first.id)
    assert found.value.problem.kind == "cannot-repair"
    assert found.value.problem.do
    faults = faults_of(workspace, query_id)
    assert [fault.what for fault in faults[first.id]] == [f"1 of its {ROWS} rows is not as it was stored."]
    workspace.close()


def test_a_copy_of_a_column_is_made_again_from_its_rows(kept):
    home, query_id = kept
    workspace = opened(home)
    newest = workspace.snapshots.latest(query_id)
    with workspace.write() as db:
        workspace.snapshots.copy_columns(db, newest.id)
    assert workspace.snapshots.has_copy(newest.id, "fare")
    before = workspace.snapshots.column(newest.id, "fare")
    workspace.close()
    damage(home, "UPDATE column_copy SET packs = (SELECT packs FROM column_copy WHERE name = 'id') WHERE name = 'fare'")
    # Its answers are not needed for that.
    damage(home, "DELETE FROM answer")
    workspace = opened(home)
    engine = Engine(workspace, SetClock(NOON))
    assert [fault.part for fault in faults_of(workspace, query_id)[newest.id]] == ["copy"]
    assert repair(workspace, engine.rereader, newest.id) == []
    assert workspace.snapshots.column(newest.id, "fare") == before
    workspace.close()


def test_answers_that_give_another_table_repair_no_list(kept, monkeypatch):
    home, query_id = kept
    workspace = opened(home)
    engine = Engine(workspace, SetClock(NOON))
    first, second = workspace.snapshots.of_query(query_id)[:2]
    with workspace.write() as db:
        db.execute("UPDATE snapshot SET origins = x'00' WHERE id = ?", (first.id,))
    other = engine.rereader.table_again(
        workspace.runs.get(second.run_id), load_brief(json.loads(workspace.runs.brief_of(second.run_id)))
    )
    monkeypatch.setattr(engine.rereader, "table_again", lambda run, brief: other)
    with pytest.raises(ProblemError, match="another table"):
        repair(workspace, engine.rereader, first.id)
    assert [fault.part for fault in faults_of(workspace, query_id)[first.id]] == ["list", "list"]
    workspace.close()
