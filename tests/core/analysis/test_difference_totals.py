"""What the changes of a column come to, and what differs by the values of a column."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.analysis.test_compare import laid_over
from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW
from tin_bucket.core.analysis.difference_groups import difference_groups
from tin_bucket.core.analysis.difference_totals import difference_totals
from tin_bucket.core.columns.missing import Miss

CELL = st.one_of(st.none(), st.integers(-50, 50), st.floats(-1e6, 1e6, width=32), st.sampled_from(["late", "", True]))
TABLE = st.lists(st.tuples(st.integers(0, 8), CELL, st.sampled_from(["a", "b", None, ""])), max_size=14)


def column(rows, at):
    return [row[at] for row in rows]


def is_number(value):
    return isinstance(value, int | float) and not isinstance(value, bool)


@given(TABLE, TABLE, st.sampled_from([(), ("id",)]))
def test_what_came_went_and_changed_leads_from_one_sum_to_the_other(then, now, match):
    found = laid_over(then, now, match)
    told = difference_totals(column(then, 1), column(now, 1), found)
    assert told.then == pytest.approx(math.fsum(one for one in column(then, 1) if is_number(one)))
    assert told.now == pytest.approx(math.fsum(one for one in column(now, 1) if is_number(one)))
    assert told.then - told.went + told.changed + told.came == pytest.approx(told.now, abs=1e-6)
    assert told.others == sum(one in ("late", True) and not is_number(one) for one in column(then + now, 1))


@given(TABLE, TABLE)
def test_each_changed_number_is_in_one_step(then, now):
    found = laid_over(then, now)
    changed = found.state == CHANGED
    pairs = [
        (then[old][1], now[new][1])
        for old, new in zip(found.then_row[changed], found.now_row[changed], strict=True)
    ]  # fmt: skip
    sizes = [new - old for old, new in pairs if is_number(old) and is_number(new) and old != new]
    told = difference_totals(column(then, 1), column(now, 1), found)
    assert sum(told.counts) == len(sizes)
    if sizes:
        assert (told.edges[0], told.edges[-1]) == (min(sizes), max(sizes))
        assert told.edges == sorted(told.edges)
        assert len(told.edges) == len(told.counts) + 1
    else:
        assert told.edges == []


def test_one_outlier_hides_none_of_the_others():
    then = [(number, 0, "a") for number in range(1_000)]
    now = [(number, 1 + number % 9, "a") for number in range(999)] + [(999, 1_000_000, "a")]
    told = difference_totals(column(then, 1), column(now, 1), laid_over(then, now))
    assert sum(count > 0 for count in told.counts) == 9
    assert told.edges[-1] == 1_000_000


def test_a_sum_that_no_number_holds_is_infinite():
    huge = [(1, 1.7e308, "a"), (2, 1.7e308, "a")]
    assert difference_totals(column(huge, 1), column(huge, 1), laid_over(huge, huge)).now == math.inf


@given(TABLE, TABLE)
def test_groups_are_all_that_differs(then, now):
    found = laid_over(then, now)
    rows = np.arange(len(found.state))
    values = [now[new][2] if new >= 0 else then[old][2] for old, new in zip(found.then_row, found.now_row, strict=True)]
    groups = difference_groups(values, found, rows)
    counts = found.counts()
    assert (sum(one.new for one in groups), sum(one.gone for one in groups)) == (counts["new"], counts["gone"])
    assert sum(one.changed for one in groups) == counts["changed"]
    assert [one.rows for one in groups] == sorted((one.rows for one in groups), reverse=True)
    for one in groups:
        own = [at for at in rows if (values[at] or "") == one.value]
        assert one.new == sum(found.state[own] == NEW)
        assert one.gone == sum(found.state[own] == GONE)


def test_what_a_lookup_did_not_find_is_in_the_group_of_nothing():
    found = laid_over([], [(1, 1, None), (2, 1, Miss("none", "no match")), (3, 1, "")])
    groups = difference_groups([None, Miss("none", "no match"), ""], found, np.arange(3))
    assert [(one.value, one.new) for one in groups] == [("", 3)]
