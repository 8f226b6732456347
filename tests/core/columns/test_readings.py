"""Cells read together as numbers and as groups are what each of them is."""

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.readings import group_codes, group_text, numbers_of, plain_numbers

NUMBERS = st.none() | st.integers() | st.floats()
CELLS = NUMBERS | st.booleans() | st.text(max_size=3) | st.just(Miss("none", "not found"))


@given(st.lists(NUMBERS | st.sampled_from([2**53 - 1, 2**53, -(2**53), 2**53 + 1, 10**400])))
def test_plain_numbers_are_the_same_numbers(values):
    found = plain_numbers(values)
    exact = all(value is None or abs(value) < 2**53 for value in values)
    assert (found is not None) == exact
    if found is not None:
        assert [None if math.isnan(one) else one for one in found.tolist()] == values


@given(st.lists(CELLS))
def test_what_is_no_finite_number_is_counted(values):
    numbers, odd = numbers_of(values)
    alone = [numbers_of([value]) for value in values]
    np.testing.assert_array_equal(numbers, [float(one[0]) for one, _ in alone])
    assert odd == sum(one for _, one in alone)


@given(st.lists(CELLS), st.sampled_from(["", "no value"]))
def test_cells_of_one_text_are_one_group(values, empty):
    codes, names = group_codes(values, empty)
    assert [names[code] for code in codes.tolist()] == [group_text(value) or empty for value in values]
    assert len(set(names)) == len(names)
