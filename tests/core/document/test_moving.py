"""Dates of an example that move with the calendar."""

from datetime import UTC, date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.document.moving import move_dates, near_dates
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import bind

TODAY = date(2026, 11, 25)
MOMENT = Moment(datetime(2026, 11, 25, 23, 30, tzinfo=UTC))


def a_brief(*parameters):
    return load_brief({"name": "q", "ask": {"service": "s"}, "parameters": list(parameters)})


@given(st.integers(-120, 120), st.integers(0, 400))
def test_a_date_that_moves_is_what_it_was_today_and_as_much_later_on_later_days(days, later):
    day = TODAY + timedelta(days=days)
    brief = a_brief({"name": "day", "kind": "date", "default": str(day)})
    moved = move_dates(brief, ["day"], MOMENT)
    assert bind(moved.parameters, {}, MOMENT) == {"day": str(day)}
    near = abs(days) <= 92
    assert ("day" in near_dates(brief, MOMENT)) is near
    then = Moment(MOMENT.now + timedelta(days=later))
    assert bind(moved.parameters, {}, then) == {"day": str(day + timedelta(days=later) if near else day)}


def test_only_the_named_dates_move_and_each_by_its_own_zone():
    brief = a_brief(
        {"name": "from", "kind": "date", "default": "2026-11-25"},
        {"name": "to", "kind": "date", "default": "2026-11-26", "zone": "Asia/Tokyo"},
        {"name": "month", "kind": "month", "default": "2026-11"},
        {"name": "word", "kind": "text", "default": "2026-11-25"},
        {"name": "relative", "kind": "date", "default": {"anchor": "today", "offset": "-P1D"}},
        {"name": "days", "kind": "date", "many": True, "default": ["2026-11-25"]},
    )
    # In Tokyo it is the 26th.
    assert near_dates(brief, MOMENT) == {"from": "P0D", "to": "P0D"}
    moved = move_dates(brief, ["to", "word", "unknown"], MOMENT)
    assert [one.name for one, old in zip(moved.parameters, brief.parameters, strict=True) if one != old] == ["to"]
