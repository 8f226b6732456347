"""Two dated tables → what is new, gone and changed.

Rows are known by the id of their stored content: equal ids are equal rows. So a comparison is set arithmetic on
ids first; only the rows that differ are ever read.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import product
from typing import Any

import numpy as np
import numpy.typing as npt

from tin_bucket.core.alike.judge import Judge, same_value
from tin_bucket.core.table.row_expansion import Ints

SAME, NEW, GONE, CHANGED, ALIKE = 0, 1, 2, 3, 4
STATES = {"same": SAME, "new": NEW, "gone": GONE, "changed": CHANGED, "alike": ALIKE}
_CLOSE = 5  # So many times as many numbers as ids there may be between the lowest and the highest.
_MOST_LAID = 2_500  # Pairs of rows of one match value that are looked at to find which row is which.
PLAIN = Judge()


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
    low, high = int(ids.min()), int(ids.max())
    if high - low < _CLOSE * len(ids) and int(np.bincount(ids - low).max()) == 1:
        return count  # Each stands there once, which is told without sorting where the ids lie close.
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
        state: for each merged row one of SAME, NEW, GONE, CHANGED, ALIKE; the last differs only in what counts as the
            same. Shape (merged,).
        then_row: its position in the older table, −1 where it has none. Shape (merged,).
        now_row: its position in the newer table, −1 where it has none. Shape (merged,).
        columns: changes by column, most first.
        new_columns: columns that only the newer table has; they are not compared.
        gone_columns: columns that only the older table has; they are not compared.
        matched_by: the columns that said which row is which; none where that was the rows' whole content.
        lacking: match columns that one of the tables lacks, for which the whole content was taken.
        repeated_keys: how many keys stand for several of the differing rows on one side.
        repeated: the merged rows of these keys, as indices. Shape (repeated,).
        changed_in: position of a changed row in the newer table → the columns in which it changed.
        alike_in: position in the newer table of a row that differs in what counts as the same → these columns.
        alike: column → in how many rows it differs in what counts as the same.
    """

    state: npt.NDArray[np.int8]
    then_row: Ints
    now_row: Ints
    columns: list[ColumnChange] = field(default_factory=list)
    new_columns: list[str] = field(default_factory=list)
    gone_columns: list[str] = field(default_factory=list)
    matched_by: list[str] = field(default_factory=list)
    lacking: list[str] = field(default_factory=list)
    repeated_keys: int = 0
    repeated: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    changed_in: dict[int, tuple[str, ...]] = field(default_factory=dict)
    alike_in: dict[int, tuple[str, ...]] = field(default_factory=dict)
    alike: dict[str, int] = field(default_factory=dict)

    def counts(self) -> dict[str, int]:
        """How many merged rows are in each state, by its word."""
        found = np.bincount(self.state, minlength=len(STATES))
        return {word: int(found[number]) for word, number in STATES.items()}

    def differs(self) -> dict[str, int]:
        """The counts of what differs; that which counts as the same where there is some."""
        told = self.counts()
        del told["same"]
        return told if told["alike"] else {word: count for word, count in told.items() if word != "alike"}


def compare(
    then_ids: Ints,
    now_ids: Ints,
    split: Difference,
    then_rows: list[tuple[Any, ...]],
    now_rows: list[tuple[Any, ...]],
    then_columns: list[str],
    now_columns: list[str],
    match: list[str],
    judge: Judge = PLAIN,
) -> Comparison:
    """Match the differing rows by their match columns and lay the two tables over each other.

    Args:
        then_ids, now_ids: the whole lists of row ids.
        split: what :func:`difference` found for them.
        then_rows, now_rows: the content of just the differing rows, in the order of `split`.
        then_columns, now_columns: the names of their columns.
        match: the columns that say which row is which. Without any, and where a side lacks one, rows are told apart by
            all that stands in the columns that both sides have.
        judge: what counts as the same.
    """
    then_at, now_at = ({name: at for at, name in enumerate(names)} for names in (then_columns, now_columns))
    shared = [name for name in now_columns if name in then_at]
    lacking = [name for name in match if name not in then_at or name not in now_at]
    matched_by = [] if lacking else match
    changes = {name: ColumnChange(name) for name in shared if name not in matched_by}
    places = [(then_at[name], now_at[name], changes[name], judge.alike(name)) for name in changes]
    others = len(shared) < max(len(then_columns), len(now_columns))
    # Where little is shared, equal values say nothing.
    enough = 2 * len(shared) > min(len(then_columns), len(now_columns))
    if matched_by or ((judge.key or others) and enough):
        told = matched_by or [name for name in shared if not judge.ignores(name)]
        pairs = _pairs(
            _keys(then_rows, told, then_at, judge), _keys(now_rows, told, now_at, judge),
            then_rows, now_rows, [(old, new) for old, new, *_ in places],
        )  # fmt: skip
    else:
        pairs = Pairs()  # Rows of the same columns that differ differ in their content.
    state = np.zeros(len(now_ids), dtype=np.int8)
    state[split.only_now] = NEW
    then_of_now = np.full(len(now_ids), -1, dtype=np.int64)
    now_of_then = _kept_positions(then_ids, now_ids, split)
    changed_in: dict[int, tuple[str, ...]] = {}
    alike_in: dict[int, tuple[str, ...]] = {}
    alikes: dict[str, int] = {}
    paired = np.zeros(len(then_rows), dtype=bool)
    for then_index, now_index in pairs.pairs:
        changed: list[str] = []
        near: list[str] = []
        old_row, new_row = then_rows[then_index], now_rows[now_index]
        for old_place, new_place, change, alike in places:
            old, new = old_row[old_place], new_row[new_place]
            if judge.same(change.name, old, new):
                continue
            if alike is not None and alike(old, new):
                near.append(change.name)
                alikes[change.name] = alikes.get(change.name, 0) + 1
                continue
            changed.append(change.name)
            count_change(change, old, new)
        position = int(split.only_now[now_index])
        same_key = all(judge.same(name, old_row[then_at[name]], new_row[now_at[name]]) for name in matched_by)
        state[position] = CHANGED if changed else SAME if same_key and not near else ALIKE
        if changed:
            changed_in[position] = tuple(changed)
        if near:
            alike_in[position] = tuple(near)
        now_of_then[split.only_then[then_index]] = position
        paired[then_index] = True
    kept = np.flatnonzero(now_of_then >= 0)
    then_of_now[now_of_then[kept]] = kept
    gone = split.only_then[~paired]
    merged = merge(state, then_of_now, now_of_then, gone)
    merged.columns = sorted((c for c in changes.values() if c.cells), key=lambda change: -change.cells)
    merged.new_columns = [name for name in now_columns if name not in then_at]
    merged.gone_columns = [name for name in then_columns if name not in now_at]
    merged.matched_by, merged.lacking = list(matched_by), lacking
    if matched_by:
        merged.repeated_keys = pairs.repeated
        merged.repeated = np.flatnonzero(
            (np.isin(merged.then_row, split.only_then[pairs.then_repeated]) & (merged.then_row >= 0))
            | (np.isin(merged.now_row, split.only_now[pairs.now_repeated]) & (merged.now_row >= 0))
        )
    merged.changed_in, merged.alike_in, merged.alike = changed_in, alike_in, alikes
    return merged


def count_change(change: ColumnChange, old: Any, new: Any) -> None:
    """Count a cell that changed."""
    change.cells += 1
    numeric = all(isinstance(value, int | float) and not isinstance(value, bool) for value in (old, new))
    if numeric:
        change.rose += new > old
        change.fell += new < old
        change.total += new - old


@dataclass(slots=True)
class Pairs:
    """Which differing rows stand for the same thing.

    Attributes:
        pairs: indices of an older row and of the newer one.
        repeated: how many keys stand for several rows on one side.
        then_repeated, now_repeated: the indices of the rows of these keys.
    """

    pairs: list[tuple[int, int]] = field(default_factory=list)
    repeated: int = 0
    then_repeated: list[int] = field(default_factory=list)
    now_repeated: list[int] = field(default_factory=list)


Keys = list[tuple[Any, ...]]


def _keys(rows: Sequence[tuple[Any, ...]], names: list[str], at: dict[str, int], judge: Judge) -> Keys:
    """What each row is known by; true and 1 are two things."""
    places = [(at[name], judge.form_of(name)) for name in names]
    if all(form is None for _, form in places):
        plain = [place for place, _ in places]
        return [tuple([(row[one].__class__ is bool, row[one]) for one in plain]) for row in rows]

    def value(row: tuple[Any, ...], place: int, form: Callable[[Any], Any] | None) -> tuple[bool, Any]:
        found = row[place] if form is None else form(row[place])
        return (found.__class__ is bool, found)

    return [tuple([value(row, *place) for place in places]) for row in rows]


def _pairs(
    then_keys: Keys,
    now_keys: Keys,
    then_rows: list[tuple[Any, ...]],
    now_rows: list[tuple[Any, ...]],
    places: list[tuple[int, int]],
) -> Pairs:
    """Pair rows of equal keys. Rows of a repeated key pair by how much of their content is equal."""
    waiting: dict[tuple[Any, ...], list[int]] = {}
    for index, key in enumerate(then_keys):
        waiting.setdefault(key, []).append(index)
    coming: dict[tuple[Any, ...], list[int]] = {}
    for index, key in enumerate(now_keys):
        coming.setdefault(key, []).append(index)
    found = Pairs()
    for key, now in coming.items():
        then = waiting.get(key, [])
        if len(now) > 1 or len(then) > 1:
            found.repeated += 1
            found.now_repeated += now
            found.then_repeated += then
            if len(now) * len(then) <= _MOST_LAID:
                found.pairs += _by_likeness(then, now, then_rows, now_rows, places)
                continue
        found.pairs += zip(then, now, strict=False)
    for key, then in waiting.items():
        if len(then) > 1 and key not in coming:
            found.repeated += 1
            found.then_repeated += then
    return found


def _by_likeness(
    then: list[int],
    now: list[int],
    then_rows: list[tuple[Any, ...]],
    now_rows: list[tuple[Any, ...]],
    places: list[tuple[int, int]],
) -> list[tuple[int, int]]:
    """Pairs of rows of one key: those that have most in common first, else in their order."""
    scored = sorted(
        (-sum(same_value(then_rows[old][a], now_rows[new][b]) for a, b in places), old, new)
        for old, new in product(then, now)
    )
    taken_then: set[int] = set()
    taken_now: set[int] = set()
    out = []
    for _, old, new in scored:
        if old not in taken_then and new not in taken_now:
            taken_then.add(old)
            taken_now.add(new)
            out.append((old, new))
    return out


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


def merge(state: npt.NDArray[np.int8], then_of_now: Ints, now_of_then: Ints, gone: Ints) -> Comparison:
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
