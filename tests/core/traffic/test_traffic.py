"""Windows, forecasts, the number of calls at once, trying again, and what headers tell of limits."""

import math
from dataclasses import replace
from datetime import UTC, datetime
from email.utils import format_datetime

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer
from tin_bucket.core.response.retry import AgainRule, pause_before, retry_after
from tin_bucket.core.traffic.advertised_limits import advertised_limits
from tin_bucket.core.traffic.concurrency import Throttle
from tin_bucket.core.traffic.forecast import forecast
from tin_bucket.core.traffic.pace import Pace
from tin_bucket.core.traffic.rate_window import Window

NOW = datetime(2026, 11, 25, 12, tzinfo=UTC).timestamp()
GET = Call("GET", "http://h/s")


def send_all(pace, calls, seconds=0.0, delay=0.0):
    """Send calls one after the other as early as they may go; gives when the service saw them."""
    now, seen = NOW, []
    for _ in range(calls):
        now = max(now, pace.next(now).at)
        pace.start()
        seen.append(now + delay)
        pace.done(now + seconds)
        now += seconds
    return seen


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.integers(1, 20), st.integers(1, 30)), min_size=1, max_size=3),
    st.integers(1, 120),
    st.floats(0, 0.4),
    st.floats(0, 1),
)
def test_a_service_never_sees_more_than_is_allowed_in_any_span(windows, calls, seconds, delay):
    pace = Pace([Window(calls=most, per=f"PT{span}S") for most, span in windows])
    seen = send_all(pace, calls, seconds, delay * seconds)
    for most, span in windows:
        for at in range(len(seen) - most):
            assert seen[at + most] - seen[at] >= span - 1e-6


def test_a_run_takes_what_its_windows_allow_and_no_more():
    pace = Pace([Window(calls=12, per="PT1S"), Window(calls=90, per="PT10S")])
    seen = send_all(pace, 300)
    # 270 calls in three spans of ten seconds, then 30 at twelve a second.
    assert seen[-1] - seen[0] == pytest.approx(32, abs=0.01)


def test_a_calendar_day_begins_at_midnight_of_its_zone():
    day = Window(calls=2, per="P1D", starts="calendar", zone="Asia/Tokyo")
    pace = Pace([day], [NOW - 1, NOW - 2])
    turn = pace.next(NOW)
    assert datetime.fromtimestamp(turn.at, UTC) == datetime(2026, 11, 25, 15, tzinfo=UTC)
    assert "2 calls a day from midnight, Asia/Tokyo" in turn.why
    assert pace.next(turn.at).at == turn.at
    left = pace.left(NOW)[0]
    assert (left.left, left.resets) == (0, turn.at)


@pytest.mark.parametrize(
    ("per", "begin", "end"),
    [("P1W", (2026, 11, 23), (2026, 11, 30)), ("P1M", (2026, 11, 1), (2026, 12, 1)), ("P1D", (2026, 11, 25), (2026, 11, 26))],
)  # fmt: skip
def test_calendar_windows_have_their_bounds(per, begin, end):
    bounds = Window(calls=1, per=per, starts="calendar").bounds(NOW)
    assert bounds == (datetime(*begin, tzinfo=UTC).timestamp(), datetime(*end, tzinfo=UTC).timestamp())


def test_a_new_key_begins_anew_where_the_window_is_the_keys():
    windows = [Window(calls=1, per="PT1H", of="key"), Window(calls=3, per="PT1H")]
    pace = Pace(windows, [NOW - 10])
    assert pace.next(NOW).at == pytest.approx(NOW - 10 + 3600, abs=0.01)
    pace.renew_key(NOW)
    assert pace.next(NOW).at == NOW


def test_calls_under_way_count_and_a_full_window_waits_for_them():
    pace = Pace([Window(calls=2, per="PT1S")])
    pace.start()
    pace.start()
    assert math.isinf(pace.next(NOW).at)
    pace.done(NOW)
    assert pace.next(NOW).at == pytest.approx(NOW + 1, abs=0.01)


def test_what_the_service_asks_for_is_kept_too():
    pace = Pace()
    pace.hold(NOW + 7, "the service asks to wait")
    assert pace.next(NOW) == pace.next(NOW + 1)
    assert (pace.next(NOW).at, pace.next(NOW).why) == (NOW + 7, "the service asks to wait")
    assert pace.next(NOW + 8).at == NOW + 8


@pytest.mark.parametrize(
    ("per", "words"),
    [("PT1S", "5 calls a second"), ("PT10S", "5 calls in 10 seconds"), ("PT1M", "5 calls a minute"),
     ("PT1H", "5 calls an hour"), ("P1D", "5 calls a day"), ("PT90S", "5 calls in 90 seconds"), ("P7D", "5 calls in 7 days")],
)  # fmt: skip
def test_windows_are_said_in_words(per, words):
    assert Window(calls=5, per=per).words() == words


@pytest.mark.parametrize(
    "document",
    [{"calls": 0}, {"calls": 1, "per": "PT0S"}, {"calls": 1, "per": "P3M"}, {"calls": 1, "per": "ever"},
     {"calls": 1, "per": "PT1H", "starts": "calendar"}, {"calls": 1, "zone": "Mars/Port"}],
)  # fmt: skip
def test_windows_that_are_none_are_refused(document):
    with pytest.raises(ValidationError):
        Window.model_validate(document)


def test_the_forecast_is_what_then_happens():
    pace = Pace([Window(calls=15, per="PT1S"), Window(calls=300, per="PT5M")])
    found = forecast(pace, 1860, NOW, 0.2, 4)
    assert 1800 <= found.seconds < 1830
    assert found.waits > 1700
    assert "300 calls in 5 minutes" in found.why
    assert pace.next(NOW).at == NOW  # It was only tried out.
    free = forecast(Pace(), 100, NOW, 0.5, 4)
    assert (free.seconds, free.waits, free.why) == (pytest.approx(12.5), 0, "")


@settings(max_examples=40)
@given(st.integers(1, 60), st.integers(1, 9), st.integers(1, 9), st.integers(1, 6), st.sampled_from([0.0, 0.01, 0.3]))
def test_a_forecast_is_no_shorter_than_the_windows_allow(calls, most, span, at_once, seconds):
    found = forecast(Pace([Window(calls=most, per=f"PT{span}S")]), calls, NOW, seconds, at_once)
    assert found.seconds >= (math.ceil(calls / most) - 1) * span - 1e-3
    assert found.seconds >= math.ceil(calls / at_once) * seconds - 1e-3


def test_fewer_calls_at_once_when_a_service_refuses_and_more_again_later():
    throttle = Throttle(8)
    throttle.answered(0.1, True)
    assert throttle.now == 4
    for _ in range(3):
        throttle.answered(0.1, True)
    assert throttle.now == 1
    for _ in range(200):
        throttle.answered(0.1, False)
    assert throttle.now == 8


def test_fewer_calls_at_once_when_a_service_slows_down():
    throttle = Throttle(4)
    for _ in range(20):
        throttle.answered(0.2, False)
    throttle.answered(3.0, False)
    assert throttle.now == 3
    throttle.set_most(2)
    assert throttle.now == 2


# Trying again --------------------------------------------------------------------------------------------------------


def failed(kind):
    return Answer(0, failure=Problem(kind, "It broke."))


@pytest.mark.parametrize(
    ("answer", "again"),
    [(Answer(503), True), (Answer(502), True), (Answer(504), True), (Answer(408), True), (Answer(429), True),
     (Answer(500), True), (Answer(501), False), (Answer(404), False), (Answer(401), False), (Answer(200), False),
     (failed("broken-connection"), True), (failed("time-out"), True), (failed("refused"), True),
     (failed("host-unknown"), False), (failed("not-secure"), False), (failed("too-large"), False)],
)  # fmt: skip
def test_only_what_may_pass_is_tried_again(answer, again):
    assert (pause_before(GET, answer, 1, 5, NOW, 0.5) is not None) is again


def test_a_failure_in_the_middle_is_retried_only_where_a_call_changes_nothing():
    post = replace(GET, method="POST")
    assert pause_before(post, Answer(500), 1, 5, NOW, 0.5) is None
    assert pause_before(post, Answer(502), 1, 5, NOW, 0.5) is not None
    assert pause_before(GET, Answer(403), 1, 5, NOW, 0.5) is None
    assert pause_before(GET, Answer(403, {"retry-after": "7"}), 1, 5, NOW, 0.0).seconds == pytest.approx(7.05)


def test_a_service_says_itself_which_statuses_are_retried_and_how():
    rules = [AgainRule(status=409, tries=3, pause=10), AgainRule(status=500, tries=1), AgainRule(status=503, tries=2)]

    def pause(status, attempt=1, **headers):
        return pause_before(GET, Answer(status, headers), attempt, 5, NOW, 0.0, rules=rules)

    assert [pause(409, attempt) is not None for attempt in (1, 2, 3)] == [True, True, False]
    assert pause(409).seconds == 10
    assert pause(500) is None
    assert (pause(503, 1).seconds, pause(503, 2)) == (0.25, None)
    assert pause(504) is not None
    assert pause(404) is None


def test_pauses_grow_and_are_bounded_and_jittered():
    for attempt in range(1, 12):
        low = pause_before(GET, Answer(503), attempt, 99, NOW, 0.0).seconds
        high = pause_before(GET, Answer(503), attempt, 99, NOW, 1.0).seconds
        longest = min(30.0, 0.5 * 2 ** (attempt - 1))
        assert (low, high) == (longest / 2, longest)
    assert pause_before(GET, Answer(503), 5, 5, NOW, 0.5) is None


def test_a_patch_whose_answer_did_not_come_is_not_made_again():
    patch = Call("PATCH", "http://h/s")
    assert pause_before(patch, failed("broken-connection"), 1, 5, NOW, 0.5) is None
    assert pause_before(patch, failed("refused"), 1, 5, NOW, 0.5) is not None


@pytest.mark.parametrize(
    ("text", "seconds"),
    [("3", 3.0), ("0", 0.0), (format_datetime(datetime.fromtimestamp(NOW + 90, UTC), usegmt=True), 90.0),
     (format_datetime(datetime.fromtimestamp(NOW - 90, UTC), usegmt=True), 0.0), ("soon", None), ("", None)],
)  # fmt: skip
def test_retry_after_is_read_as_seconds_and_as_a_date(text, seconds):
    answer = Answer(429, {"retry-after": text})
    assert retry_after(answer, NOW) == seconds
    pause = pause_before(GET, answer, 1, 5, NOW, 0.0)
    if seconds is not None:
        assert pause.for_all
        assert pause.seconds >= seconds


def test_a_service_that_says_when_is_asked_more_often_but_not_for_ever():
    answer = Answer(429, {"retry-after": "1"})
    assert pause_before(GET, answer, 7, 5, NOW, 0.5) is not None
    assert pause_before(GET, answer, 20, 5, NOW, 0.5) is None
    assert pause_before(GET, Answer(429, {"retry-after": "999999"}), 1, 5, NOW, 0.5) is None
    assert pause_before(GET, answer, 1, 1, NOW, 0.5) is None


def test_json_that_breaks_off_is_asked_for_again():
    assert pause_before(GET, Answer(200), 1, 5, NOW, 0.5, cut_off=True).why == "the answer was cut off"


# What headers tell ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("headers", "windows", "left", "resets"),
    [
        ({"ratelimit-policy": '"burst";q=12;w=1, "steady";q=90;w=10', "ratelimit": '"burst";r=11;t=1, "steady";r=0;t=9'},
         [(12, "PT1S"), (90, "PT10S")], 0, 1.0),
        ({"ratelimit-limit": "100, 100;w=60", "ratelimit-remaining": "7", "ratelimit-reset": "30"}, [(100, "PT1M")], 7, 30.0),
        ({"x-ratelimit-limit": "5000", "x-ratelimit-remaining": "0", "x-ratelimit-reset": str(int(NOW) + 120)}, [], 0, 120.0),
        ({"x-rate-limit-remaining": "3", "x-rate-limit-reset": str((int(NOW) + 60) * 1000)}, [], 3, 60.0),
        ({"x-ratelimit-remaining": "many"}, [], None, None),
        ({"ratelimit-policy": '"a";q=5;w=7200, "b";q=0;w=1;;;'}, [(5, "PT2H")], None, None),
    ],
)  # fmt: skip
def test_limits_are_read_from_headers(headers, windows, left, resets):
    told = advertised_limits(headers, NOW)
    assert [(window.calls, window.per) for window in told.windows] == windows
    assert told.left == left
    assert told.resets == (None if resets is None else pytest.approx(resets, abs=1))


def test_other_headers_tell_nothing():
    assert advertised_limits({"date": "today"}, NOW) is None


@given(st.text(max_size=50), st.text(max_size=20))
def test_any_header_is_read_without_fault(policy, number):
    told = advertised_limits({"ratelimit-policy": policy, "ratelimit": policy, "x-ratelimit-reset": number}, NOW)
    assert told is not None
