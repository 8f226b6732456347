"""A table is sorted, filtered and searched; the table itself stays as it is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.view import View, find_cells, positions, taken_at
from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.table import TableColumn

NONE = Miss("none", "not found")
TABLE = {
    "code": ("text", ["007", "a10", "A2", "", None, "Ä"]),
    "n": ("decimal", [3, None, 12.5, -1, 3, NONE]),
    "at": ("date and time", ["2026-11-24T07:30:00+01:00", "2026-11-24T07:00:00Z", None, "soon",
                             "2026-11-23T23:59:00-05:00", "2026-11-25T00:00:00Z"]),
    "day": ("date", ["2026-11-24", "2026-11-30", "2026-12-01", None, "2025-11-24", "2026-11-01"]),
}  # fmt: skip


def seen(**view):
    def column(name):
        found = TABLE.get(name)
        return (TableColumn(name, found[0]), found[1]) if found else None

    return positions(View.model_validate(view), 6, column).tolist()


def by(name, down=False):
    return {"column": name, "down": down}


def where(how, column, **more):
    return {"by": how, "column": column, **more}


def test_sorting_puts_empty_cells_last_either_way_and_keeps_the_order_of_equals():
    assert seen(sort=[by("n")]) == [3, 0, 4, 2, 1, 5]
    assert seen(sort=[by("n", True)]) == [2, 0, 4, 3, 1, 5]
    assert seen(sort=[by("code")]) == [3, 0, 1, 2, 5, 4]
    assert seen(sort=[by("n"), by("code", True)]) == [3, 0, 4, 2, 5, 1]


def test_moments_are_sorted_by_when_they_are_and_not_by_how_they_are_written():
    # 23:59 at −05:00 is 04:59 of the next day, before 06:30.
    assert seen(sort=[by("at")])[:2] == [4, 0]


def test_filters():
    assert seen(where=[where("text", "code", text="A")]) == [1, 2]
    assert seen(where=[where("text", "code", text="ä")]) == [5]
    assert seen(where=[where("text", "code", text="a", no=True)]) == [0, 3, 4, 5]
    assert seen(where=[where("between", "n", low="3")]) == [0, 2, 4]
    assert seen(where=[where("between", "n", low="-1", high="3.0")]) == [0, 3, 4]
    assert seen(where=[where("between", "day", low="2026-11-01", high="2026-11-30")]) == [0, 1, 5]
    assert seen(where=[where("between", "at", high="2026-11-24")]) == [0, 1, 4]
    assert seen(where=[where("one of", "code", values=["007", ""])]) == [0, 3, 4]
    assert seen(where=[where("one of", "n", values=["3", "12.5"])]) == [0, 2, 4]
    assert seen(where=[where("empty", "n")]) == [1, 5]
    assert seen(where=[where("empty", "code", no=True)]) == [0, 1, 2, 5]
    assert seen(where=[where("empty", "n", no=True), where("text", "code", text="0")], sort=[by("n", True)]) == [0]


@pytest.mark.parametrize(
    ("view", "kind"),
    [
        ({"sort": [by("gone")]}, "column-unknown"),
        ({"where": [where("empty", "gone")]}, "column-unknown"),
        ({"where": [where("between", "n", low="many")]}, "value-unreadable"),
    ],
)
def test_what_cannot_be_is_said(view, kind):
    with pytest.raises(ProblemError) as caught:
        seen(**view)
    assert caught.value.problem.kind == kind


NUMBERS = st.integers(-5, 5) | st.floats(-5, 5) | st.sampled_from([2**53, 2**53 + 1, -(2**60), 1e300, float("inf")])


@given(st.lists(st.none() | NUMBERS), st.booleans(), st.booleans())
def test_a_sorted_and_filtered_table_has_the_rows_of_a_plain_one(values, down, filtered):
    column = (TableColumn("n", "decimal"), values)
    conditions = [where("between", "n", low="0")] if filtered else []
    view = View.model_validate({"sort": [by("n", down)], "where": conditions})
    found = positions(view, len(values), lambda _: column).tolist()
    kept = [at for at, value in enumerate(values) if not filtered or (value is not None and value >= 0)]
    filled = sorted([at for at in kept if values[at] is not None], key=lambda at: values[at], reverse=down)
    if down:
        filled = sorted(filled, key=lambda at: -values[at])
    assert [values[at] for at in found] == [values[at] for at in filled] + [None] * (len(kept) - len(filled))
    assert sorted(found) == kept


def test_cells_are_found_by_what_they_say():
    rows = [("SK-1", 42.5, NONE), (None, "sk-12", True)]
    assert find_cells(rows, "sk-1", 10) == ([(0, 0), (1, 1)], 2)
    assert find_cells(rows, "42.5", 10) == ([(0, 1)], 1)
    assert find_cells(rows, "not found", 10) == ([(0, 2)], 1)
    assert find_cells(rows * 100, "sk", 3) == ([(0, 0), (1, 1), (2, 0)], 200)


def test_packed_values_are_read_wherever_they_lie():
    import numpy as np

    rows = np.array([9, 0, 4, 4, 7])
    assert taken_at(Packed(range(10), stretch=3), rows) == [9, 0, 4, 4, 7] == taken_at(list(range(10)), rows)
