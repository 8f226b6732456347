"""Two dated tables → what is new, gone and changed.

Rows are known by the id of their stored content: equal ids are equal rows. So a comparison is set arithmetic on
ids first; only the rows that differ are ever read.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

from tin_bucket.core.table.row_expansion import Ints

SAME, NEW, GONE, CHANGED = 0, 1, 2, 3
STATES = {"same": SAME, "new": NEW, "gone": GONE, "changed": CHANGED}


@dataclass(slots=True)
class Difference:
    """Positions of the rows that only one side has, as multisets: twice there and once here differs once.

    Attributes:
        only_then: positions in the older list, ascending.
        only_now: positions in the newer list, ascending.
    """

    only_then: Ints
    only_now: Ints


def difference(then_ids: Ints, now_ids: Ints) -> Difference:
    """Set arithmetic on two lists of row ids, each of shape (rows,)."""
    then_keys, now_keys = _occurrences(then_ids, now_ids)
    return Difference(
        np.flatnonzero(~np.isin(then_keys, now_keys)).astype(np.int64),
        np.flatnonzero(~np.isin(now_keys, then_keys)).astype(np.int64),
    )


def _occurrences(then_ids: Ints, now_ids: Ints) -> tuple[Ints, Ints]:
    """The ids with their how-many-eth occurrence worked in, so that duplicates pair one to one."""
    counts = [_occurrence(ids) for ids in (then_ids, now_ids)]
    most = max((int(count.max(initial=0)) for count in counts), default=0)
    if most == 0:
        return then_ids, now_ids
    return then_ids * (most + 1) + counts[0], now_ids * (most + 1) + counts[1]


def _occurrence(ids: Ints) -> Ints:
    """For each position how often its id stood before it. Shape (rows,)."""
    count = np.zeros(len(ids), dtype=np.int64)
    if len(ids) < 2 or bool(np.all(ids[1:] > ids[:-1])):
        return count
    order = np.argsort(ids, kind="stable")
    ordered = ids[order]
    starts = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]])
    lengths = np.diff(np.r_[starts, len(ids)])
    count[order] = np.arange(len(ids)) - np.repeat(starts, lengths)
    return count


@dataclass(slots=True)
class ColumnChange:
    """How one column changed over all changed rows. `rose`, `fell` and `mean` are of numbers only."""

    name: str
    cells: int = 0
    rose: int = 0
    fell: int = 0
    total: float = 0.0

    @property
    def mean(self) -> float | None:
        """The mean difference of the changed numbers, or ``None`` when none are numbers."""
        numbers = self.rose + self.fell
        return self.total / numbers if numbers else None


@dataclass(slots=True)
class Comparison:
    """Two tables laid over each other.

    Attributes:
        state: for each merged row one of SAME, NEW, GONE, CHANGED. Shape (merged,).
        then_row: its position in the older table, −1 where it has none. Shape (merged,).
        now_row: its position in the newer table, −1 where it has none. Shape (merged,).
        columns: changes by column, most first.
        new_columns: columns that only the newer table has; they are not compared.
        gone_columns: columns that only the older table has; they are not compared.
        repeated_keys: how many keys stand for several of the differing rows on one side.
        changed_in: position of a changed row in the newer table → the columns in which it changed.
    """

    state: npt.NDArray[np.int8]
    then_row: Ints
    now_row: Ints
    columns: list[ColumnChange] = field(default_factory=list)
    new_columns: list[str] = field(default_factory=list)
    gone_columns: list[str] = field(default_factory=list)
    repeated_keys: int = 0
    changed_in: dict[int, tuple[str, ...]] = field(default_factory=dict)

    def counts(self) -> dict[str, int]:
        """How many merged rows are in each state, by its word."""
        found = np.bincount(self.state, minlength=4)
        return {word: int(found[number]) for word, number in STATES.items()}


def compare(
    then_ids: Ints,
    now_ids: Ints,
    split: Difference,
    then_rows: list[tuple[Any, ...]],
    now_rows: list[tuple[Any, ...]],
    then_columns: list[str],
    now_columns: list[str],
    match: list[str],
) -> Comparison:
    """Match the differing rows by their match columns and lay the two tables over each other.

    Args:
        then_ids, now_ids: the whole lists of row ids.
        split: what :func:`difference` found for them.
        then_rows, now_rows: the content of just the differing rows, in the order of `split`.
        then_columns, now_columns: the names of their columns.
        match: the columns that say which row is which; columns that a side lacks make every differing row new or gone.
    """
    shared = [name for name in now_columns if name in set(then_columns)]
    pairs, repeated = _pairs(then_rows, now_rows, then_columns, now_columns, match)
    changes = {name: ColumnChange(name) for name in shared if name not in match}
    places = [(then_columns.index(name), now_columns.index(name), changes[name]) for name in changes]
    state = np.zeros(len(now_ids), dtype=np.int8)
    state[split.only_now] = NEW
    then_of_now = np.full(len(now_ids), -1, dtype=np.int64)
    now_of_then = _kept_positions(then_ids, now_ids, split)
    changed_in: dict[int, tuple[str, ...]] = {}
    paired = np.zeros(len(then_rows), dtype=bool)
    for then_index, now_index in pairs:
        changed: list[str] = []
        old_row, new_row = then_rows[then_index], now_rows[now_index]
        for then_at, now_at, change in places:
            old, new = old_row[then_at], new_row[now_at]
            if not same_value(old, new):
                changed.append(change.name)
                _count(change, old, new)
        position = int(split.only_now[now_index])
        state[position] = CHANGED if changed else SAME
        if changed:
            changed_in[position] = tuple(changed)
        now_of_then[split.only_then[then_index]] = position
        paired[then_index] = True
    kept = np.flatnonzero(now_of_then >= 0)
    then_of_now[now_of_then[kept]] = kept
    gone = split.only_then[~paired]
    merged = _merge(state, then_of_now, now_of_then, gone)
    merged.columns = sorted((c for c in changes.values() if c.cells), key=lambda change: -change.cells)
    merged.new_columns = [name for name in now_columns if name not in set(then_columns)]
    merged.gone_columns = [name for name in then_columns if name not in set(now_columns)]
    merged.repeated_keys = repeated
    merged.changed_in = changed_in
    return merged


def same_value(old: Any, new: Any) -> bool:
    """Equal as JSON values: 1 equals 1.0, and neither equals true."""
    return bool(old == new) and isinstance(old, bool) == isinstance(new, bool)


def _count(change: ColumnChange, old: Any, new: Any) -> None:
    change.cells += 1
    numeric = all(isinstance(value, int | float) and not isinstance(value, bool) for value in (old, new))
    if numeric:
        change.rose += new > old
        change.fell += new < old
        change.total += new - old


def _pairs(
    then_rows: list[tuple[Any, ...]],
    now_rows: list[tuple[Any, ...]],
    then_columns: list[str],
    now_columns: list[str],
    match: list[str],
) -> tuple[list[tuple[int, int]], int]:
    """Which differing rows stand for the same thing: pairs of indices; equal keys pair in their order."""
    if not match or not set(match) <= set(then_columns) or not set(match) <= set(now_columns):
        return [], 0
    waiting: dict[tuple[Any, ...], list[int]] = {}
    then_at = [then_columns.index(name) for name in match]
    for index, row in enumerate(then_rows):
        waiting.setdefault(tuple((type(row[at]) is bool, row[at]) for at in then_at), []).append(index)
    repeated = sum(len(indices) > 1 for indices in waiting.values())
    now_at = [now_columns.index(name) for name in match]
    used: dict[tuple[Any, ...], int] = {}
    pairs = []
    for index, row in enumerate(now_rows):
        key = tuple((type(row[at]) is bool, row[at]) for at in now_at)
        turn = used.get(key, 0)
        used[key] = turn + 1
        partners = waiting.get(key, ())
        if turn < len(partners):
            pairs.append((partners[turn], index))
    repeated = max(repeated, sum(turns > 1 for turns in used.values()))
    return pairs, repeated


def _kept_positions(then_ids: Ints, now_ids: Ints, split: Difference) -> Ints:
    """For each older row the position of its equal in the newer list, −1 where it has none. Shape (then rows,)."""
    then_keys, now_keys = _occurrences(then_ids, now_ids)
    then_kept = np.setdiff1d(np.arange(len(then_ids)), split.only_then, assume_unique=True)
    now_kept = np.setdiff1d(np.arange(len(now_ids)), split.only_now, assume_unique=True)
    out = np.full(len(then_ids), -1, dtype=np.int64)
    # Both sides hold the same keys here, each once: sorting both lays equal keys beside each other.
    if np.array_equal(then_keys[then_kept], now_keys[now_kept]):
        out[then_kept] = now_kept
    else:
        then_order = np.argsort(then_keys[then_kept], kind="stable")
        now_order = np.argsort(now_keys[now_kept], kind="stable")
        out[then_kept[then_order]] = now_kept[now_order]
    return out


def _merge(state: npt.NDArray[np.int8], then_of_now: Ints, now_of_then: Ints, gone: Ints) -> Comparison:
    """The newer order, with each gone row behind the row that it stood behind in the older table."""
    now_row = np.arange(len(state), dtype=np.int64)
    if not len(gone):
        return Comparison(state, then_of_now, now_row)
    positions = np.arange(len(now_of_then), dtype=np.int64)
    last_kept = np.maximum.accumulate(np.where(now_of_then >= 0, positions, -1))[gone]
    anchor = np.where(last_kept >= 0, now_of_then[last_kept], -1)
    order = np.argsort(np.r_[now_row * 2, anchor * 2 + 1], kind="stable")
    return Comparison(
        np.r_[state, np.full(len(gone), GONE, dtype=np.int8)][order],
        np.r_[then_of_now, gone][order],
        np.r_[now_row, np.full(len(gone), -1, dtype=np.int64)][order],
    )
