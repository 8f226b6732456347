"""Texts that are written alike are read as one array, and mean what each of them means by itself."""

from datetime import UTC, date, datetime, timedelta, timezone

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.chart.cells import moments_of
from tin_bucket.core.columns.iso_texts import days_alike, moments_alike

OFFSETS = st.sampled_from([timezone(timedelta(minutes=minutes)) for minutes in (-570, -60, 0, 60, 345)])
DAYS = st.dates(date(1, 1, 2), date(9999, 12, 30))
STRANGE = st.sampled_from(
    ["2026-02-30", "2026-13-01", "0000-01-01", "+123-01-01", "0000-01-01T00:00:00+00:00", "2026-1-001", "tomorrow..", "２026-11-20", "2026-11-20T24:00:00+00:00",
     "2026-11-20 10:00:00+00:00", "2026-11-20T10:00:00+0a:00", "20261120", "", None, 7]
)  # fmt: skip


def one_by_one(values):
    """What each value is by itself."""
    found = [moments_of([value]) for value in values]
    return [float(moments[0]) for moments, *_ in found], sum(odd for _, odd, _ in found)


@given(st.lists(DAYS.map(date.isoformat), min_size=1), st.lists(STRANGE, max_size=2))
def test_days_are_read_as_each_is(days, strange):
    values = [*days, *strange]
    moments, odd, _ = moments_of(values)
    expected, expected_odd = one_by_one(values)
    np.testing.assert_array_equal(moments, expected)
    assert odd == expected_odd


@given(
    st.lists(st.datetimes(datetime(2, 1, 1), datetime(9998, 1, 1)), min_size=1), OFFSETS, st.lists(STRANGE, max_size=1)
)
def test_moments_are_read_as_each_is(moments, zone, strange):
    values = [one.replace(microsecond=0, tzinfo=zone).isoformat() for one in moments] + strange
    np.testing.assert_array_equal(moments_of(values)[0], one_by_one(values)[0])


def test_what_is_alike_is_read_together_and_nothing_else():
    values = ["2026-11-20T10:00:00+01:00", "1969-12-31T23:59:59+01:00"]
    written, offset = moments_alike(values)
    assert written.tolist() == [datetime(2026, 11, 20, 10), datetime(1969, 12, 31, 23, 59, 59)]
    assert offset == 3600
    assert days_alike(values).tolist() == [date(2026, 11, 20), date(1969, 12, 31)]
    # The days of two zones are as they are written; their moments are not alike.
    mixed = [values[0], "2026-11-20T10:00:00+02:00"]
    assert days_alike(mixed).tolist() == [date(2026, 11, 20)] * 2
    assert moments_alike(mixed) is None
    assert moments_of(["2026-11-20"])[0].tolist() == [datetime(2026, 11, 20, tzinfo=UTC).timestamp() * 1000]


@pytest.mark.parametrize(
    "values",
    [[], ["2026-02-30"], ["2026-11-20T10:00:00+99:99"], ["2026-11-20T10:61:00+00:00"], ["2026-11"], ["2026-11-20", 3],
     ["2026-11-20", "2026-11-20T10:00:00+00:00"], ["2026/11/20"]],
)  # fmt: skip
def test_what_is_none_is_not_read(values):
    assert moments_alike(values) is None
    assert days_alike(values) is None
