"""A rule keeps all of some days, then one of each week and month; how often it is put in force changes nothing."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tin_bucket.core.document.retention import DatedSnapshot, KeptSnapshots, let_go

START = datetime(2025, 1, 1, 6, tzinfo=UTC)


def daily(count, **parts):
    return [DatedSnapshot(at, START + timedelta(days=at), **parts) for at in range(count)]


def kept(rule, snapshots, now):
    gone = set(let_go(rule, snapshots, now, UTC))
    return [one for one in snapshots if one.id not in gone]


def test_a_year_of_days_becomes_a_month_of_days_then_weeks_then_months():
    rule = KeptSnapshots(days=30, weeks=12, months=None)
    snapshots = daily(365)
    now = snapshots[-1].taken
    days = [one.taken.date() for one in kept(rule, snapshots, now)]
    recent = [day for day in days if now.date() - day < timedelta(days=30)]
    assert len(recent) == 30
    older = [day for day in days if day not in recent]
    assert older[:8] == [datetime(2025, month, 1).date() - timedelta(days=1) for month in range(2, 10)]
    # Sundays, and the last days of months.
    weekly = [day for day in older if now.date() - day < timedelta(weeks=12)]
    assert all(day.isoweekday() == 7 or (day + timedelta(days=1)).day == 1 for day in weekly)
    assert len(days) == 30 + len(older) < 52


RULES = st.builds(
    lambda days, weeks, months: (days, weeks if weeks * 7 > days else 0, months),
    st.integers(1, 40),
    st.integers(0, 20),
    st.none() | st.integers(14, 30) | st.just(0),
).map(lambda parts: KeptSnapshots(days=parts[0], weeks=parts[1], months=parts[2]))
STEPS = st.lists(st.tuples(st.integers(0, 400), st.booleans(), st.integers(0, 20)), min_size=1, max_size=60)


@given(RULES, STEPS)
def test_put_in_force_after_each_refresh_or_once_the_same_stays(rule, steps):
    """Steps are hours until the next snapshot, whether it is whole, and whether it is pinned (0 of 20)."""
    moment, every, held = START, [], []
    for at, (hours, whole, pinned) in enumerate(steps):
        moment += timedelta(hours=hours)
        one = DatedSnapshot(at, moment, whole, pinned == 0)
        every.append(one)
        held = kept(rule, [*held, one], moment)
    once = kept(rule, every, moment)
    # An incomplete one may be the last of its week for a while, in the place of one that went meanwhile; never more.
    assert {one.id for one in once} >= {one.id for one in held if one.whole or one.stays} - {every[-1].id}
    if all(one.whole for one in every):
        assert held == once


@given(RULES, STEPS)
def test_the_newest_and_what_is_pinned_stay(rule, steps):
    moment, every = START, []
    for at, (hours, whole, pinned) in enumerate(steps):
        moment += timedelta(hours=hours)
        every.append(DatedSnapshot(at, moment, whole, pinned == 0))
    left = kept(rule, every, moment + timedelta(days=4_000))
    assert every[-1] in left
    assert all(one in left for one in every if one.stays)


def test_of_a_week_a_whole_one_is_kept_before_one_that_is_incomplete():
    rule = KeptSnapshots(days=1, weeks=4, months=0)
    week = [DatedSnapshot(1, datetime(2025, 1, 6, tzinfo=UTC)), DatedSnapshot(2, datetime(2025, 1, 8, tzinfo=UTC), False),
            DatedSnapshot(3, datetime(2025, 1, 20, tzinfo=UTC))]  # fmt: skip
    assert let_go(rule, week, datetime(2025, 1, 20, tzinfo=UTC), UTC) == [2]


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ({"days": 30, "weeks": 4}, "name more weeks"),
        ({"days": 60, "months": 2}, "name more months"),
        ({"days": 0}, "greater than or equal to 1"),
    ],
)
def test_a_rule_that_contradicts_itself_is_refused(parts, words):
    with pytest.raises(ValidationError, match=words):
        KeptSnapshots(**parts)
