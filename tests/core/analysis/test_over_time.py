"""The story of a row, and figures through time."""

import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.alike.judge import same_value
from tin_bucket.core.analysis.row_story import story_of
from tin_bucket.core.work_out.figure_reader import COUNTS, OVER_TIME, FigureReader

ROW = st.dictionaries(st.sampled_from("ab"), st.sampled_from([1, 2.5, None, "x", True]), min_size=1)


@given(st.lists(st.none() | ROW, max_size=10))
def test_a_story_tells_the_row_on_every_date(dates):
    told = {event.at: event for event in story_of(dates)}
    there, known = False, {}
    for at, values in enumerate(dates):
        event = told.get(at)
        what = event.what if event else ""
        if what in ("came", "back"):
            assert not there
            assert (what == "came") == (not any(one is not None for one in dates[:at]))
            there = True
        elif what == "went":
            there = False
        assert there == (values is not None)
        if values is None:
            continue
        # What changed, done to what is known, gives the row as it is.
        for name, (old, new) in (event.changes if event else {}).items():
            assert same_value(known[name], old)
            known[name] = new
        for name, value in values.items():
            known.setdefault(name, value)
            assert same_value(known[name], value)


def test_a_story_in_words():
    a, b = {"id": 1, "fare": 10}, {"id": 1, "fare": 12, "new": "x"}
    events = story_of([None, a, a, b, None, None, {"id": 1, "fare": 9}, {"id": 1, "fare": 9, "new": "y"}])
    assert [(one.at, one.what, one.changes) for one in events] == [
        (1, "came", {}),
        (3, "changed", {"fare": (10, 12)}),
        (4, "went", {}),
        (6, "back", {"fare": (12, 9)}),
        (7, "changed", {"new": ("x", "y")}),
    ]


@given(
    st.lists(st.one_of(st.none(), st.integers(-9, 9), st.just(""), st.just("x"), st.booleans(), st.just(0.5))),
    st.data(),
)
def test_a_figure_is_that_of_the_values(values, data):
    places = data.draw(st.lists(st.integers(0, len(values) - 1))) if values else []
    own = [values[place] for place in places]
    numbers = [one for one in own if isinstance(one, int | float) and not isinstance(one, bool)]
    filled = [one for one in own if one is not None and one != ""]
    wanted = {
        "rows": len(own),
        "filled": len(filled),
        "different": len({(isinstance(one, bool), one) for one in filled}),
        "sum": sum(numbers) if numbers else None,
        "mean": sum(numbers) / len(numbers) if numbers else None,
        "median": statistics.median(numbers) if numbers else None,
        "lowest": min(numbers, default=None),
        "highest": max(numbers, default=None),
    }
    assert COUNTS < set(OVER_TIME) == set(wanted)
    for figure in OVER_TIME:
        found = FigureReader(values, figure).of(np.array(places, dtype=np.int64))
        assert found == (pytest.approx(wanted[figure]) if wanted[figure] is not None else None), figure


def test_a_number_beyond_floats_is_left_out():
    assert FigureReader([10**400, 2], "sum").of(np.array([0, 1])) == 2.0
