"""Which columns say which row is which, found out from the values, with the evidence in a sentence."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any

from tin_bucket.core.table.table import TableColumn

_NAMED = re.compile(r"(^|[^a-z])(id|ids|code|key|no|nr|num|number|sku|ref|uuid|guid|isbn|slug)$", re.IGNORECASE)
_CAMEL = re.compile(r"(?<=[a-z])(Id|Code|Key|No|Number|Ref)$")
_MOST_TRIED = 8  # Columns that are looked at.

Values = Callable[[str], Sequence[Any] | None]


@dataclass(frozen=True, slots=True)
class MatchProposal:
    """Columns by whose values rows may be told apart.

    Attributes:
        columns: their names, one or two.
        evidence: why, in a sentence.
    """

    columns: list[str]
    evidence: str


def propose_match(columns: Sequence[TableColumn], tables: Sequence[tuple[Values, int]]) -> MatchProposal | None:
    """The likeliest match columns: filled and different in every row of each table.

    Args:
        columns: the headings that all the tables have.
        tables: of each table what gives a column's values, and its height.

    Returns:
        Nothing where no column, and no two of them, tell all rows apart, or where there are no rows.
    """
    if not columns or not tables or min(height for _, height in tables) < 2:
        return None
    likely = [one for one in sorted(columns, key=_rank) if _rank(one) < _NEVER][:_MOST_TRIED]
    filled: list[str] = []
    for one in likely:
        kind = _tells_apart([one.name], tables)
        if kind == "each":
            return MatchProposal([one.name], _evidence([one.name], tables))
        if kind == "filled":
            filled.append(one.name)
    for pair in combinations(filled[:5], 2):
        if _tells_apart(list(pair), tables) == "each":
            return MatchProposal(list(pair), _evidence(list(pair), tables))
    return None


def same_but_for_key(gone: Sequence[Sequence[Any]], new: Sequence[Sequence[Any]], places: Sequence[int]) -> int:
    """How many rows that are gone are new under another key: all else is the same, and stands once on each side.

    Args:
        gone, new: the rows, with their columns in the same order.
        places: the columns that are compared, those of the key left out.
    """
    if not places:
        return 0
    sides = [
        Counter(tuple((row[at].__class__ is bool, row[at]) for at in places) for row in rows) for rows in (gone, new)
    ]
    return sum(count == 1 and sides[1].get(key) == 1 for key, count in sides[0].items())


_NEVER = 90


def _rank(column: TableColumn) -> int:
    """How little a column looks like one that says which row is which."""
    if column.kind in ("decimal", "yes/no", "json"):
        return _NEVER
    named = bool(_NAMED.search(column.name) or _CAMEL.search(column.name))
    rank = 0 if named else 20
    # A measure has a unit, and what was looked up stands for another thing.
    rank += 40 if column.unit else 0
    rank += 10 if column.origin not in ("taken", "for each", "worked out") else 0
    return rank + {"text": 0, "whole number": 1, "date": 12}.get(column.kind, 14)


def _tells_apart(names: list[str], tables: Sequence[tuple[Values, int]]) -> str:
    """``each`` where the columns are filled and different in all rows, ``filled`` where they are filled."""
    kind = "each"
    for values_of, height in tables:
        parts = [values_of(name) for name in names]
        if any(part is None for part in parts):
            return ""
        found = [part for part in parts if part is not None]
        if any(value == "" or not isinstance(value, str | int | float) for part in found for value in part):
            return ""
        keys = set(found[0]) if len(found) == 1 else set(zip(*found, strict=True))
        if len(keys) < height:
            kind = "filled"
    return kind


def _evidence(names: list[str], tables: Sequence[tuple[Values, int]]) -> str:
    what = f"{names[0]} is filled and different" if len(names) == 1 else f"{' and '.join(names)} together differ"
    heights = [height for _, height in tables]
    if len(heights) == 1:
        return f"{what} in all {heights[0]:,} rows."
    if heights[0] == heights[1]:
        return f"{what} in all {heights[0]:,} rows of both."
    return f"{what} in all {heights[0]:,} rows of the earlier and all {heights[1]:,} of the later table."
