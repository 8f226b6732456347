from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tests.conftest import NOON
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.store.row_store import column_copy, row_list, rows
from tin_bucket.store.row_store.tuning import StoreTuning
from tin_bucket.store.snapshots import Snapshots
from tin_bucket.store.workspace import Workspace

IDS = st.lists(st.integers(0, 40), max_size=40).map(lambda ids: np.array(ids, dtype=np.int64))


@given(IDS, st.none() | IDS)
def test_a_list_written_and_read_with_its_base_is_the_same(ids, base):
    assert row_list.decode(row_list.encode(ids, base), base).tolist() == ids.tolist()


@given(st.lists(st.none() | IDS.filter(len), min_size=2, max_size=6))
def test_lists_written_together_are_read_apart(columns):
    back = row_list.unpack_columns(row_list.pack_columns(columns))
    assert [None if c is None else c.tolist() for c in back] == [None if c is None else c.tolist() for c in columns]


@given(
    st.integers(0, 2**32), st.lists(st.integers(0, 59), max_size=6), st.lists(st.integers(0, 70), max_size=6), st.data()
)
def test_a_row_is_followed_without_the_whole_list(seed, gone, came, data):
    # Numbers far from each other: what is shared is always the shorter form.
    base = np.random.default_rng(seed).integers(0, 2**60, 60)
    ids = np.delete(base, gone)
    for at, place in enumerate(came):
        # Some rows come back behind themselves, others are new.
        ids = np.insert(ids, min(place, len(ids)), base[place % 60] if at % 2 else at)
    packed = row_list.encode(ids, base)
    assume(row_list.is_shared(packed))
    wanted = np.unique([base[data.draw(st.integers(0, 59))], base[data.draw(st.integers(0, 59))], 0, 2])
    places = np.flatnonzero(np.isin(base, wanted))
    found, held = row_list.follow(row_list.shared(packed), places, base[places], wanted)
    assert found.tolist() == np.flatnonzero(np.isin(ids, wanted)).tolist()
    assert held.tolist() == ids[found].tolist()


def test_a_small_change_costs_little():
    base = np.arange(100_000, dtype=np.int64)
    ids = base.copy()
    ids[::1000] = np.arange(200_000, 200_100)
    data = row_list.encode(ids, base)
    assert row_list.is_shared(data)
    assert len(data) < 2_000
    # In another order the base tells nothing; the list is then written whole.
    assert not row_list.is_shared(row_list.encode(ids[::-1].copy(), base))


CELL = (
    st.none()
    | st.booleans()
    | st.integers(-(10**25), 10**25)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text()
)


@given(st.lists(CELL | st.builds(Miss, st.just("none"), st.text(max_size=5)), max_size=6).map(tuple))
def test_a_row_written_and_read_is_the_same(values):
    back = rows.decode_row(rows.encode_row(values))
    assert back == values
    assert [type(value) for value in back] == [type(value) for value in values]


def a_table(records, columns=("id", "fare")):
    height = len(records)
    data = [list(values) for values in zip(*records, strict=True)] if records else [[] for _ in columns]
    origin = np.arange(height, dtype=np.int64)
    return Table([TableColumn(name, "text") for name in columns], data, np.zeros(height, dtype=np.int64), origin)


@pytest.fixture
def keep(workspace):
    """Store tables as snapshots of one query, a day apart."""
    workspace.services.save(Service(id="s", name="s", base="http://h"))
    query = workspace.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOON)
    kept = []

    def go(table, fail=False, match=("id",)):
        moment = NOON + timedelta(days=len(kept))
        run = workspace.runs.begin(query.id, "{}", {}, "by hand", moment)
        with workspace.write() as db:
            number = workspace.snapshots.add(
                db,
                query.id,
                run,
                table,
                match=list(match),
                state="complete",
                evidence="",
                stated_total=None,
                now=moment,
            )
            if fail:
                raise RuntimeError
        kept.append(number)
        return workspace.snapshots.get(number)

    return go


def stored_rows(workspace):
    with workspace.read() as db:
        return db.execute("SELECT count(*) FROM row").fetchone()[0]


def test_each_distinct_row_is_stored_once_and_every_snapshot_reads_as_it_was(workspace, keep):
    days = [
        [("a", 1), ("b", 2), ("b", 2), ("c", 3)],
        [("a", 1), ("b", 2.5), ("c", 3)],
        [("c", 3), ("a", 1)],
        [],
        [("a", 1), ("b", 2), ("b", 2), ("c", 3)],
    ]
    snapshots = [keep(a_table(day)) for day in days]
    assert stored_rows(workspace) == 4
    for snapshot, day in zip(snapshots, days, strict=True):
        assert list(workspace.snapshots.all_rows(snapshot.id, chunk=2)) == day
        assert snapshot.rows == len(day)
    assert [snapshot.since for snapshot in snapshots] == [
        {}, {"new": 0, "gone": 1, "changed": 1}, {"new": 0, "gone": 1, "changed": 0},
        {"new": 0, "gone": 2, "changed": 0}, {"new": 4, "gone": 0, "changed": 0},
    ]  # fmt: skip


def test_columns_may_come_go_and_change_places_without_rewriting_old_snapshots(workspace, keep):
    first = keep(a_table([("a", 1), ("b", 2)]))
    turned = keep(a_table([(1, "a"), (2, "b")], ("fare", "id")))
    wider = keep(a_table([("a", 1, "x"), ("b", 3, "y")], ("id", "fare", "status")))
    assert stored_rows(workspace) == 4
    assert turned.since == {"new": 0, "gone": 0, "changed": 0}
    assert wider.since == {"new": 0, "gone": 0, "changed": 1}
    assert workspace.snapshots.window(first.id, 0, 9) == [("a", 1), ("b", 2)]
    assert workspace.snapshots.window(turned.id, 0, 9) == [(1, "a"), (2, "b")]
    assert workspace.snapshots.window(wider.id, 1, 1) == [("b", 3, "y")]


def test_a_snapshot_that_is_given_up_leaves_nothing(workspace, keep):
    keep(a_table([("a", 1)]))
    with pytest.raises(RuntimeError):
        keep(a_table([("a", 1), ("z", 9)]), fail=True)
    assert stored_rows(workspace) == 1
    after = keep(a_table([("a", 1), ("y", 8)]))
    assert list(workspace.snapshots.all_rows(after.id)) == [("a", 1), ("y", 8)]


def test_many_days_stay_right_across_lists_that_are_written_whole_again(workspace, keep):
    days, table = [], dict.fromkeys(range(300), 0)
    random = np.random.default_rng(4)
    for day in range(40):
        for n in random.choice(list(table), 5):
            table[int(n)] += 1
        if day % 3 == 0:
            table.pop(next(iter(table)))
            table[1000 + day] = day
        days.append(list(table.items()))
    snapshots = [keep(a_table(day)) for day in days]
    nothing_in_memory = Snapshots(workspace)
    for snapshot, day in zip(snapshots, days, strict=True):
        assert list(nothing_in_memory.all_rows(snapshot.id)) == day


def test_deleting_a_query_takes_everything_with_it(workspace, keep):
    for value in range(3):
        snapshot = keep(a_table([("a", value)]))
    workspace.queries.delete(snapshot.query_id)
    with workspace.read() as db:
        for name in ("query", "brief", "run", "call", "answer", "snapshot", "row_batch", "row"):
            assert db.execute(f"SELECT count(*) FROM {name}").fetchone()[0] == 0, name


def test_two_queries_snapshots_are_not_compared(workspace, keep):
    first = keep(a_table([("a", 1)]))
    other = workspace.queries.add(load_brief({"name": "r", "ask": {"service": "s"}}), NOON)
    run = workspace.runs.begin(other.id, "{}", {}, "by hand", NOON)
    with workspace.write() as db:
        number = workspace.snapshots.add(
            db, other.id, run, a_table([("a", 1)]), match=[], state="complete", evidence="", stated_total=None, now=NOON
        )
    with pytest.raises(ProblemError, match="different queries"):
        workspace.snapshots.compare(first.id, number)


def test_a_long_table_is_stored_part_by_part_as_a_short_one_is(workspace, desk):
    data = [[f"SK-{n % 70}" for n in range(100)], [n // 3 if n % 5 else None for n in range(100)]]
    data[1] = [value if at % 70 != 5 else 2**70 for at, value in enumerate(data[1])]

    def stored(query_id, workspace=workspace):
        run = workspace.runs.begin(query_id, "{}", {}, "by hand", NOON)
        table = a_table(list(zip(*data, strict=True)))
        with workspace.write() as db:
            number = workspace.snapshots.add(
                db, query_id, run, table, match=[], state="complete", evidence="", stated_total=None, now=NOON
            )
        return workspace.snapshots.window(number, 0, 100)

    short = stored(desk["Ports"].id)
    in_parts = Workspace(workspace.home, tuning=StoreTuning(long_from=10, part=7))
    assert stored(desk["Fleet today"].id, in_parts) == short == list(zip(*data, strict=True))
    # A second time nothing is new.
    before = workspace.db.execute("SELECT count(*) FROM row").fetchone()[0]
    assert stored(desk["Fleet today"].id, in_parts) == short
    in_parts.close()
    assert workspace.db.execute("SELECT count(*) FROM row").fetchone()[0] == before


@settings(max_examples=25)
@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=1, max_size=12))
def test_half_a_digest_that_collides_harms_nothing(records):
    contents = [rows.encode_row(record) for record in records]
    first, inverse = rows.unique_by_digest(rows.digests_of(contents))
    assert [contents[first[at]] for at in inverse] == contents
    assert len(first) == len(set(contents))


VALUES = st.lists(
    st.none()
    | st.booleans()
    | st.integers(-(2**63), 2**64 - 1)
    | st.text()
    | st.floats(allow_nan=False, allow_infinity=False)
)


@given(VALUES)
def test_a_copied_column_is_the_column(values):
    packs = column_copy.pack_values(values, stretch=3)
    if packs is None:
        # Lone surrogates cannot be written.
        assert any(isinstance(value, str) and not value.isprintable() for value in values)
        return
    back = column_copy.unpack_values(packs)
    assert [(value, type(value)) for value in back] == [(value, type(value)) for value in values]


def test_what_json_cannot_hold_is_not_copied():
    assert column_copy.pack_values([2**70]) is None
    assert column_copy.pack_values([Miss("none", "not found")]) is None


def test_a_long_table_is_sorted_from_its_copies_and_only_the_newest_has_some(tmp_path):
    workspace = Workspace(tmp_path, create=True, tuning=StoreTuning(copied_from=4))
    workspace.services.save(Service(id="s", name="s", base="http://h"))
    query = workspace.queries.add(load_brief({"name": "q", "ask": {"service": "s"}}), NOON)
    numbers = []
    for day in range(2):
        data = [[f"id {n}" for n in range(5)], [n * (day + 1) for n in range(4)] + [2**70]]
        columns = [TableColumn("id", "text"), TableColumn("n", "whole number")]
        table = Table(columns, data, np.zeros(5, dtype=np.int64), np.arange(5, dtype=np.int64))
        run = workspace.runs.begin(query.id, "{}", {}, "by hand", NOON)
        with workspace.write() as db:
            numbers.append(
                workspace.snapshots.add(
                    db,
                    query.id,
                    run,
                    table,
                    match=[],
                    state="complete",
                    evidence="",
                    stated_total=None,
                    now=NOON + timedelta(days=day),
                )
            )
    copies = workspace.db.execute("SELECT snapshot_id, name FROM column_copy").fetchall()
    assert [tuple(row) for row in copies] == [(numbers[1], "id")]
    for number in numbers:
        for name, at in (("id", 0), ("n", 1)):
            heading, values = workspace.snapshots.column(number, name)
            assert heading.name == name
            assert values == [row[at] for row in workspace.snapshots.all_rows(number)]
    assert workspace.snapshots.column(numbers[0], "nothing") is None


def test_a_reader_between_the_change_and_its_commit_keeps_no_old_rows(workspace, keep):
    """Who reads while a snapshot is rebuilt sees all of the old table, and all of the new one afterwards."""
    old, new = [("a", 1), ("b", 2), ("c", 3), ("d", 4), ("e", 5), ("f", 6)], [("a", 1), ("z", 9)]
    snapshot = keep(a_table(old))

    def look():
        return workspace.snapshots.get(snapshot.id).rows, workspace.snapshots.window(snapshot.id, 0, 99)

    with ThreadPoolExecutor(1) as other:
        with workspace.write() as db:
            workspace.snapshots.rebuild(db, snapshot.id, a_table(new), match=["id"], brief="{}", now=NOON)
            assert other.submit(look).result() == (6, old)
        assert other.submit(look).result() == (2, new)
    assert look() == (2, new)


def test_several_questions_in_one_view_see_one_table(workspace, keep):
    snapshot = keep(a_table([("a", 1), ("b", 2)]))

    def change():
        with workspace.write() as db:
            workspace.snapshots.rebuild(db, snapshot.id, a_table([("z", 9)]), match=["id"], brief="{}", now=NOON)

    with ThreadPoolExecutor(1) as other, workspace.snapshots.reading():
        assert workspace.snapshots.get(snapshot.id).rows == 2
        other.submit(change).result()
        assert workspace.snapshots.window(snapshot.id, 0, 9) == [("a", 1), ("b", 2)]
    assert workspace.snapshots.window(snapshot.id, 0, 9) == [("z", 9)]
