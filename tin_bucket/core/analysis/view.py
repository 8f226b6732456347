"""A table as somebody looks at it: sorted, filtered, searched. The table itself stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import compress, pairwise
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.columns.kind_registry import converter, kind_of
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.readings import EXACT, plain_numbers
from tin_bucket.core.columns.reduction import text_of
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn


class SortBy(Part):
    """One column to sort by."""

    column: str
    down: bool = Field(default=False, description="the highest first; empty cells stand at the end in any case")


class HasText(Part):
    """Cells in which a text stands, whatever its case."""

    by: Literal["text"] = "text"
    column: str
    text: str
    no: bool = Field(default=False, description="whether those without it are meant")


class Between(Part):
    """Cells from one value to another, both included; either may be left open."""

    by: Literal["between"] = "between"
    column: str
    low: str | None = None
    high: str | None = None
    no: bool = False


class OneOf(Part):
    """Cells that are one of some values."""

    by: Literal["one of"] = "one of"
    column: str
    values: list[str] = Field(max_length=1000)
    no: bool = False


class Empty(Part):
    """Cells without a value; lookups that gave nothing are among them."""

    by: Literal["empty"] = "empty"
    column: str
    no: bool = False


Condition = Annotated[HasText | Between | OneOf | Empty, Field(discriminator="by")]


class View(Part):
    """How a table is looked at."""

    sort: list[SortBy] = Field(default=[], max_length=20)
    where: list[Condition] = Field(default=[], max_length=100)

    @property
    def plain(self) -> bool:
        """Whether this is the table as it is."""
        return not self.sort and not self.where


Column = Callable[[str], tuple[TableColumn, Sequence[Any]] | None]


def positions(view: View, height: int, column: Column) -> Ints:
    """Which rows are seen, in order. Shape (rows seen,).

    Args:
        view: how it is looked at.
        height: how many rows the table has.
        column: gives a column's heading and values by its name.

    Raises:
        ProblemError: ``column-unknown``, or ``value-unreadable`` for a bound that is none of the column's kind.
    """
    kept: NDArray[np.bool_] | None = None
    for condition in view.where:
        heading, values = _named(column, condition.column)
        mask = _mask(condition, heading, values, height)
        mask = ~mask if condition.no else mask
        kept = mask if kept is None else kept & mask
    rows = np.arange(height, dtype=np.int64) if kept is None else np.flatnonzero(kept).astype(np.int64)
    # The last one first: a stable sort keeps its order where the others are equal.
    for by in reversed(view.sort):
        heading, values = _named(column, by.column)
        some = values if kept is None else list(compress(values, kept.tolist()))
        at = np.arange(height, dtype=np.int64) if kept is None else np.cumsum(kept, dtype=np.int64) - 1
        ranks = _ranks(some, heading)[at[rows]]
        if by.down:
            ranks = np.where(ranks == _LAST, _LAST, len(some) - ranks)
        rows = rows[np.argsort(ranks, kind="stable")]
    return rows


def ordered(values: Sequence[Any], heading: TableColumn, down: bool) -> Ints:
    """The places of a column's values in their order; empty ones last, equal ones as they stand. Shape (values,)."""
    ranks = _ranks(values, heading)
    if down:
        ranks = np.where(ranks == _LAST, _LAST, len(values) - ranks)
    return np.argsort(ranks, kind="stable").astype(np.int64)


_LAST = np.iinfo(np.int64).max


def _named(column: Column, name: str) -> tuple[TableColumn, Sequence[Any]]:
    found = column(name)
    if found is None:
        raise fail(
            "column-unknown",
            f"The table has no column “{name[:200]}” now.",
            where="sorting and filters",
            do="Take the sorting or filter off; the column was renamed or left out.",
        )
    return found


def _ranks(values: Sequence[Any], heading: TableColumn) -> Ints:
    """For each value its place among the others; nothing and misses stand behind all. Shape (values,)."""
    if not isinstance(values, list):
        values = list(values)
    texts = _text_ranks(values, heading)
    if texts is not None:
        return texts
    plain = plain_numbers(values)
    if plain is not None:
        nothing = np.isnan(plain)
        places = np.unique(plain, return_inverse=True)[1].astype(np.int64)
        return np.where(nothing, _LAST, places)
    distinct = set(values)
    numbers = [one for one in distinct if type(one) in (int, float)]
    rest = [one for one in distinct if type(one) is str]
    truths = [one for one in distinct if type(one) is bool]
    # 1, 1.0 and True are one member of a set; a table that mixes them is compared by kind too.
    rest.sort(key=kind_of(heading.kind).sort_key or (lambda text: (text.casefold(), text)))
    order = [*sorted(truths), *sorted(numbers), *rest]
    rank: dict[Any, int] = {one: at for at, one in enumerate(order)}
    get = rank.get
    return np.fromiter((get(value, _LAST) for value in values), dtype=np.int64, count=len(values))


def _text_ranks(values: list[Any], heading: TableColumn) -> Ints | None:
    """The places of texts that are nearly all different, sorted without counting them first; ``None`` for others."""
    some = values[:: max(1, len(values) // 1000)]
    if len(values) < 10_000 or len(set(some)) < len(some) // 2 or kind_of(heading.kind).sort_key:
        return None
    if not set(map(type, values)) <= {str, type(None)}:
        return None
    keys = [value.casefold() if value is not None else None for value in values]
    filled = [at for at, key in enumerate(keys) if key is not None]
    filled.sort(key=keys.__getitem__)  # type: ignore[arg-type]
    ranks = np.full(len(values), _LAST, dtype=np.int64)
    order = np.array(filled, dtype=np.int64)
    # Equal texts have equal places.
    steps = np.fromiter((keys[one] != keys[other] for one, other in pairwise(filled)), dtype=np.int64,
                        count=max(0, len(filled) - 1))  # fmt: skip
    if len(filled):
        ranks[order] = np.concatenate(([0], np.cumsum(steps)))
    return ranks


def _mask(condition: Condition, heading: TableColumn, values: Sequence[Any], height: int) -> NDArray[np.bool_]:
    """Which cells meet a condition; numbers and texts as such are looked at together. Shape (height,)."""
    if isinstance(condition, Between) and kind_of(heading.kind).numeric:
        numbers = plain_numbers(values)
        low, high = (_bound(heading, text) for text in (condition.low, condition.high))
        if numbers is not None and all(bound is None or abs(bound) < EXACT for bound in (low, high)):
            found = ~np.isnan(numbers)
            found &= numbers >= low if low is not None else True
            found &= numbers <= high if high is not None else True
            return found
    if isinstance(condition, OneOf) and set(map(type, values)) == {str}:
        chosen = set(condition.values)
        return np.fromiter(map(chosen.__contains__, values), dtype=bool, count=height)
    return np.fromiter(_test(condition, heading, values), dtype=bool, count=height)


def _is_empty(value: Any) -> bool:
    return value is None or value == "" or type(value) is Miss


def _test(condition: Condition, heading: TableColumn, values: Iterable[Any]) -> Iterable[bool]:
    if isinstance(condition, Empty):
        return map(_is_empty, values)
    if isinstance(condition, HasText):
        wanted = condition.text.casefold()
        return (value is not None and wanted in seen_text(value).casefold() for value in values)
    if isinstance(condition, OneOf):
        chosen = set(condition.values)
        return (("" if value is None else seen_text(value)) in chosen for value in values)
    return _between(condition, heading, values)


def _between(condition: Between, heading: TableColumn, values: Iterable[Any]) -> Iterable[bool]:
    low, high = (_bound(heading, text) for text in (condition.low, condition.high))
    if kind_of(heading.kind).numeric:
        return (
            type(value) in (int, float) and (low is None or value >= low) and (high is None or value <= high)
            for value in values
        )
    # Dates of ISO 8601 are in order as texts; "2026-11-30" as upper bound means the whole day.
    top = None if high is None else f"{high}\U0010ffff" if kind_of(heading.kind).temporal else str(high)
    return (
        isinstance(value, str) and (low is None or value >= str(low)) and (top is None or value <= top)
        for value in values
    )


def _bound(heading: TableColumn, text: str | None) -> Any:
    if text is None or not text.strip():
        return None
    if not kind_of(heading.kind).numeric:
        return text.strip()
    try:
        return converter("decimal")(text)
    except ValueError:
        raise fail(
            "value-unreadable",
            f"“{text[:100]}” is not a number, and {heading.name[:100]} is a column of numbers.",
            where="filter",
            do="Write a number such as 42.5.",
        ) from None


def seen_text(value: Any) -> str:
    """A cell's text, as it is searched."""
    return value.words if type(value) is Miss else text_of(value)


def find_cells(rows: Iterable[Sequence[Any]], text: str, most: int) -> tuple[list[tuple[int, int]], int]:
    """The cells in which a text stands, whatever its case.

    Args:
        rows: the rows in the order in which they are seen.
        text: what is looked for.
        most: how many cells are told.

    Returns:
        Row and column of each, and how many there are in all.
    """
    wanted, total = text.casefold(), 0
    found: list[tuple[int, int]] = []
    for row, values in enumerate(rows):
        for at, value in enumerate(values):
            if value is not None and wanted in seen_text(value).casefold():
                total += 1
                if len(found) < most:
                    found.append((row, at))
    return found, total


def rows_with_text(rows: Iterable[Sequence[Any]], text: str, columns: Sequence[int]) -> list[bool]:
    """Whether a text stands in some columns of each row, whatever its case. One for each row.

    Args:
        columns: the numbers of the columns that are searched.
    """
    wanted = text.casefold()
    return [any(row[at] is not None and wanted in seen_text(row[at]).casefold() for at in columns) for row in rows]


def taken_at(values: Sequence[Any], rows: Ints) -> list[Any]:
    """The values at some rows; of packed ones each stretch is unpacked once."""
    if not isinstance(values, Packed):
        return [values[at] for at in rows.tolist()]
    order = np.argsort(rows, kind="stable")
    out: list[Any] = [None] * len(rows)
    for at in order.tolist():
        out[at] = values[int(rows[at])]
    return out
