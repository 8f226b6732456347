"""Lists in lists and beside each other become the rows that a plain walk over them gives."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.columns.compressed import TableTuning
from tin_bucket.core.formats.jsonpath import WILDCARD
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.flatten import Flattener
from tin_bucket.core.table.row_expansion import expand
from tin_bucket.core.table.shred import ShredOptions

ITEMS = st.lists(st.integers(0, 9), max_size=3)
RECORDS = st.lists(
    st.fixed_dictionaries(
        {"id": st.integers()},
        optional={"a": ITEMS, "b": st.lists(st.fixed_dictionaries({"n": st.integers(0, 9)}, optional={"c": ITEMS}),
                                            max_size=3)},
    ),
    max_size=7,
)  # fmt: skip
A, B, C = ("a",), ("b",), ("b", WILDCARD, "c")


def walked(records, side_by_side):
    """The rows as (id, a, n, c), made the plain way."""
    rows = []
    for record in records:
        left = record.get("a") or [None]
        right = [(item["n"], value) for item in record.get("b") or [] for value in item.get("c") or [None]]
        right = right or [(None, None)]
        if side_by_side:
            pairs = itertools.zip_longest(left, right)
            rows += [(record["id"], a, *(pair or (None, None))) for a, pair in pairs]
        else:
            rows += [(record["id"], a, *pair) for a in left for pair in right]
    return rows


@pytest.mark.parametrize("side_by_side", [False, True])
@given(RECORDS)
def test_rows_of_nested_lists_are_those_of_a_plain_walk(side_by_side, records):
    flattener = Flattener(ShredOptions((A, B, C), side_by_side), TableTuning(together=2))
    flattener.add(records)
    flat = flattener.flat()
    columns = {column.place: list(column.values) for column in flat.columns}
    height = len(flat.record)
    expected = walked(records, side_by_side)
    assert height == len(expected)
    empty = [None] * height
    found = [columns.get(place, empty) for place in [("id",), (*A, WILDCARD), (*B, WILDCARD, "n"), (*C, WILDCARD)]]
    assert list(zip(*found, strict=True)) == expected
    for row in range(height):
        record = records[int(flat.record[row])]
        a, b, c = (int(numbers[row]) for numbers in flat.items)
        assert (record["a"][a] if a >= 0 else None) == expected[row][1]
        item = record["b"][b] if b >= 0 else {}
        assert item.get("n") == expected[row][2]
        assert (item["c"][c] if c >= 0 else None) == expected[row][3]


def test_nothing_becomes_nothing():
    rows = expand(0, [0], [np.zeros(0, dtype=np.int64)], False)
    assert [index.tolist() for index in rows.index] == [[], []]


def test_too_many_rows_are_refused_before_they_are_made():
    long = np.full(10, 100_000, dtype=np.int64)
    with pytest.raises(ProblemError, match="more than"):
        expand(10, [0, 0], [long, long], False)
