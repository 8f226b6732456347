"""Which columns of two tables match: offered with evidence, where one is to be brought into the other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from .source import TableSource
from .stage import Stage

_LOOKED_AT = 2_000  # Rows of the table at hand.
_MOST_COLUMNS = 60
_LEAST_SHARE = 0.3


@dataclass(frozen=True, slots=True)
class Matching:
    """Two columns whose values match.

    Attributes:
        rows: how many of the rows that were looked at match, `of` how many with a value.
        unique: whether each value comes once in the other table.
    """

    theirs: str
    ours: str
    rows: int
    of: int
    unique: bool


def matching(stage: Stage, other: TableSource, most: int = 6) -> list[Matching]:
    """The pairs of columns that match best, the best first.

    Columns of the same name are among them where they match at all.
    """
    first = np.arange(min(_LOOKED_AT, stage.height), dtype=np.int64)
    ours = {name: _plain(stage.some(name, first)) for name in stage.names[:_MOST_COLUMNS]}
    out: list[tuple[tuple[Any, ...], Matching]] = []
    for column in other.columns[:_MOST_COLUMNS]:
        found = other.column(column.name)
        values = _plain(found[1]) if found is not None else []
        there = set(values)
        unique = len(there) == len(values)
        if len(there) < 2:
            continue
        for name, own in ours.items():
            if not own:
                continue
            hits = sum(value in there for value in own)
            same = name.casefold() == column.name.casefold()
            # Few different values, such as yes and no or small numbers, match by chance.
            likely = unique or same or len(set(own)) > 20
            if hits and (same or (likely and hits / len(own) >= _LEAST_SHARE)):
                rank = (-(hits / len(own) >= 0.5 and unique), -same, -hits / len(own))
                out.append((rank, Matching(column.name, name, hits, len(own), unique)))
    return [one for _, one in sorted(out, key=lambda pair: pair[0])[:most]]


def _plain(values: Sequence[Any]) -> list[Any]:
    return [value for value in values if type(value) in (str, int, float) and value != ""]
