"""The limit that refusals show, against services that keep one: sliding or by the clock."""

import pytest

from tin_bucket.core.traffic.observed_limit import Attempt, observed_limit


def played(calls, seconds, fixed, total, gap=0.05, pause=1.0, start=1_700_000_003.0):
    """A client that asks every `gap` seconds and waits `pause` after each refusal, until `total` calls were accepted."""
    accepted, attempts, now = [], [], start
    while len(accepted) < total:
        begin = now // seconds * seconds if fixed else now - seconds
        refused = sum(at > begin for at in accepted) >= calls
        attempts.append(Attempt(now, now, refused))
        if not refused:
            accepted.append(now)
        now += pause if refused else gap
    return attempts


@pytest.mark.parametrize("fixed", [False, True])
@pytest.mark.parametrize(("calls", "seconds", "per"), [(90, 10, "PT10S"), (30, 60, "PT1M"), (5, 1, "PT1S")])
def test_the_limit_is_found(calls, seconds, per, fixed):
    pause = 1.0 if seconds > 1 else 0.1
    found = observed_limit(played(calls, seconds, fixed, 6 * calls, pause=pause))
    assert found is not None
    assert (found.calls, found.per) == (calls, per)


@pytest.mark.parametrize(("calls", "seconds"), [(37, 20), (200, 900)])
def test_a_limit_of_another_length_is_never_found_larger_than_it_is(calls, seconds):
    attempts = played(calls, seconds, False, 8 * calls)
    found = observed_limit(attempts)
    if found is not None:
        times = [one.sent for one in attempts if not one.refused]
        most = max(sum(at - seconds < other <= at for other in times) for at in times)
        assert found.calls / found.seconds <= 1.4 * most / seconds


def test_few_refusals_say_nothing():
    assert observed_limit([Attempt(float(at), float(at), at > 8) for at in range(11)]) is None
    assert observed_limit([Attempt(float(at), float(at), True) for at in range(11)]) is None
    assert observed_limit([Attempt(float(at), float(at), False) for at in range(11)]) is None


def test_refusals_that_fit_no_window_give_no_limit():
    # A service that refuses at random moments, as one that is overloaded does.
    attempts = [Attempt(at * 1.0, at * 1.0, at in (3, 47, 48, 90, 155, 300)) for at in range(400)]
    assert observed_limit(attempts) is None
