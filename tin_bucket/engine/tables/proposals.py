"""What may make a comparison better: match columns that are found in the values, and columns that look renamed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from tin_bucket.core.analysis.column_pairs import LikelyPair, likely_pairs, pairs_by_values
from tin_bucket.core.analysis.match_proposal import MatchProposal, Values, propose_match
from tin_bucket.engine.work_out.source import TableSource, picked

from .comparisons import Laid

_LOOKED_AT = 2_000  # Rows of both tables whose values are laid beside each other.
_MOST_COLUMNS = 30  # Columns that went, and that came, that are laid beside each other.


@dataclass(frozen=True, slots=True)
class Proposals:
    """What is found.

    Attributes:
        match: where the rows are told apart by their whole content, the columns that tell them apart.
        renamed: pairs of a column that went and one that came, which hold the same values.
    """

    match: MatchProposal | None
    renamed: list[LikelyPair]


def match_proposal(*tables: TableSource) -> MatchProposal | None:
    """The columns that tell the rows of each of some tables apart."""
    names = set.intersection(*({one.name for one in table.columns} for table in tables))
    shared = [one for one in tables[-1].columns if one.name in names]
    return propose_match(shared, [(_values_of(table), table.height) for table in tables])


def _values_of(table: TableSource) -> Values:
    def values(name: str) -> Sequence[Any] | None:
        found = table.column(name)
        return None if found is None else list(found[1])

    return values


def propose(laid: Laid) -> Proposals:
    """What may make a comparison better."""
    old, new, found = laid.then.table, laid.now.table, laid.found
    match = match_proposal(old, new) if not found.matched_by else None
    both = np.flatnonzero((found.then_row >= 0) & (found.now_row >= 0))[:_LOOKED_AT]
    gone, came = found.gone_columns[:_MOST_COLUMNS], found.new_columns[:_MOST_COLUMNS]
    if not gone or not came:
        return Proposals(match, [])
    if not len(both) or (found.lacking and not found.matched_by):
        return Proposals(match, pairs_by_values(_whole(old, gone), _whole(new, came)))
    then, now = ({name: _picked(table, name, rows[both]) for name in names} for table, names, rows in (
        (old, gone, found.then_row), (new, came, found.now_row),
    ))  # fmt: skip
    return Proposals(match, likely_pairs(then, now))


def _whole(table: TableSource, names: list[str]) -> dict[str, Sequence[Any]]:
    found = {name: table.column(name) for name in names}
    return {name: one[1] for name, one in found.items() if one is not None}


def _picked(table: TableSource, name: str, rows: Any) -> list[Any]:
    found = table.column(name)
    return picked(found[1], rows) if found is not None else [None] * len(rows)
