from collections import Counter

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW, SAME, compare, difference, same_value

COLUMNS = ["id", "fare", "status"]
ROW = st.tuples(st.integers(0, 6), st.sampled_from([1, 2.5, None]), st.sampled_from(["on time", "late"]))
TABLE = st.lists(ROW, max_size=12)


def laid_over(then, now, match=("id",), then_columns=COLUMNS, now_columns=COLUMNS):
    ids = {}
    then_ids, now_ids = (
        np.array([ids.setdefault((tuple(cols), repr(row)), len(ids)) for row in rows], dtype=np.int64)
        for rows, cols in ((then, then_columns), (now, now_columns))
    )
    split = difference(then_ids, now_ids)
    return compare(
        then_ids, now_ids, split, [then[i] for i in split.only_then], [now[i] for i in split.only_now],
        then_columns, now_columns, list(match),
    )  # fmt: skip


@given(TABLE, TABLE)
def test_comparing_and_applying_gives_the_other_side(then, now):
    found = laid_over(then, now)
    applied = []
    for state, then_row, now_row in zip(found.state, found.then_row, found.now_row, strict=True):
        if state == SAME:
            applied.append(then[then_row])
        elif state in (NEW, CHANGED):
            applied.append(now[now_row])
    assert applied == now


@given(TABLE, TABLE)
def test_every_row_of_both_sides_is_there_once(then, now):
    found = laid_over(then, now)
    assert sorted(found.now_row[found.now_row >= 0]) == list(range(len(now)))
    assert sorted(found.then_row[found.then_row >= 0]) == list(range(len(then)))
    for state, then_row, now_row in zip(found.state, found.then_row, found.now_row, strict=True):
        assert (then_row >= 0) == (state != NEW)
        assert (now_row >= 0) == (state != GONE)
        if state == CHANGED:
            assert then[then_row][0] == now[now_row][0]
            changed = found.changed_in[int(now_row)]
            assert changed == tuple(c for c, a, b in zip(COLUMNS, then[then_row], now[now_row], strict=True) if a != b)


@given(TABLE)
def test_a_table_is_the_same_as_itself_in_any_order(then):
    assert set(laid_over(then, then).state.tolist()) <= {SAME}
    assert set(laid_over(then, list(reversed(then))).state.tolist()) <= {SAME}


@given(TABLE, TABLE)
def test_the_set_arithmetic_is_that_of_multisets(then, now):
    found = laid_over(then, now, match=())
    gone = Counter(then[i] for i in found.then_row[found.state == GONE])
    new = Counter(now[i] for i in found.now_row[found.state == NEW])
    assert gone == Counter(then) - Counter(now)
    assert new == Counter(now) - Counter(then)


def test_counts_changes_by_column_and_the_mean_difference():
    then = [(1, 40.0, "on time"), (2, 41.0, "late"), (3, 42.0, "on time"), (4, 1, "late")]
    now = [(1, 42.0, "on time"), (2, 40.0, "on time"), (5, 9.0, "on time"), (4, 1, "late")]
    found = laid_over(then, now)
    assert found.counts() == {"same": 1, "new": 1, "gone": 1, "changed": 2}
    fare, status = found.columns
    assert (fare.name, fare.cells, fare.rose, fare.fell, fare.mean) == ("fare", 2, 1, 1, 0.5)
    assert (status.name, status.cells, status.mean) == ("status", 1, None)
    # The gone row stands behind the row that it stood behind.
    assert found.state.tolist() == [CHANGED, CHANGED, GONE, NEW, SAME]


def test_columns_that_came_or_went_are_named_and_not_counted_as_changes():
    found = laid_over([(1, "a")], [(1, "a", 5)], then_columns=["id", "x"], now_columns=["id", "x", "y"])
    assert found.counts()["same"] == 1
    assert (found.new_columns, found.gone_columns) == (["y"], [])


def test_a_key_that_stands_for_several_rows_is_counted():
    found = laid_over([(1, 1, "a"), (1, 2, "b")], [(1, 3, "a"), (1, 4, "b"), (1, 5, "c")])
    assert found.counts() == {"same": 0, "new": 1, "gone": 0, "changed": 2}
    assert found.repeated_keys == 1


def test_without_match_columns_a_changed_row_is_gone_and_new():
    assert laid_over([(1, 1, "a")], [(1, 2, "a")], match=()).counts() == {"same": 0, "new": 1, "gone": 1, "changed": 0}


def test_values_are_equal_as_json():
    assert same_value(1, 1.0)
    assert not same_value(1, True)
    assert not same_value("1", 1)
