"""The same as :mod:`compare` for two long tables that have no rows' ids in common: column after column, so that never
more than one column of each is in memory."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from operator import ne
from typing import Any

import numpy as np
import numpy.typing as npt

from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.table.row_expansion import Ints

from .compare import ALIKE, CHANGED, NEW, PLAIN, SAME, ColumnChange, Comparison, count_change, merge

Values = Callable[[str], Sequence[Any]]
Objects = npt.NDArray[np.object_]
Cells = Sequence[Any] | Objects
Stretches = Iterator[tuple[int, Cells, Cells]]
Mask = npt.NDArray[np.bool_]


def compare_columns(
    then_values: Values,
    now_values: Values,
    then_columns: Sequence[str],
    now_columns: Sequence[str],
    match: Sequence[str],
    judge: Judge = PLAIN,
    stretches: Callable[[str], Stretches | None] = lambda name: None,
) -> Comparison | None:
    """Lay two tables over each other by their match columns.

    Args:
        then_values, now_values: give the values of a column, one for each row.
        then_columns, now_columns: the names of the columns, in the order in which changes are told.
        match: the columns that say which row is which.
        stretches: where a column may differ, row for row, as far as that is known without reading all of it: where each
            such stretch begins, and its values in both; nothing where it is not known.

    Returns:
        Nothing where a table lacks a match column, there is none, or one match value stands for several rows: then the
        rows themselves have to be looked at.
    """
    shared = set(then_columns) & set(now_columns)
    if not match or not set(match) <= shared:
        return None
    same_keys = all(_is_same(stretches(name)) for name in match)
    now_keys = _keys(now_values, match, judge)
    then_keys = now_keys if same_keys else _keys(then_values, match, judge)
    then_of_now = _joined(then_keys, now_keys)
    if then_of_now is None:
        return None
    now_of_then = np.full(len(then_keys), -1, dtype=np.int64)
    paired = np.flatnonzero(then_of_now >= 0)
    partners = then_of_now[paired]
    now_of_then[partners] = paired
    state = np.where(then_of_now >= 0, SAME, NEW).astype(np.int8)
    in_line = len(paired) == len(then_keys) == len(now_keys) and _are_all(partners, len(now_keys))
    del then_keys, now_keys
    if not (same_keys and in_line):
        state[paired[_differs(match, then_values, now_values, partners, paired, judge)]] = ALIKE
    changed_in: dict[int, list[str]] = {}
    alike_in: dict[int, list[str]] = {}
    alikes: dict[str, int] = {}
    changes = []
    for name in [name for name in now_columns if name in shared and name not in match]:
        parts = stretches(name) if in_line else None
        if parts is None:
            parts = iter([(0, _picked(then_values(name), partners), _picked(now_values(name), paired))])
        change, alike = ColumnChange(name), judge.alike(name)
        for at, old, new in _cells_that_differ(parts):
            if judge.same(name, old, new):
                continue
            position = int(paired[at])
            if alike is not None and alike(old, new):
                alikes[name] = alikes.get(name, 0) + 1
                alike_in.setdefault(position, []).append(name)
            else:
                count_change(change, old, new)
                changed_in.setdefault(position, []).append(name)
        if change.cells:
            changes.append(change)
    state[np.fromiter(alike_in, dtype=np.int64, count=len(alike_in))] = ALIKE
    state[np.fromiter(changed_in, dtype=np.int64, count=len(changed_in))] = CHANGED
    gone = np.flatnonzero(now_of_then < 0).astype(np.int64)
    merged = merge(state, then_of_now, now_of_then, gone)
    merged.columns = sorted(changes, key=lambda change: -change.cells)
    merged.new_columns = [name for name in now_columns if name not in shared]
    merged.gone_columns = [name for name in then_columns if name not in shared]
    merged.matched_by = list(match)
    merged.changed_in = {position: tuple(names) for position, names in changed_in.items()}
    merged.alike_in = {position: tuple(names) for position, names in alike_in.items()}
    merged.alike = alikes
    return merged


def _joined(then: Sequence[Any], now: Sequence[Any]) -> Ints | None:
    """For each key of now its place among those of then, −1 where it has none; nothing where a key is there twice.
    Shape (now,)."""
    # What is equal has one hash; sorted numbers are joined in a third of the time that a table of objects takes.
    codes, wanted = (np.fromiter(map(hash, keys), dtype=np.int64, count=len(keys)) for keys in (then, now))
    order = np.argsort(codes, kind="stable")
    codes = codes[order]
    if bool((codes[1:] == codes[:-1]).any()):
        return _joined_by_key(then, now)
    in_order = np.sort(wanted)
    if bool((in_order[1:] == in_order[:-1]).any()):
        return _joined_by_key(then, now)
    del in_order
    out = np.full(len(now), -1, dtype=np.int64)
    if len(codes):
        at = np.minimum(np.searchsorted(codes, wanted), len(codes) - 1)
        found = codes[at] == wanted
        out[found] = order[at[found]]
    paired = np.flatnonzero(out >= 0)
    if any(map(ne, _picked(then, out[paired]), _picked(now, paired))):
        return _joined_by_key(then, now)  # Two keys of one hash.
    return out


def _joined_by_key(then: Sequence[Any], now: Sequence[Any]) -> Ints | None:
    place = dict(zip(then, range(len(then)), strict=True))
    if len(place) < len(then) or len(set(now)) < len(now):
        return None
    get = place.get
    return np.fromiter((get(key, -1) for key in now), dtype=np.int64, count=len(now))


def _are_all(rows: Ints, count: int) -> bool:
    """Whether some rows are all of a table, in order."""
    return len(rows) == count and bool((rows == np.arange(count)).all())


def _keys(values: Values, match: Sequence[str], judge: Judge) -> Sequence[Any]:
    """What each row is known by; true and 1 are two things."""
    columns: list[Sequence[Any]] = []
    for name in match:
        form, held = judge.form_of(name), values(name)
        columns.append(held if form is None else list(map(form, held)))
    if len(columns) == 1 and bool not in set(map(type, columns[0])):
        return columns[0]
    return [tuple([(value.__class__ is bool, value) for value in cells]) for cells in zip(*columns, strict=True)]


def _differs(match: Sequence[str], then: Values, now: Values, partners: Ints, paired: Ints, judge: Judge) -> Mask:
    """Which rows that match have other match values, which only count as the same. Shape (paired,)."""
    out = np.zeros(len(paired), dtype=bool)
    for name in match:
        before, after = _picked(then(name), partners), _picked(now(name), paired)
        for at in _places_that_differ(before, after):
            out[at] = out[at] or not judge.same(name, before[at], after[at])
    return out


def _objects(values: Cells) -> Objects:
    return values if isinstance(values, np.ndarray) else np.fromiter(values, dtype=object, count=len(values))


def _picked(values: Cells, rows: Ints) -> Cells:
    if _are_all(rows, len(values)):
        return values
    return _objects(values)[rows]


def _is_same(parts: Stretches | None) -> bool:
    return parts is not None and next(parts, None) is None


def _cells_that_differ(parts: Stretches) -> Iterator[tuple[int, Any, Any]]:
    """Where two columns may differ, and what stands there in both."""
    for start, before, after in parts:
        for at in _places_that_differ(before, after):
            yield start + at, before[at], after[at]


def _places_that_differ(before: Cells, after: Cells) -> list[int]:
    """Where two lists may differ; nearly all places are told by one quick pass."""
    found: Mask = (_objects(before) != _objects(after)).astype(bool)
    kinds = set(map(type, before)) | set(map(type, after))
    if bool in kinds and len(kinds) > 1:
        # True equals 1, and is another value.
        found |= np.fromiter(map(_is_bool_once, before, after), dtype=bool, count=len(before))
    return np.flatnonzero(found).tolist()


def _is_bool_once(old: Any, new: Any) -> bool:
    return isinstance(old, bool) != isinstance(new, bool)
