"""When a schedule is due: each local day once, in every zone, whatever the program and the clock do."""

from datetime import UTC, date, datetime, timedelta
from itertools import islice
from zoneinfo import ZoneInfo, available_timezones

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tin_bucket.core.schedule.due import clock_changes, due_since, newest_due, next_due, resumed, upcoming
from tin_bucket.core.schedule.models import DailySchedule, EverySchedule, Hours, MonthlySchedule

NOON = datetime(2026, 11, 25, 12, tzinfo=UTC)
ZONES = sorted(available_timezones() - {"localtime"})
HALF_MONTHS = [
    datetime(year, month, day, tzinfo=UTC) for year in range(2020, 2030) for month in range(1, 13) for day in (1, 15)
]
# Many names are of one clock.
CLOCKS = list(
    {tuple(one.astimezone(ZoneInfo(zone)).utcoffset() for one in HALF_MONTHS): zone for zone in ZONES}.values()
)
LONG_AGO = datetime(2000, 1, 1, tzinfo=UTC)


def changes(zone, start=2020, end=2030):
    """The moments at which a zone's clock is changed."""
    out, at, step = [], datetime(start, 1, 1, tzinfo=UTC), timedelta(days=1)
    info = ZoneInfo(zone)
    while at.year < end:
        if at.astimezone(info).utcoffset() != (at + step).astimezone(info).utcoffset():
            out.append(at)
        at += step
    return out


def answered(schedule, times, saved=LONG_AGO):
    """The moments whose refresh is made, with the clock looked at at these times."""
    last, out = None, []
    for now in times:
        moment = newest_due(schedule, due_since(schedule, saved, last, now), now)
        if moment is not None:
            last = now
            out.append(moment)
    return out


WORKDAYS = [1, 2, 3, 4, 5]


@pytest.mark.parametrize(
    ("schedule", "now", "found"),
    [
        (DailySchedule(at="13:00", also=["07:30", "18:00"]), "2026-11-25T08:00:00+00:00",
         ["2026-11-25T13:00", "2026-11-25T18:00", "2026-11-26T07:30"]),
        (EverySchedule(every="PT20M", between=Hours(start="17:30", end="18:00", days=WORKDAYS)),
         "2026-11-27T17:35:00+00:00", ["2026-11-27T17:50", "2026-11-30T17:30", "2026-11-30T17:50"]),
        (MonthlySchedule(at="06:00", on=31), "2026-11-25T00:00:00+00:00",
         ["2026-12-31T06:00", "2027-01-31T06:00", "2027-03-31T06:00"]),
        (MonthlySchedule(at="06:00", on="last"), "2027-02-01T00:00:00+00:00",
         ["2027-02-28T06:00", "2027-03-31T06:00", "2027-04-30T06:00"]),
        (MonthlySchedule(at="06:00", on="last working"), "2026-10-31T00:00:00+00:00",
         ["2026-11-30T06:00", "2026-12-31T06:00", "2027-01-29T06:00"]),
        (MonthlySchedule(at="06:00", on="first working"), "2026-10-31T00:00:00+00:00",
         ["2026-11-02T06:00", "2026-12-01T06:00", "2027-01-01T06:00"]),
    ],
)  # fmt: skip
def test_schedules_in_full(schedule, now, found):
    moment = datetime.fromisoformat(now)
    told = [one.isoformat()[:16] for one in islice(upcoming(schedule, moment, moment), 3)]
    assert told == found
    # What comes next is what was due newest, a moment after it.
    first = datetime.fromisoformat(f"{found[0]}:00+00:00")
    assert newest_due(schedule, moment, first) == first
    assert newest_due(schedule, first, first + timedelta(minutes=1)) is None


@given(
    st.one_of(
        st.builds(DailySchedule, at=st.just("02:30"), also=st.lists(st.just("23:59"), max_size=1),
                  days=st.just([1, 3, 7]), zone=st.sampled_from(["UTC", "Europe/Berlin", "America/New_York"])),
        st.builds(MonthlySchedule, at=st.just("02:30"), on=st.sampled_from([1, 31, "last", "last working"]),
                  zone=st.sampled_from(["UTC", "Europe/Berlin"])),
    ),
    st.datetimes(datetime(2026, 1, 1), datetime(2027, 12, 1)),
)  # fmt: skip
def test_what_is_next_is_the_first_that_becomes_due(schedule, moment):
    now = moment.replace(tzinfo=UTC)
    following = next_due(schedule, now, now)
    assert following > now
    assert newest_due(schedule, now, following) == following
    assert newest_due(schedule, now, following - timedelta(seconds=1)) is None


def test_what_the_clock_does_is_said():
    now = datetime(2026, 11, 25, tzinfo=UTC)
    told = clock_changes(DailySchedule(at="02:30", zone="Europe/Berlin"), now)
    assert told == [
        "02:30 does not exist on 28 March 2027; it is refreshed at 03:30 instead.",
        "02:30 comes twice on 31 October 2027; it is refreshed the first time.",
    ]
    assert clock_changes(DailySchedule(at="07:30", zone="Europe/Berlin"), now) == []
    assert clock_changes(EverySchedule(every="PT1H"), now) == []


def test_a_pause_until_a_day_catches_nothing_up():
    saved = datetime(2026, 11, 20, tzinfo=UTC)
    since = resumed(saved, date(2026, 11, 28), UTC)
    schedule = DailySchedule(at="07:30")
    assert newest_due(schedule, since, datetime(2026, 11, 28, 7, tzinfo=UTC)) is None
    assert newest_due(schedule, since, datetime(2026, 11, 28, 8, tzinfo=UTC)) == datetime(
        2026, 11, 28, 7, 30, tzinfo=UTC
    )
    assert resumed(saved, None, UTC) == saved


@pytest.mark.parametrize("part", range(8))
def test_each_local_day_once_around_every_change_of_every_zone(part):
    """Ten years of changes; the clock is looked at every half hour for four days."""
    cases = 0
    for zone in CLOCKS[part::8]:
        info = ZoneInfo(zone)
        for change in changes(zone):
            start = (change - timedelta(days=1)).astimezone(info).date()
            first = datetime.combine(start, datetime.min.time(), info).astimezone(UTC)
            times = [first + timedelta(minutes=30 * n) for n in range(4 * 48)]
            exist = {(one - timedelta(minutes=30)).astimezone(info).date() for one in times[1:]}
            for at in ("00:00", "02:30", "23:30"):
                schedule = DailySchedule(at=at, zone=zone)
                made = answered(schedule, times, first - timedelta(seconds=1))
                days = [moment.astimezone(info).date() for moment in made]
                assert len(days) == len(set(days)), (zone, change, at, days)
                assert exist - set(days) <= {max(exist)}, (zone, change, at, days)
                cases += 1
    assert cases > 50


@settings(max_examples=300, deadline=None)
@given(
    st.sampled_from(ZONES),
    st.dates(date(2020, 1, 1), date(2030, 1, 1)),
    st.times().map(lambda one: one.strftime("%H:%M")),
    st.lists(st.timedeltas(timedelta(minutes=1), timedelta(days=3)), min_size=1, max_size=40),
)
def test_with_sleep_of_any_length_a_day_is_never_asked_twice_and_the_newest_is_never_missed(zone, start, at, gaps):
    schedule, info = DailySchedule(at=at, zone=zone), ZoneInfo(zone)
    now = datetime.combine(start, datetime.min.time(), UTC)
    saved, last, answered = now, None, []
    for gap in gaps:
        now += gap
        moment = newest_due(schedule, due_since(schedule, saved, last, now), now)
        if moment is not None:
            answered.append(moment.astimezone(info).date())
            last = now
        # What comes next lies ahead, and nothing is due now any longer.
        since = due_since(schedule, saved, last, now)
        assert newest_due(schedule, since, now) is None
        following = next_due(schedule, since, now)
        assert following is not None
        assert following > now
        assert newest_due(schedule, since, following) == following
    assert len(answered) == len(set(answered))


@given(st.integers(1, 10_000), st.lists(st.integers(1, 5000), max_size=30))
def test_an_interval_is_caught_up_once_however_long_the_pause(minutes, pauses):
    schedule = EverySchedule(every=f"PT{minutes}M")
    now, last = NOON, NOON
    for pause in pauses:
        now += timedelta(minutes=pause)
        moment = newest_due(schedule, due_since(schedule, NOON, last, now), now)
        assert (moment is not None) == (now - last >= timedelta(minutes=minutes))
        if moment is not None:
            last = now


def test_a_clock_that_was_set_back_asks_no_day_twice():
    schedule = DailySchedule(at="07:30")
    day = datetime(2026, 11, 25, 7, 30, 5, tzinfo=UTC)
    back = day - timedelta(minutes=10)
    assert newest_due(schedule, due_since(schedule, LONG_AGO, day, back), back) is None
    again = day + timedelta(minutes=1)
    assert newest_due(schedule, due_since(schedule, LONG_AGO, day, again), again) is None


def test_a_refresh_that_a_wrong_clock_put_far_into_the_future_hinders_none():
    schedule = DailySchedule(at="07:30")
    assert newest_due(schedule, due_since(schedule, LONG_AGO, datetime(2099, 1, 1, tzinfo=UTC), NOON), NOON) is not None


def test_what_was_due_before_the_schedule_was_set_is_not_caught_up():
    daily, often = DailySchedule(at="07:30"), EverySchedule(every="PT6H")
    long_ago, saved = NOON - timedelta(days=30), NOON - timedelta(minutes=1)
    for schedule in (daily, often):
        assert newest_due(schedule, due_since(schedule, saved, long_ago, NOON), NOON) is None
    # A brief that is saved does not put an interval off.
    recent = NOON - timedelta(hours=5)
    assert next_due(often, due_since(often, saved, recent, NOON), NOON) == recent + timedelta(hours=6)


@pytest.mark.parametrize(
    ("schedule", "now", "expected"),
    [
        (DailySchedule(at="07:30"), "2026-11-25T07:29:00+00:00", "2026-11-25T07:30:00+00:00"),
        (DailySchedule(at="07:30", days=[1, 2, 3, 4, 5]), "2026-11-27T08:00:00+00:00", "2026-11-30T07:30:00+00:00"),
        (DailySchedule(at="07:30", days=[7]), "2026-11-25T08:00:00+00:00", "2026-11-29T07:30:00+00:00"),
        # A zone's clock changes; the time of day does not.
        (DailySchedule(at="07:30", zone="Europe/Berlin"), "2026-07-01T00:00:00+00:00", "2026-07-01T05:30:00+00:00"),
        (DailySchedule(at="07:30", zone="Europe/Berlin"), "2026-12-01T00:00:00+00:00", "2026-12-01T06:30:00+00:00"),
        # Midnight does not exist on the day on which this zone's clock goes forward.
        (DailySchedule(at="00:00", zone="Africa/Cairo"), "2026-04-23T12:00:00+00:00", "2026-04-23T22:00:00+00:00"),
    ],
)
def test_the_next_time_of_day(schedule, now, expected):
    moment = next_due(schedule, LONG_AGO, datetime.fromisoformat(now))
    assert moment == datetime.fromisoformat(expected)
