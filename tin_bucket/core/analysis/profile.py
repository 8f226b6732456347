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
    counts.count(values)
    # Each value once, by its type; whole numbers and decimals are one.
    alike: dict[type, list[Any]] = {}
    for kind, value in (*counts.counts, *counts.beyond):
        alike.setdefault(float if kind is int else kind, []).append(value)
    numbers = sum(times for (kind, _), times in counts.counts.items() if kind is int or kind is float)
    total = sum(value * times for (kind, value), times in counts.counts.items() if kind is int or kind is float)
    more = [value for kind, value in counts.beyond if kind is int or kind is float]
    numbers, total = numbers + len(more), total + sum(more)
    texts = {value: times for (kind, value), times in counts.counts.items() if kind is str}
    strays: list[tuple[str, int]] = []
    # A few texts among numbers do not make them texts.
    if numbers and numbers >= 2 * sum(texts.values()) and set(alike) <= {float, str}:
        strays = Counter(texts).most_common(8)
        alike.pop(str, None)
    span = next(iter(alike.values())) if len(alike) == 1 else []
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
        min(span, default=None),
        max(span, default=None),
        total / numbers if numbers and set(alike) == {float} else None,
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
        beyond: those that were not, each as often as it comes.
    """

    def __init__(self, most: int = MOST_DISTINCT) -> None:
        self._most = most
        self.rows = self.missed = self.none = 0
        self.counts: Counter[tuple[type, Any]] = Counter()
        self.capped = False
        self.beyond: list[tuple[type, Any]] = []

    def count(self, values: Iterable[Any]) -> None:
        """Count cells."""
        counts, most, capped = self.counts, self._most, self.capped
        rows = none = missed = 0
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
            if not capped:
                counts[key] += 1
                capped = len(counts) > most
            elif key in counts:
                counts[key] += 1
            else:
                self.beyond.append(key)
        self.rows, self.none, self.missed, self.capped = (
            self.rows + rows,
            self.none + none,
            self.missed + missed,
            capped,
        )

    def most_common(self, most: int | None = None) -> list[tuple[Any, int]]:
        """Values with their counts, the most frequent first."""
        return [(value, times) for (_, value), times in self.counts.most_common(most)]
