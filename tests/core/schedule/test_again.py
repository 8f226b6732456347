"""Refreshes that brought no table are tried again where that helps, and no more often than a person would."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.schedule.again import MOST_INTERRUPTED, PASSING, PAUSES, Stopped, again_at
from tin_bucket.store.runs import STATES

SIX = datetime(2026, 11, 25, 6, tzinfo=UTC)


def run(state="failed", kind="time-out", by_command=False, minutes=0):
    return Stopped(state, by_command, SIX + timedelta(minutes=minutes), kind)


def minutes_of(runs):
    at = again_at(runs)
    return None if at is None else (at - SIX) // timedelta(minutes=1)


@pytest.mark.parametrize(
    ("runs", "minutes"),
    [
        ([], None),
        ([run()], 5),
        ([run(minutes=5), run()], 20),
        ([run(minutes=20), run(minutes=5), run()], 80),
        ([run(minutes=80), run(minutes=20), run(minutes=5), run()], None),
        ([run(kind="key-refused")], None),
        ([run(kind="not-found")], None),
        ([run("complete", "")], None),
        ([run("incomplete", "")], None),
        ([run("running", "")], None),
        ([run("cancelled", "cancelled")], None),
        ([run("cancelled", "cancelled", by_command=True)], 0),
        ([run("interrupted", "interrupted")], 0),
        ([run("interrupted")] * MOST_INTERRUPTED, 0),
        ([run("interrupted")] * (MOST_INTERRUPTED + 1), None),
        ([run("interrupted"), run(), run("interrupted"), run("interrupted"), run("interrupted")], 0),
    ],
)
def test_when_it_is_tried_again(runs, minutes):
    assert minutes_of(runs) == minutes


@given(st.lists(st.sampled_from([*STATES]), max_size=12), st.sampled_from([*PASSING, "key-refused", ""]))
def test_it_never_goes_on_for_ever(states, kind):
    """However each try ends, so many follow on the first and no more."""
    runs = [run(state, kind, by_command=False, minutes=at) for at, state in enumerate(states)][::-1]
    for _ in range(50):
        at = again_at(runs)
        if at is None:
            break
        runs.insert(0, Stopped("failed", False, at, kind))
    else:
        raise AssertionError("it goes on for ever")
    assert len(runs) - len(states) <= len(PAUSES) + 2
