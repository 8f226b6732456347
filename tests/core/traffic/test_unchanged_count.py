"""That a service does not count answers 304 is believed only where its own count shows it."""

from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.traffic.unchanged_count import UnchangedCount


def counted(statuses, order, start, free):
    """What a watcher makes of calls that a service counts in one order and whose answers come in another."""
    left, answers = start, []
    for status in statuses:
        left -= not (free and status == 304)
        answers.append((status, left))
    watched = UnchangedCount()
    # Answers overtake each other by a few places, as many as are under way together.
    for at in sorted(range(len(answers)), key=lambda at: at + order[at % len(order)]):
        watched.answered(*answers[at])
    return watched


STATUSES = st.lists(st.sampled_from([200, 304]), min_size=1, max_size=60)
ORDER = st.lists(st.integers(0, 3), min_size=1, max_size=60)


@given(STATUSES, ORDER)
def test_where_they_count_nothing_shows_that_they_do_not(statuses, order):
    assert not counted(statuses, order, 5_000, free=False).are_free


@given(st.integers(5, 60))
def test_where_they_do_not_count_that_shows_soon(many):
    assert counted([200] + [304] * many, [0], 100, free=True).are_free


def test_a_window_that_begins_anew_is_no_proof():
    watched = UnchangedCount()
    for left in (3, 2, 1, 60, 59):
        watched.answered(304, left)
    assert not watched.are_free
    for left in (58, 57, 56):
        watched.answered(304, left)
    assert not watched.are_free


def test_two_are_not_enough():
    watched = UnchangedCount()
    for _ in range(3):
        watched.answered(304, 10)
    assert not watched.are_free
    watched.answered(304, 10)
    assert watched.are_free
