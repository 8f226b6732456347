"""Trying again: which answers are worth another call, and after what pause."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.request.call import Call

from .response import Answer

AGAIN_STATUS = {408, 429, 502, 503, 504}
_SAFE = ("GET", "HEAD")  # RFC 9110 §9.2.1; these alone are made again where a service failed in the middle.
AGAIN_FAILURES = {"broken-connection", "time-out", "slow-answer", "refused", "cut-off"}
_SLOW_TRIES = 2  # What comes slowly once comes slowly again, and each time takes as long as it may.
_WHY = {
    "broken-connection": "the connection was lost",
    "time-out": "no answer came in time",
    "slow-answer": "the answer did not end in time",
    "refused": "the connection was refused",
    "cut-off": "the answer was cut off",
}
_FIRST, _LONGEST = 0.5, 30.0  # Seconds of the first pause and of the longest that is not asked for.
_MOST_PATIENCE = 86_400.0
_MOST_WAITS = 20


class AgainRule(Part):
    """How often a call is made again that is answered with a status."""

    status: int = Field(ge=400, le=599)
    tries: int = Field(default=5, ge=1, le=20, description="how many times it is made; 1: never again")
    pause: float | None = Field(
        default=None,
        ge=0,
        le=3_600,
        description="seconds before it is made again; growing from half a second if absent",
    )


@dataclass(frozen=True, slots=True)
class Pause:
    """A pause before the same call is made again.

    Attributes:
        seconds: how long.
        why: why, such as ``status 503``.
        for_all: whether the service asked for it, so that its other calls wait too.
    """

    seconds: float
    why: str
    for_all: bool = False


def pause_before(
    call: Call,
    answer: Answer,
    attempt: int,
    tries: int,
    now: float,
    draw: float,
    cut_off: bool = False,
    rules: Sequence[AgainRule] = (),
) -> Pause | None:
    """Whether and when a call is made again; ``None``: its answer is final.

    Args:
        attempt: how many times it was made.
        tries: how many times it may be made. A service that says when to come back is asked up to 20 times.
        now: seconds since 1970.
        draw: a random number from 0 to 1, so that many callers do not come back together.
        cut_off: whether the answer is JSON that is cut off.
        rules: the service's own, which go before what is usual.
    """
    rule = next((one for one in rules if answer.failure is None and one.status == answer.status), None)
    kind = answer.failure.kind if answer.failure is not None else "cut-off" if cut_off else ""
    if kind:
        # A PATCH may have worked though its answer did not come (RFC 9110 §9.2.2).
        again = kind in AGAIN_FAILURES and (call.method != "PATCH" or kind == "refused")
    else:
        again = answer.status in AGAIN_STATUS or (answer.status == 500 and call.method in _SAFE)
        # A 403 that says when to come back speaks of an allowance.
        again = again or (answer.status == 403 and retry_after(answer, now) is not None)
    if rule is not None:
        again, tries = rule.tries > 1, rule.tries
    elif kind == "slow-answer":
        tries = min(tries, _SLOW_TRIES)
    if not again:
        return None
    why = _WHY.get(kind, "")
    why = why or f"status {answer.status}"
    asked = retry_after(answer, now) if answer.failure is None else None
    if asked is not None:
        if attempt >= max(tries, _MOST_WAITS) or asked > _MOST_PATIENCE or tries <= 1:
            return None
        return Pause(asked + 0.05 + min(0.5, asked / 20) * draw, f"{why}: the service asks to wait", True)
    if attempt >= tries:
        return None
    if rule is not None and rule.pause is not None:
        return Pause(rule.pause, why)
    longest = min(_LONGEST, _FIRST * 2.0 ** (attempt - 1))
    return Pause(longest * (0.5 + 0.5 * draw), why, answer.status in (429, 503))


def retry_after(answer: Answer, now: float) -> float | None:
    """The seconds that an answer asks to wait: Retry-After as seconds or as a date (RFC 9110 §10.2.3)."""
    text = answer.headers.get("retry-after", "").strip()
    if not text:
        return None
    try:
        return max(0.0, float(text))
    except ValueError:
        pass
    try:
        moment = parsedate_to_datetime(text)
    except ValueError:
        return None
    moment = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return max(0.0, (moment - datetime.fromtimestamp(now, UTC)).total_seconds())
