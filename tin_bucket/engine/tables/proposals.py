"""What may make a comparison better: match columns that are found in the values, and columns that look renamed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from tin_bucket.core.analysis.column_pairs import LikelyPair, likely_pairs, pairs_by_values
from tin_bucket.core.analysis.compare import GONE, NEW
from tin_bucket.core.analysis.match_proposal import MatchProposal, propose_match, same_but_for_key
from tin_bucket.engine.work_out.source import TableSource, all_values, cells_at

from .compared_tables import ComparedTables

_FEWEST = 3  # Rows under another key that are told.
_LOOKED_AT = 2_000  # Rows of both tables whose values are laid beside each other.
_MOST_COLUMNS = 30  # Columns that went, and that came, that are laid beside each other.


@dataclass(frozen=True, slots=True)
class Proposals:
    """What is found.

    Attributes:
        match: where the rows are told apart by their whole content, the columns that tell them apart.
        renamed: pairs of a column that went and one that came, which hold the same values.
        other_key: how many rows that are gone are new under another key, all else being the same; 0 where few are.
    """

    match: MatchProposal | None
    renamed: list[LikelyPair]
    other_key: int = 0


def match_proposal(*tables: TableSource) -> MatchProposal | None:
    """The columns that tell the rows of each of some tables apart."""
    names = set.intersection(*({one.name for one in table.columns} for table in tables))
    shared = [one for one in tables[-1].columns if one.name in names]
    return propose_match(shared, [(partial(all_values, table), table.height) for table in tables])


def propose(laid: ComparedTables) -> Proposals:
    """What may make a comparison better."""
    return replace(_proposed(laid), other_key=_other_key(laid) if laid.found.matched_by else 0)


def _other_key(laid: ComparedTables) -> int:
    """How many rows came back under another key, where that is so with most that are new or gone."""
    old, new, found = laid.then.table, laid.now.table, laid.found
    gone, came = np.flatnonzero(found.state == GONE), np.flatnonzero(found.state == NEW)
    if not len(gone) or not len(came) or max(len(gone), len(came)) > _LOOKED_AT:
        return 0
    shared = {one.name for one in old.columns} & {one.name for one in new.columns}
    names = [one.name for one in new.columns if one.name in shared and one.name not in found.matched_by]
    before, after = ([one.name for one in table.columns] for table in (old, new))
    went = [[row[before.index(name)] for name in names] for row in old.at(found.then_row[gone])]
    is_new = [[row[after.index(name)] for name in names] for row in new.at(found.now_row[came])]
    same = same_but_for_key(went, is_new, range(len(names)))
    return same if same >= _FEWEST and 2 * same >= min(len(gone), len(came)) else 0


def _proposed(laid: ComparedTables) -> Proposals:
    old, new, found = laid.then.table, laid.now.table, laid.found
    match = match_proposal(old, new) if not found.matched_by else None
    both = np.flatnonzero((found.then_row >= 0) & (found.now_row >= 0))[:_LOOKED_AT]
    gone, came = found.gone_columns[:_MOST_COLUMNS], found.new_columns[:_MOST_COLUMNS]
    if not gone or not came:
        return Proposals(match, [])
    if not len(both) or (found.lacking and not found.matched_by):
        return Proposals(
            match,
            pairs_by_values(
                {name: all_values(old, name) for name in gone}, {name: all_values(new, name) for name in came}
            ),
        )
    then, now = ({name: cells_at(table, name, rows[both]) for name in names} for table, names, rows in (
        (old, gone, found.then_row), (new, came, found.now_row),
    ))  # fmt: skip
    return Proposals(match, likely_pairs(then, now))
