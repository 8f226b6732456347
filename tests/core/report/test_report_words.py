"""Numbers, changes and dates as sentences have them."""

import math
from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.report.words import (
    cell_words,
    change_words,
    date_value_words,
    moved_words,
    number_words,
    percent_words,
)

NOW = datetime(2026, 11, 25, 12, tzinfo=UTC)


@pytest.mark.parametrize(
    ("value", "unit", "decimals", "words"),
    [
        (1227, "", None, "1,227"),
        (29.64, "%", None, "29.6 %"),
        (31.4, "SKC", 2, "31.40 SKC"),
        (-0.45, "SKC", None, "−0.45 SKC"),
        (0.00123, "", None, "0.0012"),
        (-0.001, "", 1, "0.0"),
        (12345.678, "t", None, "12,345.7 t"),
        (math.inf, "", None, "no finite number"),
    ],
)
def test_a_number_has_separators_its_unit_and_as_many_decimals_as_suit_it(value, unit, decimals, words):
    assert number_words(value, unit, decimals).replace("\u00a0", " ") == words


@pytest.mark.parametrize(
    ("now", "then", "unit", "counts", "change", "moved"),
    [
        (32.7, 29.6, "%", False, "3.1 points more", "rose by 3.1 points"),
        (28.6, 29.6, "%", False, "1.0 points less", "fell by 1.0 points"),
        (30, 29, "%", False, "1 point more", "rose by 1 point"),
        (100, 114, "", True, "14 fewer", "fell by 14"),
        (31.85, 31.4, "SKC", False, "0.45 SKC more", "rose by 0.45 SKC"),
        (5, 5, "", True, "unchanged", "did not change"),
        (31.401, 31.402, "SKC", False, "unchanged", "did not change"),
    ],
)
def test_a_change_follows_its_sign(now, then, unit, counts, change, moved):
    assert change_words(now, then, unit, counts).replace("\u00a0", " ") == change
    assert moved_words(now, then, unit).replace("\u00a0", " ") == moved


def test_a_change_in_percent_is_of_what_was_something():
    assert percent_words(112.5, 100) == "12.5\u00a0% more"
    assert percent_words(50, 100) == "50\u00a0% less"
    assert percent_words(100, 100) == "unchanged"
    assert percent_words(3, 0) == ""


@given(st.floats(-1e9, 1e9), st.floats(-1e9, 1e9), st.sampled_from(["", "%", "SKC"]))
def test_words_never_say_more_where_it_is_less(now, then, unit):
    words = change_words(now, then, unit)
    assert words == "unchanged" or words.endswith("more" if now > then else "less")
    assert "−" not in words
    assert moved_words(now, then, unit).startswith(
        "did not" if words == "unchanged" else "rose" if now > then else "fell"
    )


def test_cells_are_readable_and_codes_stay_as_they_are():
    assert cell_words("2026-11-26T05:40:00+01:00", "date and time", NOW) == "Thu 26 Nov 05:40"
    assert cell_words("2025-11-26", "date", NOW) == "Wed 26 Nov 2025"
    assert cell_words("00420", "text", NOW) == "00420"
    assert cell_words(4611686018427387904, "whole number", NOW) == "4611686018427387904"
    assert cell_words(18, "decimal", NOW, 2) == "18"
    assert cell_words(18.0, "decimal", NOW, 2) == "18.00"
    assert cell_words(True, "yes/no", NOW) == "yes"
    assert cell_words("soon", "date and time", NOW) == "soon"


def test_dates_are_told_where_this_machine_is():
    east = timezone(timedelta(hours=9))
    assert date_value_words("2026-11-18T20:00:00+00:00", east, NOW) == "19 November, 05:00"
    assert date_value_words("2025-11-18", east, NOW) == "18 November 2025"
    assert date_value_words("2026-07", east, NOW) == "2026-07"
