"""The changes that matter are found by how much they are, against a plain walk."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.difference_size import SizeFilter, difference_sizes, wanted

CELLS = st.one_of(st.none(), st.text(max_size=2), st.booleans(), st.integers(-1000, 1000), st.floats(-1e6, 1e6))
PAIRS = st.lists(st.tuples(CELLS, CELLS), max_size=20)
FILTERS = st.builds(
    SizeFilter,
    st.sampled_from(["any", "up", "down"]),
    st.sampled_from([0.0, 1.0, 10.0, 150.0]),
    st.sampled_from(["amount", "percent"]),
    st.sampled_from(["table", "size"]),
)


def sizes_of(pairs, measure="amount"):
    return difference_sizes([one for one, _ in pairs], [other for _, other in pairs], measure)


@pytest.mark.parametrize(
    ("pair", "amount", "percent"),
    [((200, 250), 50, 25), ((-200, -250), -50, -25), ((0, 5), 5, math.inf), ((0, -5), -5, -math.inf), ((0, 0), 0, 0),
     ((10, 10), 0, 0)],
)  # fmt: skip
def test_a_difference_is_an_amount_or_a_percentage_of_what_was(pair, amount, percent):
    assert sizes_of([pair]).tolist() == [amount]
    assert sizes_of([pair], "percent").tolist() == [percent]


@given(PAIRS, FILTERS)
def test_what_is_wanted_is_what_a_plain_walk_finds(pairs, choice):
    sizes = sizes_of(pairs, choice.measure)
    found = wanted(sizes, choice).tolist()

    def number(value):
        return isinstance(value, int | float) and not isinstance(value, bool)

    plain = []
    for at, (old, new) in enumerate(pairs):
        if choice.way == "any" and not choice.least:
            plain.append(at)
        elif number(old) and number(new):
            size = float(sizes[at])
            size = abs(size) if choice.way == "any" else size if choice.way == "up" else -size
            if size > choice.least:
                plain.append(at)
    assert sorted(found) == plain
    if choice.order == "table":
        assert found == plain
    else:
        signed = np.abs(sizes) if choice.way == "any" else sizes if choice.way == "up" else -sizes
        there = [float(signed[at]) for at in found if not math.isnan(signed[at])]
        assert there == sorted(there, reverse=True)


@given(PAIRS)
def test_up_and_down_are_all_that_differ(pairs):
    sizes = sizes_of(pairs)
    up, down = (set(wanted(sizes, SizeFilter(way)).tolist()) for way in ("up", "down"))
    assert not up & down
    assert up | down == {at for at, size in enumerate(sizes.tolist()) if size and not math.isnan(size)}
