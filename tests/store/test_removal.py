"""Snapshots are weighed and deleted: the others read the same, and what was said to be freed is freed."""

import itertools
import random
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import NOON
from tests.store.test_rows_and_snapshots import a_table
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.store.integrity import check_stored
from tin_bucket.store.workspace import Workspace

RECORDS = st.lists(st.tuples(st.integers(0, 12).map(str), st.sampled_from("abc")), max_size=9)


class Kept:
    """A query whose tables are kept, a day apart."""

    def __init__(self, workspace, name="q"):
        self.workspace = workspace
        workspace.services.save(Service(id="s", name="s", base="http://h"))
        self.query = workspace.queries.add(load_brief({"name": name, "ask": {"service": "s"}}), NOON)
        self.tables = {}
        self.days = 0

    def keep(self, records):
        self.days += 1
        moment = NOON + timedelta(days=self.days)
        run = self.workspace.runs.begin(self.query.id, "{}", {}, "by hand", moment)
        with self.workspace.write() as db:
            number = self.workspace.snapshots.add(
                db,
                self.query.id,
                run,
                a_table(records),
                match=["id"],
                state="complete",
                evidence="",
                stated_total=None,
                now=moment,
            )
        self.tables[number] = records
        return number

    def delete(self, numbers):
        freed = self.workspace.removal.freed(self.query.id, numbers)
        before = self.stored()
        assert self.workspace.removal.delete(self.query.id, numbers) == freed
        assert before - self.stored() == freed.rows
        for number in numbers:
            del self.tables[number]

    def stored(self):
        with self.workspace.read() as db:
            batches = db.execute(
                "SELECT first_row, count FROM row_batch WHERE query_id = ?", (self.query.id,)
            ).fetchall()
            ends = [(first, first + count - 1) for first, count in batches]
            query = "SELECT count(*) FROM row WHERE id BETWEEN ? AND ?"
            return sum(db.execute(query, bounds).fetchone()[0] for bounds in ends)

    def check(self):
        """All that is left reads as it was kept, by this and by a new program."""
        snapshots = self.workspace.snapshots
        order = [one.id for one in snapshots.of_query(self.query.id)]
        assert order == list(self.tables)
        for workspace in (self.workspace, Workspace(self.workspace.home)):
            for number, records in self.tables.items():
                assert list(workspace.snapshots.all_rows(number)) == [tuple(one) for one in records]
            if workspace is not self.workspace:
                workspace.close()
        for before, after in itertools.pairwise(order):
            assert snapshots.get(after).since == snapshots.compare(before, after).differs()
        assert check_stored(self.workspace).damages == []
        everything = {one for records in self.tables.values() for one in records}
        assert self.stored() == len(everything)


@given(st.lists(RECORDS, min_size=2, max_size=7), st.data())
@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
def test_after_any_deletes_all_others_read_the_same(tmp_path_factory, empty_home, tables, data):
    workspace = Workspace(empty_home(tmp_path_factory.mktemp("w") / "workspace"))
    kept = Kept(workspace)
    for records in tables:
        kept.keep(records)
    for _ in range(data.draw(st.integers(1, 3))):
        numbers = data.draw(st.sets(st.sampled_from(sorted(kept.tables)), max_size=len(kept.tables) - 1))
        kept.delete(numbers)
        kept.check()
        # Rows that went may come again, as new ones.
        kept.keep(data.draw(RECORDS))
        kept.check()
    workspace.close()


def test_each_is_weighed_by_what_it_alone_has(workspace):
    kept = Kept(workspace)
    first = kept.keep([("1", "a"), ("2", "a")])
    second = kept.keep([("1", "a"), ("2", "b"), ("2", "b")])
    third = kept.keep([("1", "a"), ("3", "c")])
    weights = workspace.removal.weights(kept.query.id)
    assert {number: weight.rows for number, weight in weights.items()} == {first: 1, second: 1, third: 1}
    both = workspace.removal.freed(kept.query.id, [first, second])
    assert both.rows == 2
    assert 0 < weights[first].size < workspace.removal.whole_size(kept.query.id)


def test_a_list_that_others_build_on_may_go(workspace):
    kept = Kept(workspace)
    chance = random.Random(1)
    table, numbers = [(str(at), "a") for at in range(3_000)], []
    for day in range(30):
        for at in chance.sample(range(3_000), 60):
            table[at] = (str(at), f"{day}")
        numbers.append(kept.keep(list(table)))
    with workspace.read() as db:
        assert db.execute("SELECT count(*) FROM snapshot WHERE base IS NOT NULL").fetchone()[0] > 20
    size = workspace.removal.whole_size(kept.query.id)
    kept.delete(numbers[::2])
    kept.check()
    with workspace.read() as db:
        # They build on what is left, so that half as many do not take more room than all.
        assert db.execute("SELECT count(*) FROM snapshot WHERE base IS NOT NULL").fetchone()[0] > 10
    assert workspace.removal.whole_size(kept.query.id) < size


def test_the_last_one_and_those_of_others_stay(workspace):
    kept, other = Kept(workspace), Kept(workspace, "other")
    number, foreign = kept.keep([("1", "a")]), other.keep([("1", "a")])
    with pytest.raises(ProblemError) as caught:
        workspace.removal.delete(kept.query.id, [number])
    assert caught.value.problem.kind == "last-snapshot"
    for action in (workspace.removal.delete, workspace.removal.freed):
        with pytest.raises(ProblemError) as caught:
            action(kept.query.id, [foreign])
        assert caught.value.problem.kind == "snapshot-unknown"
    kept.check()
    assert workspace.removal.delete(kept.query.id, []).rows == 0


def test_a_snapshot_has_a_name_a_note_and_a_pin(workspace):
    kept = Kept(workspace)
    number = kept.keep([("1", "a")])
    workspace.snapshots.label(number, " Before the storm ", "Ask the harbour why.", True)
    found = workspace.snapshots.get(number)
    assert (found.name, found.note, found.pinned, found.stays) == (
        "Before the storm",
        "Ask the harbour why.",
        True,
        True,
    )
    workspace.snapshots.label(number, "", "", False)
    assert not workspace.snapshots.get(number).stays
    with pytest.raises(ProblemError):
        workspace.snapshots.label(number + 1, "x", "", False)


def test_ids_are_never_given_twice(workspace):
    kept = Kept(workspace)
    kept.keep([("1", "a")])
    last = kept.keep([("9", "z")])
    used = int(workspace.snapshots.row_ids(last)[0])
    kept.keep([("1", "a")])
    kept.delete([last])
    again = kept.keep([("9", "z")])
    assert int(workspace.snapshots.row_ids(again)[0]) > used
    assert np.all(workspace.snapshots.row_ids(again) != used)
