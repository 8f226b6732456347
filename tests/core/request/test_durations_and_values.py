from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.formats.durations import anchor_date, parse_duration, shift_date
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.parameters.models import ChoiceParameter, DateParameter, RelativeDate, TextParameter
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import bind, default_value

TODAY = date(2026, 11, 25)
MOMENT = Moment(datetime(2026, 11, 25, 12, tzinfo=UTC))


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("-P7D", date(2026, 11, 18)),
        ("P0D", TODAY),
        ("P1M", date(2026, 12, 25)),
        ("-P1Y2M", date(2025, 9, 25)),
        ("P2W", date(2026, 12, 9)),
    ],
)
def test_a_date_moves_by_a_duration(text, day):
    assert shift_date(TODAY, parse_duration(text)) == day


def test_a_day_that_the_month_lacks_becomes_its_last():
    assert shift_date(date(2024, 1, 31), parse_duration("P1M")) == date(2024, 2, 29)
    assert shift_date(date(2026, 3, 31), parse_duration("-P1M")) == date(2026, 2, 28)


@given(st.dates(date(1950, 1, 1), date(2200, 1, 1)), st.integers(0, 2000))
def test_days_forth_and_back_give_the_same_day(day, days):
    assert shift_date(shift_date(day, parse_duration(f"P{days}D")), parse_duration(f"-P{days}D")) == day


@pytest.mark.parametrize("text", ["", "P", "7D", "P7", "PT", "P1DT", "seven days", "P-7D"])
def test_what_is_no_duration_is_said(text):
    with pytest.raises(ValueError, match="not a duration"):
        parse_duration(text)


def test_a_date_does_not_move_by_hours_or_out_of_the_calendar():
    with pytest.raises(ValueError, match="hours"):
        shift_date(TODAY, parse_duration("PT1H"))
    with pytest.raises(ValueError, match="1 to 9999"):
        shift_date(TODAY, parse_duration("P9000Y"))


def test_anchors():
    assert anchor_date("start of week", TODAY) == date(2026, 11, 23)
    assert anchor_date("start of month", TODAY) == date(2026, 11, 1)
    assert anchor_date("start of quarter", TODAY) == date(2026, 10, 1)
    assert anchor_date("start of year", TODAY) == date(2026, 1, 1)


PARAMETERS = [
    ChoiceParameter(name="route", choices=[{"code": "all"}, {"code": "007", "label": "Oxnith"}], default="all"),
    DateParameter(name="from", default=RelativeDate(offset="-P7D")),
    TextParameter(name="note", required=False),
    TextParameter(name="who"),
]


def test_given_values_win_over_defaults_and_optional_ones_may_stay_empty():
    assert bind(PARAMETERS, {"route": "007", "who": "x"}, MOMENT) == {
        "route": "007",
        "from": "2026-11-18",
        "note": None,
        "who": "x",
    }
    assert bind(PARAMETERS, {"from": "-P1D", "who": "x"}, MOMENT)["from"] == "2026-11-24"
    assert default_value(PARAMETERS[3], MOMENT) is None


@pytest.mark.parametrize(
    ("given_values", "kind", "word"),
    [
        ({}, "parameter-missing", "who"),
        ({"who": ""}, "parameter-missing", "who"),
        ({"who": "x", "rout": "1"}, "parameter-unknown", "rout"),
        ({"who": "x", "route": "7"}, "parameter-unfit", "007"),
        ({"who": "x", "from": "24.11.2026"}, "parameter-unfit", "YYYY-MM-DD"),
    ],
)
def test_a_value_that_does_not_fit_is_said_with_its_place(given_values, kind, word):
    with pytest.raises(ProblemError) as caught:
        bind(PARAMETERS, given_values, MOMENT)
    problem = caught.value.problem
    assert problem.kind == kind
    assert word in problem.sentence()
    assert problem.where.startswith("parameter ")
    assert problem.do
