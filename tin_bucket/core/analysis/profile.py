"""A column at a glance: how complete it is, how many different values, the lowest, the highest, the most frequent."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from tin_bucket.core.columns.empties import is_likely_empty
from tin_bucket.core.columns.kind import TypeGuess
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.detect.types import detect_types

MOST_DISTINCT = 200_000


@dataclass(frozen=True, slots=True)
class Profile:
    """A column at a glance.

    Attributes:
        rows: how many there are.
        filled: how many have a value, empty texts among them.
        empty_texts: how many are a text without characters.
        nulls: how many of the empty ones are a null of the answer, where that is known; the others are absent.
        missed: how many are lookups that gave nothing.
        distinct: how many different values.
        capped: whether there are more than were counted.
        lowest, highest: of numbers, dates or texts; ``None`` of anything else.
        mean: of numbers.
        frequent: the most frequent values with their counts.
        longest: length of the longest text.
        guesses: what the values may mean.
        strays: in a column that holds mostly numbers the texts that are none, the most frequent first.
        empties: texts that likely mean that there is no value, with their counts.
    """

    rows: int
    filled: int
    empty_texts: int
    nulls: int | None
    missed: int
    distinct: int
    capped: bool
    lowest: Any
    highest: Any
    mean: float | None
    frequent: list[tuple[Any, int]]
    longest: int
    guesses: list[TypeGuess] = field(default_factory=list)
    strays: list[tuple[str, int]] = field(default_factory=list)
    empties: list[tuple[str, int]] = field(default_factory=list)


class _Span:
    """The lowest and the highest of some values; those that cannot be compared with them are passed over."""

    low: Any = None
    high: Any = None

    def take(self, value: Any) -> None:
        try:
            if self.low is None or value < self.low:
                self.low = value
            if self.high is None or value > self.high:
                self.high = value
        except TypeError:
            pass


def profile(
    values: Iterable[Any], name: str, now: datetime, nulls: int | None = None, most_distinct: int = MOST_DISTINCT
) -> Profile:
    """Look at all values of a column.

    Args:
        values: the cells, in the order of rows.
        name: the column's name or place.
        now: for judging which dates are near.
        nulls: as in :class:`Profile`.
        most_distinct: how many different values are counted.
    """
    counts = ValueCounts(most_distinct)
    numbers, total = 0, 0.0
    spans: dict[type, _Span] = {}
    for value in values:
        counts.take(value)
        kind = type(value)
        if value is None or kind is Miss:
            continue
        if kind is int or kind is float:
            kind = float
            numbers += 1
            total += value
        spans.setdefault(kind, _Span()).take(value)
    texts = {value: times for (kind, value), times in counts.counts.items() if kind is str}
    strays: list[tuple[str, int]] = []
    # A few texts among numbers do not make them texts.
    if numbers and numbers >= 2 * sum(texts.values()) and set(spans) <= {float, str}:
        strays = Counter(texts).most_common(8)
        spans.pop(str, None)
    span = next(iter(spans.values())) if len(spans) == 1 else _Span()
    frequent = counts.most_common(8)
    empties = [(text, times) for text, times in Counter(texts).most_common() if is_likely_empty(text)][:8]
    return Profile(
        counts.rows,
        counts.rows - counts.missed - counts.none,
        texts.get("", 0),
        nulls,
        counts.missed,
        len(counts.counts),
        counts.capped,
        span.low,
        span.high,
        total / numbers if numbers and set(spans) == {float} else None,
        frequent if not frequent or frequent[0][1] > 1 or (len(frequent) <= 8 and len(counts.counts) <= 8) else [],
        max(map(len, texts), default=0),
        _guesses(counts, name, now, empties),
        strays,
        empties,
    )


def _guesses(counts: ValueCounts, name: str, now: datetime, empties: list[tuple[str, int]]) -> list[TypeGuess]:
    """What the values may mean, also where some texts among them mean that there is no value."""
    every = [value for _, value in counts.counts]
    found = detect_types(every, name, now)
    if not empties or all(isinstance(value, str) and is_likely_empty(value) for value in every):
        return found
    words = [text for text, _ in empties]
    rest = [value for value in every if value not in words]
    reads = Reads(empty=words)
    told = ", ".join(f"“{text}” {times:,} times" for text, times in empties[:3])
    better = [
        replace(
            one, reads=(one.reads or Reads()).model_copy(update={"empty": words}), evidence=f"{one.evidence}; {told}"
        )
        for one in detect_types(rest, name, now)
    ]
    kind = guess_kind(list(rest))
    if not better and kind != "text":
        example = str(rest[0]) if rest else ""
        better = [TypeGuess(kind, reads, f"{kind} values but for {told}", (example, example))]
    return better or found


class ValueCounts:
    """How often each value of a column comes.

    Attributes:
        rows, missed, none: how many cells there are, how many are lookups that gave nothing, how many are empty.
        counts: (type, value) → how often it comes.
        capped: whether there are more different values than were counted.
    """

    def __init__(self, most: int = MOST_DISTINCT) -> None:
        self._most = most
        self.rows = self.missed = self.none = 0
        self.counts: Counter[tuple[type, Any]] = Counter()
        self.capped = False

    def take(self, value: Any) -> None:
        """Count a cell."""
        self.rows += 1
        if value is None:
            self.none += 1
            return
        kind = type(value)
        if kind is Miss:
            self.missed += 1
            return
        key = (kind, value)
        if not self.capped:
            self.counts[key] += 1
            self.capped = len(self.counts) > self._most
        elif key in self.counts:
            self.counts[key] += 1

    def most_common(self, most: int | None = None) -> list[tuple[Any, int]]:
        """Values with their counts, the most frequent first."""
        return [(value, times) for (_, value), times in self.counts.most_common(most)]
