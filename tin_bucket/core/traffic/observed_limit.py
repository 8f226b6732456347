"""A limit that a service keeps and does not state, as its refusals show it."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

from .advertised_limits import span_of
from .rate_window import Window

_SPANS = (1, 10, 60, 300, 600, 3600, 86_400)  # Seconds that APIs count over.
_LEAST = 3  # Refusals that say something.
_SPREAD = 0.35  # How far the counts at the refusals may lie apart, as a part of the least of them.


@dataclass(frozen=True, slots=True)
class Attempt:
    """A call: when it was sent and answered, in seconds since 1970, and whether it was refused as one too many."""

    sent: float
    answered: float
    refused: bool


def observed_limit(attempts: Sequence[Attempt]) -> Window | None:
    """The limit that fits the refusals of a run; ``None`` where they fit none.

    At every refusal the calls that were accepted in the time before it make the limit full. Of all lengths of time the
    one is taken at whose ends these counts lie closest together, for windows that slide and for those that begin with
    the clock; the least of the counts is the limit, so that keeping it is safe.

    Args:
        attempts: the calls of one service, in any order.
    """
    refused = [one for one in attempts if one.refused]
    accepted = [one for one in attempts if not one.refused]
    if len(refused) < _LEAST or not accepted:
        return None
    # The service counts a call at some moment between the two.
    sent, answered = sorted(one.sent for one in accepted), sorted(one.answered for one in accepted)
    best: tuple[float, int, int] | None = None
    for seconds in _SPANS:
        if seconds > 60 and sent[-1] - sent[0] < seconds / 2:
            break
        for fixed in (False, True):
            counts = [_before(sent, answered, one, seconds, fixed) for one in refused]
            least = min(counts)
            if least < 1:
                continue
            spread = (max(counts) - least) / least
            if spread <= _SPREAD and (best is None or spread < best[0] - 1e-9):
                best = (spread, least, seconds)
    return Window(calls=best[1], per=span_of(best[2])) if best is not None else None


def _before(sent: Sequence[float], answered: Sequence[float], one: Attempt, seconds: int, fixed: bool) -> int:
    """How many calls may have been accepted in the window up to one; a fixed window begins with the clock."""
    begin = one.sent // seconds * seconds if fixed else one.sent - seconds
    return bisect_right(sent, one.answered) - bisect_right(answered, begin)
