from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.analysis.ever_seen import ever_seen


@given(st.lists(st.lists(st.sampled_from("abcd"), max_size=4), max_size=8))
def test_each_thing_is_told_once_with_its_dates(dates):
    keys = [key for date in dates for key in date]
    found = ever_seen(keys, [len(date) for date in dates])
    things = list(dict.fromkeys(keys))
    assert [keys[at] for at in found.last.tolist()] == things
    for at, thing in enumerate(things):
        having = [number for number, date in enumerate(dates) if thing in date]
        assert (found.first_date[at], found.last_date[at], found.dates[at]) == (having[0], having[-1], len(having))
        # It is as it was last.
        assert found.last[at] == max(number for number, key in enumerate(keys) if key == thing)
    assert found.breaks == [
        at for at in range(1, len(dates)) if dates[at - 1] and dates[at] and not set(dates[at - 1]) & set(dates[at])
    ]
