"""A column at a glance: how complete it is, how many different values, the lowest, the highest, the most frequent."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from tin_bucket.core.columns.kind import TypeGuess
from tin_bucket.core.columns.missing import Miss
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
    counts: Counter[tuple[type, Any]] = Counter()
    rows = missed = none = empty = longest = 0
    capped = False
    numbers, total = 0, 0.0
    span = _Span()
    for value in values:
        rows += 1
        if value is None:
            none += 1
            continue
        kind = type(value)
        if kind is Miss:
            missed += 1
            continue
        key = (kind, value)
        if capped:
            if key in counts:
                counts[key] += 1
        else:
            counts[key] += 1
            capped = len(counts) > most_distinct
        if kind is str:
            empty += not value
            longest = max(longest, len(value))
        elif kind is not bool:
            numbers += 1
            total += value
        span.take(value)
    mixed = len({kind if kind is not int else float for kind, _ in counts}) > 1
    frequent = [(value, times) for (_, value), times in counts.most_common(8)]
    return Profile(
        rows,
        rows - missed - none,
        empty,
        nulls,
        missed,
        len(counts),
        capped,
        None if mixed else span.low,
        None if mixed else span.high,
        total / numbers if numbers and not mixed else None,
        frequent if not frequent or frequent[0][1] > 1 or (len(frequent) <= 8 and len(counts) <= 8) else [],
        longest,
        detect_types((value for _, value in counts), name, now),
    )
