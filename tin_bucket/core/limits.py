"""Rate windows: when the next call may go, and how long a whole run takes.

A window is kept as its strictest reading: a call takes its place from the moment it is sent until the window's length
after its answer, so that the service, which sees it somewhere between, never counts more than is allowed, whether it
counts in sliding windows or in fixed ones.
"""

from __future__ import annotations

import heapq
import math
from bisect import bisect_right, insort
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal
from zoneinfo import ZoneInfo

from pydantic import Field, field_validator, model_validator

from .durations import parse_duration
from .parts import Part, known_zone

_MONTH = 31 * 86_400
_CALENDAR = ("P1D", "P1W", "P1M")


class Window(Part):
    """So many calls in a span of time."""

    calls: int = Field(ge=1, le=100_000_000)
    per: str = Field(default="PT1M", description="ISO 8601 duration")
    starts: Literal["any time", "calendar"] = Field(
        default="any time",
        description="calendar: counted anew each day, week (Monday) or month, at midnight of the zone",
    )
    zone: str = Field(default="UTC", description="name of an IANA time zone")
    of: Literal["service", "key"] = Field(default="service", description="key: a new key begins anew")

    _zone = field_validator("zone")(known_zone)

    @field_validator("per")
    @classmethod
    def _is_span(cls, value: str) -> str:
        span = parse_duration(value)
        if not 0 < _seconds(value) <= _MONTH or span.months > 1:
            raise ValueError("a window is between a second and a month long")
        return value

    @model_validator(mode="after")
    def _calendar_has_a_start(self) -> Window:
        if self.starts == "calendar" and self.per not in _CALENDAR:
            raise ValueError("a calendar window is a day, a week or a month: P1D, P1W or P1M")
        return self

    @property
    def seconds(self) -> float:
        """Its length; of a month the longest."""
        return _seconds(self.per)

    def words(self) -> str:
        """Such as ``90 calls in 10 seconds``."""
        calls = f"{self.calls:,} call{'' if self.calls == 1 else 's'}"
        return f"{calls} {_span_words(self.per)}" + (
            f" from midnight, {self.zone}" if self.starts == "calendar" else ""
        )

    def bounds(self, now: float) -> tuple[float, float]:
        """Begin and end of a calendar window, as seconds since 1970."""
        here = datetime.fromtimestamp(now, ZoneInfo(self.zone) if self.zone else UTC)
        begin = here.replace(hour=0, minute=0, second=0, microsecond=0)
        if self.per == "P1W":
            begin -= timedelta(days=begin.weekday())
        if self.per == "P1M":
            begin = begin.replace(day=1)
            end = (begin + timedelta(days=32)).replace(day=1)
        else:
            end = begin + timedelta(days=7 if self.per == "P1W" else 1)
        return begin.timestamp(), end.timestamp()


def _seconds(per: str) -> float:
    span = parse_duration(per)
    return span.months * _MONTH + span.days * 86_400.0 + span.seconds


def _span_words(per: str) -> str:
    span = parse_duration(per)
    for amount, unit in ((span.months, "month"), (span.days, "day")):
        if amount:
            return f"a {unit}" if amount == 1 else f"in {amount} {unit}s"
    for size, unit in ((3600, "hour"), (60, "minute"), (1, "second")):
        if span.seconds % size == 0:
            amount = span.seconds // size
            return f"{'an' if unit == 'hour' else 'a'} {unit}" if amount == 1 else f"in {amount} {unit}s"
    return per


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
        """A new key is in use: the windows that count by key begin anew."""
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

    def done(self, now: float) -> None:
        """A call was answered, or was given up."""
        self._flying -= 1
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
        calls: how many there are; beyond 200,000 the rest is taken to go on at the same pace.
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
