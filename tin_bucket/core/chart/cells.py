"""The values that a chart is made of, read as numbers, moments and names."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cached_property
from typing import Any

import numpy as np

from tin_bucket.core.columns.iso_texts import DAY, moments_alike
from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.readings import Codes, Floats, Ints, group_codes, group_text, is_empty, numbers_of
from tin_bucket.core.problem import fail

_MONTH = re.compile(r"\d{4}-\d\d")
NO_VALUE = "no value"


@dataclass(frozen=True)
class ChartColumn:
    """A column as a chart reads it. What it was read as once is kept.

    Attributes:
        kind: what its values are.
        unit: what its numbers count.
        values: of the rows that are seen, in their order.
    """

    name: str
    kind: str
    unit: str
    values: Sequence[Any]

    @cached_property
    def numbers(self) -> tuple[Floats, int]:
        """Its values as numbers, see :func:`numbers_of`."""
        return numbers_of(self.values)

    @cached_property
    def moments(self) -> tuple[Floats, int, bool]:
        """Its values as moments, see :func:`moments_of`."""
        return moments_of(self.values)

    @property
    def is_number(self) -> bool:
        """Whether its values are numbers."""
        return kind_of(self.kind).numeric

    @property
    def is_time(self) -> bool:
        """Whether its values are days or moments."""
        return kind_of(self.kind).temporal


class Cells:
    """The rows that are seen, column by column."""

    def __init__(self, height: int, column: Callable[[str], ChartColumn | None], rows: Ints) -> None:
        """
        Args:
            height: how many rows are seen.
            column: gives a column by its name; nothing where there is none.
            rows: the number of each row in its table. Shape (height,).
        """
        self.height = height
        self.rows = rows
        self._column = column
        self._known: dict[str, ChartColumn] = {}

    def column(self, name: str) -> ChartColumn:
        """A column.

        Raises:
            ProblemError: ``column-unknown``.
        """
        found = self._known.get(name) or self._column(name)
        if found is None:
            raise fail(
                "column-unknown",
                f"There is no column “{name[:80]}” any more." if name else "No column is chosen.",
                where="chart",
                do="Choose another column for the chart.",
            )
        self._known[name] = found
        return found

    def numbers(self, name: str) -> tuple[Floats, int]:
        """The numbers of a column, NaN where a cell has none, and how many cells have another value. Shape
        (height,)."""
        return self.column(name).numbers

    def moments(self, name: str) -> tuple[Floats, int, bool]:
        """The moments of a column in milliseconds since 1970 (POSIX), NaN where a cell has none; how many cells have
        another value; and whether none of them says in which time zone it is. Shape (height,)."""
        return self.column(name).moments

    def groups(self, name: str) -> Codes:
        """For each row the number of its value, and the values as texts, in the order in which they come. Shape
        (height,)."""
        if not name:
            return np.zeros(self.height, dtype=np.int64), [""]
        return group_codes(self.column(name).values, NO_VALUE)


def spoken(names: Sequence[str], kind: str) -> list[str]:
    """Names as people read them: dates as “Fri 20 Nov” or “Fri 20 Nov 05:40”, with the year where there are several;
    all others as they are."""
    if not kind_of(kind).temporal:
        return list(names)
    moments = {name: _moment_of(name) for name in names if len(name) >= DAY}
    years = len({moment.year for moment in moments.values() if moment is not None}) > 1
    out = []
    for name in names:
        moment = moments.get(name)
        if moment is None:
            out.append(name)
            continue
        words = f"{moment:%a} {moment.day} {moment:%b}" + (f" {moment.year}" if years else "")
        out.append(words if len(name) == DAY else f"{words} {moment:%H:%M}")
    # Two moments of one minute, or of two zones, would read the same.
    return out if len(set(out)) == len(out) else list(names)


def name_of(value: Any) -> str:
    """A value as the name of a group."""
    return group_text(value) or NO_VALUE


def moments_of(values: Sequence[Any]) -> tuple[Floats, int, bool]:
    """Values as moments, see :meth:`Cells.moments`. A text of ISO 8601 is one; what says no time zone is taken as
    UTC."""
    alike = moments_alike(values)
    if alike is not None:
        written, offset = alike
        return (written.astype(np.float64) - offset) * 1000, 0, len(values[0]) == DAY
    out = np.full(len(values), np.nan)
    floats = True
    found, odd = read_moments(values)
    for at, moment in found:
        floats = floats and moment.tzinfo is None
        out[at] = (moment if moment.tzinfo is not None else moment.replace(tzinfo=UTC)).timestamp() * 1000
    return out, odd, floats


def read_moments(values: Sequence[Any]) -> tuple[list[tuple[int, datetime]], int]:
    """The cells that are moments, with their places, and how many have another value. A text of ISO 8601 is one; of a
    month or a year alone it is the beginning."""
    out: list[tuple[int, datetime]] = []
    odd = 0
    for at, value in enumerate(values):
        if is_empty(value):
            continue
        found = _moment_of(value)
        if found is None:
            odd += 1
        else:
            out.append((at, found))
    return out, odd


def _moment_of(value: Any) -> datetime | None:
    try:
        return datetime.fromisoformat(value)
    except (TypeError, ValueError):
        return _month(value)


def _month(value: Any) -> datetime | None:
    """The first day of a month or a year, as these are written alone."""
    if not isinstance(value, str):
        return None
    for pattern in ("%Y-%m", "%Y"):
        try:
            return datetime.strptime(value, pattern)
        except ValueError:
            continue
    return None


def are_months(values: Sequence[Any]) -> bool:
    """Whether texts are months, as ISO 8601 writes them."""
    there = [value for value in values if not is_empty(value)]
    return bool(there) and all(isinstance(value, str) and _MONTH.fullmatch(value) for value in there)
