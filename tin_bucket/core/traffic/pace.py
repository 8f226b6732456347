"""Rate windows: when the next call may go, and how long a whole run takes.

A window is kept as its strictest reading: a call takes its place from the moment it is sent until the window's length
after its answer, so that the service, which sees it somewhere between, never counts more than is allowed, whether it
counts in sliding windows or in fixed ones.
"""

from __future__ import annotations

import math
from bisect import bisect_right, insort
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from .rate_window import Window


@dataclass(frozen=True, slots=True)
class Turn:
    """When the next call may go: `at` in seconds since 1970, infinite while answers are waited for; and why then."""

    at: float
    why: str = ""


@dataclass(frozen=True, slots=True)
class Allowance:
    """What is left of a window. `resets` is when the first place is free again, in seconds since 1970."""

    window: Window
    left: int
    resets: float | None


class Pace:
    """Keeps the windows of one service. All times are seconds since 1970."""

    def __init__(self, windows: Sequence[Window] = (), done: Iterable[float] = ()) -> None:
        """
        Args:
            windows: the windows, all kept at once.
            done: when earlier calls were answered.
        """
        self.windows = list(windows)
        self._done = sorted(done)
        self._key_since = 0.0
        self._flying = 0
        self._held: tuple[float, str] = (0.0, "")

    def horizon(self) -> float:
        """How many seconds back a call can still count."""
        return max((window.seconds for window in self.windows), default=0.0)

    def renew_key(self, now: float) -> None:
        """A new key is in use: the windows that count by key start from zero."""
        self._key_since = now

    def hold(self, until: float, why: str) -> None:
        """Let nothing go before a moment, because the service said so."""
        if until > self._held[0]:
            self._held = (until, why)

    def next(self, now: float) -> Turn:
        """When the next call may go."""
        turn = Turn(now)
        if self._held[0] > now:
            turn = Turn(*self._held)
        for window in self.windows:
            found = self._next(window, now)
            if found > turn.at:
                turn = Turn(found, window.words())
        return turn

    def _since(self, window: Window, now: float) -> tuple[int, float]:
        """The index of the first call that counts, and the window's end where it has a fixed one."""
        begin, end = window.bounds(now) if window.starts == "calendar" else (now - window.seconds, 0.0)
        if window.of == "key":
            begin = max(begin, self._key_since)
        return bisect_right(self._done, begin), end

    def _next(self, window: Window, now: float) -> float:
        first, end = self._since(window, now)
        if len(self._done) - first + self._flying < window.calls:
            return now
        if window.starts == "calendar":
            return end
        if self._flying >= window.calls:
            return math.inf
        return self._done[len(self._done) - (window.calls - self._flying)] + window.seconds + 1e-6

    def start(self) -> None:
        """A call is sent."""
        self._flying += 1

    def done(self, now: float, counts: bool = True) -> None:
        """A call was answered, or was given up.

        Args:
            counts: whether the service counts it.
        """
        self._flying -= 1
        if not counts:
            return
        insort(self._done, now)
        if len(self._done) > 1024 and self._done[0] < now - 2 * self.horizon():
            del self._done[: bisect_right(self._done, now - self.horizon())]

    def add(self, times: Iterable[float]) -> None:
        """Calls that others made."""
        for one in times:
            insort(self._done, one)

    def left(self, now: float) -> list[Allowance]:
        """What is left of each window."""
        found = []
        for window in self.windows:
            first, end = self._since(window, now)
            used = len(self._done) - first + self._flying
            resets = end or (self._done[first] + window.seconds if first < len(self._done) else None)
            found.append(Allowance(window, max(0, window.calls - used), resets))
        return found

    def copy(self) -> Pace:
        """The same windows and calls, to try something out."""
        made = Pace(self.windows, self._done)
        made._key_since, made._held = self._key_since, self._held
        return made
