"""The periods that times belong to: the quick way and the plain one say the same."""

from datetime import UTC, date, datetime

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.chart import periods
from tin_bucket.core.chart.cells import spoken
from tin_bucket.core.chart.periods import PERIODS, period_starts

NAMES = [one.value for one in PERIODS if one.value]
OFFSETS = st.sampled_from(["", "+00:00", "+05:30", "-11:00"])


@given(st.lists(st.dates(date(1, 1, 1), date(9000, 1, 1)), min_size=1, max_size=30), st.sampled_from(NAMES), OFFSETS)
def test_a_period_begins_where_its_day_is_written(days, period, offset):
    for values in ([day.isoformat() for day in days], [f"{day.isoformat()}T23:59:59{offset}" for day in days]):
        found, odd = period_starts(values, period)
        assert odd == 0
        for day, start in zip(days, found.tolist(), strict=True):
            first = periods._START[period](day)
            assert (
                start
                == (
                    datetime(first.year, first.month, first.day, tzinfo=UTC) - datetime(1970, 1, 1, tzinfo=UTC)
                ).total_seconds()
                * 1000
            )


def test_days_keep_their_distance_over_a_change_of_the_clock():
    values = [f"2026-10-{day:02}T12:00:00{'+02:00' if day < 25 else '+01:00'}" for day in range(20, 31)]
    starts = period_starts(values, "day")[0]
    assert set(np.diff(starts).tolist()) == {86_400_000.0}


def test_what_is_no_moment_is_counted_and_the_rest_stays():
    found, odd = period_starts(["2026-11-20", "2026-13-20", None, "2026-11-22"], "day")
    assert odd == 1
    assert np.isnan(found).tolist() == [False, True, True, False]
    assert period_starts(["2026-11-20T05:00:00+99:99", "2026-11-20T05:00:00+01:00"], "day")[1] == 1
    assert period_starts(["2026-11-20T05:61:00"], "day")[1] == 1


def test_dates_as_names_are_readable_and_stay_apart():
    assert spoken(["2026-11-20", "2026-11-21"], "date") == ["Fri 20 Nov", "Sat 21 Nov"]
    assert spoken(["2026-11-20T05:40:00Z", "no value"], "date and time") == ["Fri 20 Nov 05:40", "no value"]
    assert spoken(["2025-11-20", "2026-11-20"], "date") == ["Thu 20 Nov 2025", "Fri 20 Nov 2026"]
    alike = ["2026-11-20T05:40:00Z", "2026-11-20T05:40:30Z"]
    assert spoken(alike, "date and time") == alike
    assert spoken(["2026-11-20"], "text") == ["2026-11-20"]
