"""Rate windows: when the next call may go, and how long a whole run takes.

A window is kept as its strictest reading: a call takes its place from the moment it is sent until the window's length
after its answer, so that the service, which sees it somewhere between, never counts more than is allowed, whether it
counts in sliding windows or in fixed ones.
"""

from __future__ import annotations

import heapq
import math
from dataclasses import dataclass

from .pace import Pace


@dataclass(frozen=True, slots=True)
class Forecast:
    """How long calls will take: `seconds` in all, and for how long of it a window is waited for, and which."""

    calls: int
    seconds: float
    waits: float
    why: str


_MOST_STEPS = 200_000


def forecast(pace: Pace, calls: int, now: float, seconds: float, at_once: int) -> Forecast:
    """How long calls take from now, by trying it out.

    Args:
        calls: how many there are; beyond 200,000 the rest is assumed to continue at the same pace.
        seconds: how long one answer takes.
        at_once: how many are under way together.
    """
    tried = pace.copy()
    busy: list[float] = []
    time, waits = now, 0.0
    reasons: dict[str, float] = {}
    steps = min(calls, _MOST_STEPS)
    for _ in range(steps):
        while len(busy) >= at_once or math.isinf(tried.next(time).at):
            time = max(time, heapq.heappop(busy))
            tried.done(time)
        turn = tried.next(time)
        while busy and busy[0] <= turn.at:
            tried.done(heapq.heappop(busy))
            turn = tried.next(time)
        if turn.at > time:
            waits += turn.at - time
            reasons[turn.why] = reasons.get(turn.why, 0.0) + turn.at - time
            time = turn.at
        tried.start()
        heapq.heappush(busy, time + seconds)
    total = (max(busy) if busy else time) - now
    if calls > steps:
        total, waits = total * calls / steps, waits * calls / steps
    return Forecast(calls, total, waits, max(reasons, key=lambda why: reasons[why]) if reasons else "")
