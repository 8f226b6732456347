from collections import Counter

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.alike.judge import Judge, same_value
from tin_bucket.core.alike.rules.amount import WithinAmount
from tin_bucket.core.alike.rules.ignored import Ignored
from tin_bucket.core.alike.rules.text import SameText
from tin_bucket.core.alike.rules.zeros import LeadingZeros
from tin_bucket.core.analysis.compare import ALIKE, CHANGED, GONE, NEW, SAME, compare, difference
from tin_bucket.core.analysis.compare_columns import compare_columns

COLUMNS = ["id", "fare", "status"]
ROW = st.tuples(st.integers(0, 6), st.sampled_from([1, 2.5, None]), st.sampled_from(["on time", "late"]))
TABLE = st.lists(ROW, max_size=12)


RULES = [
    WithinAmount(amount=1.5, columns=["fare"]),
    Ignored(columns=["status"]),
    SameText(columns=["status"]),
]


def laid_over(then, now, match=("id",), then_columns=COLUMNS, now_columns=COLUMNS, rules=(), reconciled=()):
    ids = {}
    then_ids, now_ids = (
        np.array([ids.setdefault((tuple(cols), repr(row)), len(ids)) for row in rows], dtype=np.int64)
        for rows, cols in ((then, then_columns), (now, now_columns))
    )
    split = difference(then_ids, now_ids)
    return compare(
        then_ids, now_ids, split, [then[i] for i in split.only_then], [now[i] for i in split.only_now],
        then_columns, now_columns, list(match), Judge(rules, reconciled),
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


@given(TABLE, TABLE, st.lists(st.sampled_from(RULES), unique_by=id), st.sampled_from([("id",), ()]))
def test_rules_tell_fewer_rows_as_changed_and_lose_none(then, now, rules, match):
    plain, found = laid_over(then, now, match), laid_over(then, now, match, rules=rules)
    assert sorted(found.now_row[found.now_row >= 0]) == list(range(len(now)))
    assert sorted(found.then_row[found.then_row >= 0]) == list(range(len(then)))
    assert found.counts()["changed"] <= plain.counts()["changed"] or not match
    applied = []
    for state, then_row, now_row in zip(found.state, found.then_row, found.now_row, strict=True):
        if state == SAME:
            applied.append(then[then_row])
        elif state in (NEW, CHANGED, ALIKE):
            applied.append(now[now_row])
        if state == ALIKE:
            judge, near = Judge(rules), found.alike_in[int(now_row)]
            for name, old, new in zip(COLUMNS, then[then_row], now[now_row], strict=True):
                assert same_value(old, new) != (name in near)
                assert same_value(old, new) or judge.alike(name)(old, new)
    assert applied == now


def test_what_counts_as_the_same_is_counted_apart():
    then = [(1, 40.0, "on time"), (2, 41.0, "Late"), (3, 42.0, "on time")]
    now = [(1, 40.5, "on time"), (2, 50.0, "late"), (3, 42.0, "on time")]
    found = laid_over(then, now, rules=[WithinAmount(amount=1), SameText()])
    assert found.state.tolist() == [ALIKE, CHANGED, SAME]
    assert (found.changed_in, found.alike_in) == ({1: ("fare",)}, {0: ("fare",), 1: ("status",)})
    assert found.alike == {"fare": 1, "status": 1}
    assert [(one.name, one.cells) for one in found.columns] == [("fare", 1)]


def test_match_values_count_as_the_same_too():
    found = laid_over([("007", 1, "a")], [("7", 2, "a")], rules=[LeadingZeros(columns=["id"])])
    assert found.counts() == {"same": 0, "new": 0, "gone": 0, "changed": 1, "alike": 0}
    found = laid_over([("007", 1, "a")], [("7", 1, "a")], rules=[LeadingZeros()])
    assert found.counts()["alike"] == 1
    # A number that became a text is the same number.
    found = laid_over([(7, 1, "a")], [("7", 1, "a")], reconciled=["id"])
    assert found.counts() == {"same": 1, "new": 0, "gone": 0, "changed": 0, "alike": 0}


def test_without_match_columns_a_new_or_ignored_column_makes_no_row_new():
    found = laid_over([(1, "a")], [(1, "a", 5)], (), ["id", "x"], ["id", "x", "y"])
    assert found.counts()["same"] == 1
    found = laid_over([(1, 1, "a"), (2, 1, "b")], [(1, 1, "c"), (2, 1, "d")], (), rules=[Ignored(columns=["status"])])
    assert found.counts() == {"same": 0, "new": 0, "gone": 0, "changed": 0, "alike": 2}


def test_where_little_is_shared_equal_values_pair_no_rows():
    found = laid_over([(1, 5, "a", "b")], [(5, "c", 1, "e")], (), ["x", "fare", "y", "z"], ["fare", "p", "q", "r"])
    assert found.counts() == {"same": 0, "new": 1, "gone": 1, "changed": 0, "alike": 0}


def test_where_a_match_column_is_missing_the_whole_content_tells_rows_apart():
    then, now = [(1, "a", 5), (2, "b", 5)], [(1, "a", 5), (2, "c", 5)]
    found = laid_over(then, now, ["id"], ["id", "x", "y"], ["code", "x", "y"])
    assert (found.matched_by, found.lacking) == ([], ["id"])
    assert found.counts() == {"same": 1, "new": 1, "gone": 1, "changed": 0, "alike": 0}


def test_rows_of_one_match_value_are_compared_within_themselves():
    then = [(1, 1, "a"), (1, 2, "b"), (2, 9, "z")]
    now = [(1, 2, "c"), (1, 1, "d"), (2, 8, "z")]
    found = laid_over(then, now)
    # Those that have most in common pair, whatever their order.
    assert {int(n): int(t) for t, n in zip(found.then_row, found.now_row, strict=True)} == {0: 1, 1: 0, 2: 2}
    assert found.repeated_keys == 1
    assert found.repeated.tolist() == [0, 1]
    # One that is gone altogether is repeated all the same.
    found = laid_over([(1, 1, "a"), (1, 2, "b")], [])
    assert (found.repeated_keys, found.repeated.tolist()) == (1, [0, 1])


def test_counts_changes_by_column_and_the_mean_difference():
    then = [(1, 40.0, "on time"), (2, 41.0, "late"), (3, 42.0, "on time"), (4, 1, "late")]
    now = [(1, 42.0, "on time"), (2, 40.0, "on time"), (5, 9.0, "on time"), (4, 1, "late")]
    found = laid_over(then, now)
    assert found.counts() == {"same": 1, "new": 1, "gone": 1, "changed": 2, "alike": 0}
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
    assert found.counts() == {"same": 0, "new": 1, "gone": 0, "changed": 2, "alike": 0}
    assert found.repeated_keys == 1


def test_without_match_columns_a_changed_row_is_gone_and_new():
    found = laid_over([(1, 1, "a")], [(1, 2, "a")], match=())
    assert (found.matched_by, found.counts()) == ([], {"same": 0, "new": 1, "gone": 1, "changed": 0, "alike": 0})


def test_values_are_equal_as_json():
    assert same_value(1, 1.0)
    assert not same_value(1, True)
    assert not same_value("1", 1)


def by_columns(then, now, match, rules=(), stretch=None):
    def values(rows):
        return lambda name: [row[COLUMNS.index(name)] for row in rows]

    def stretches(name):
        """What differs as it is written, as stored columns tell it."""
        if stretch is None or len(then) != len(now):
            return None
        before, after = values(then)(name), values(now)(name)
        parts = ((at, before[at : at + stretch], after[at : at + stretch]) for at in range(0, len(before), stretch))
        return (part for part in parts if repr(part[1]) != repr(part[2]))

    return compare_columns(values(then), values(now), COLUMNS, COLUMNS, list(match), Judge(rules), stretches)


# Of −1 and −2 the hashes are one.
ODD = st.tuples(
    st.integers(-2, 5), st.sampled_from([1, 2.5, None, True, 0, "1"]), st.sampled_from(["On", "on ", "late"])
)


@given(
    st.lists(ODD, max_size=8, unique_by=lambda row: row[0]),
    st.lists(ODD, max_size=8, unique_by=lambda row: row[0]),
    st.lists(st.sampled_from([*RULES, LeadingZeros(columns=["id"])]), unique_by=id),
    st.sampled_from([None, 1, 3]),
    st.booleans(),
)
def test_comparing_by_columns_finds_the_same_as_comparing_rows(then, now, rules, stretch, in_line):
    if in_line:
        now = [(old[0], *new[1:]) for old, new in zip(then, now, strict=False)]
        then = then[: len(now)]
    wanted, found = laid_over(then, now, rules=rules), by_columns(then, now, ["id"], rules, stretch)
    for part in ("state", "then_row", "now_row"):
        assert getattr(found, part).tolist() == getattr(wanted, part).tolist()
    assert (found.changed_in, found.alike_in, found.alike) == (wanted.changed_in, wanted.alike_in, wanted.alike)
    assert [(one.name, one.cells, one.rose, one.fell) for one in found.columns] == [
        (one.name, one.cells, one.rose, one.fell) for one in wanted.columns
    ]


def test_keys_of_one_hash_are_two_keys():
    assert hash(-1) == hash(-2)
    found = by_columns([(-1, 1, "a"), (3, 1, "a")], [(-2, 1, "a"), (3, 2, "a")], ["id"])
    assert found.counts() == {"same": 0, "new": 1, "gone": 1, "changed": 1, "alike": 0}


def test_rows_have_to_be_looked_at_where_a_match_value_stands_for_several():
    assert by_columns([(1, 1, "a"), (1, 2, "b")], [(1, 1, "a")], ["id"]) is None
    assert by_columns([(1, 1, "a")], [(1, 1, "a")], []) is None
