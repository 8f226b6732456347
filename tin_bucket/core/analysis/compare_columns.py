"""The same as :mod:`compare` for two long tables that have no rows' ids in common: column after column, so that never
more than one column of each is in memory."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from operator import ne
from typing import Any

import numpy as np
import numpy.typing as npt

from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.table.row_expansion import Ints

from .compare import ALIKE, CHANGED, NEW, PLAIN, SAME, ColumnChange, Comparison, count_change, merge

Values = Callable[[str], Sequence[Any]]
Mask = npt.NDArray[np.bool_]


def compare_columns(
    then_values: Values,
    now_values: Values,
    then_columns: Sequence[str],
    now_columns: Sequence[str],
    match: Sequence[str],
    judge: Judge = PLAIN,
) -> Comparison | None:
    """Lay two tables over each other by their match columns.

    Args:
        then_values, now_values: give the values of a column, one for each row.
        then_columns, now_columns: the names of the columns, in the order in which changes are told.
        match: the columns that say which row is which.

    Returns:
        Nothing where a table lacks a match column, there is none, or one match value stands for several rows: then the
        rows themselves have to be looked at.
    """
    shared = set(then_columns) & set(now_columns)
    if not match or not set(match) <= shared:
        return None
    then_keys, now_keys = _keys(then_values, match, judge), _keys(now_values, match, judge)
    place = dict(zip(then_keys, range(len(then_keys)), strict=True))
    if len(place) < len(then_keys) or len(set(now_keys)) < len(now_keys):
        return None
    get = place.get
    then_of_now = np.fromiter((get(key, -1) for key in now_keys), dtype=np.int64, count=len(now_keys))
    del place, get
    now_of_then = np.full(len(then_keys), -1, dtype=np.int64)
    paired = np.flatnonzero(then_of_now >= 0)
    partners = then_of_now[paired]
    now_of_then[partners] = paired
    state = np.where(then_of_now >= 0, SAME, NEW).astype(np.int8)
    near_key = _differs(match, then_values, now_values, partners, paired, judge)
    state[paired[near_key]] = ALIKE
    del then_keys, now_keys
    changed_in: dict[int, list[str]] = {}
    alike_in: dict[int, list[str]] = {}
    alikes: dict[str, int] = {}
    changes = []
    for name in [name for name in now_columns if name in shared and name not in match]:
        before, after = _picked(then_values(name), partners), _picked(now_values(name), paired)
        change, alike = ColumnChange(name), judge.alike(name)
        for at in _places_that_differ(before, after):
            old, new = before[at], after[at]
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


def _picked(values: Sequence[Any], rows: Ints) -> Sequence[Any]:
    if len(rows) == len(values) and bool((rows == np.arange(len(rows))).all()):
        return values
    return list(map(values.__getitem__, rows.tolist()))


def _places_that_differ(before: Sequence[Any], after: Sequence[Any]) -> list[int]:
    """Where two lists may differ; nearly all places are told by one quick pass."""
    found = np.fromiter(map(ne, before, after), dtype=bool, count=len(before))
    kinds = set(map(type, before)) | set(map(type, after))
    if bool in kinds and len(kinds) > 1:
        # True equals 1, and is another value.
        found |= np.fromiter(map(_is_bool_once, before, after), dtype=bool, count=len(before))
    return np.flatnonzero(found).tolist()


def _is_bool_once(old: Any, new: Any) -> bool:
    return isinstance(old, bool) != isinstance(new, bool)
