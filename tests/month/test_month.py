"""Some days of the month, with each of its faults."""

from tests.month.month import FULL_DISK, LAPSED_KEY, judge, play


def test_days_that_nobody_looks_at_end_with_the_right_tables_or_say_why_not(tmp_path):
    days = 4
    assert max(FULL_DISK, LAPSED_KEY) + 1 < days
    month = play(tmp_path / "workspace", days, seed=7)
    judge(month, days)
    assert len(month.kills) == days
