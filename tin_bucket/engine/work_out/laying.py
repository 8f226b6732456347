"""Lays any two tables over each other."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.analysis.compare import PLAIN, Comparison, compare, difference
from tin_bucket.core.analysis.compare_columns import compare_columns
from tin_bucket.store.snapshots import Snapshots

from .source import KeptTable, RenamedTable, TableSource, all_values, rows_of

_LONG = 20_000  # Rows of both from which they are compared column by column.


def lay(
    snapshots: Snapshots, then: TableSource, now: TableSource, match: list[str], judge: Judge = PLAIN
) -> Comparison:
    """Lay two tables over each other: two dates of a query by the ids of their rows, so that only what differs is
    read.

    Args:
        match: the columns that say which row is which.
        judge: what counts as the same.
    """
    if not isinstance(then, KeptTable) or not isinstance(now, KeptTable):
        return compare_tables(then, now, match, judge)
    if then.snapshot.query_id != now.snapshot.query_id:
        return compare_tables(then, now, match, judge)
    return snapshots.compare(then.snapshot.id, now.snapshot.id, match, judge)


def compare_tables(then: TableSource, now: TableSource, match: list[str], judge: Judge = PLAIN) -> Comparison:
    """Lay two tables over each other that have no rows' ids in common: by columns where these are at hand, else by
    rows that are read, of which equal ones get equal numbers.

    Args:
        match: the columns that say which row is which.
        judge: what counts as the same.
    """
    then_names, now_names = ([column.name for column in table.columns] for table in (then, now))
    if then.height + now.height > _LONG and _by_columns(then) and _by_columns(now):
        found = compare_columns(
            lambda name: all_values(then, name), lambda name: all_values(now, name),
            then_names, sorted(now_names), match, judge, lambda name: _stretches(then, now, name),
        )  # fmt: skip
        if found is not None:
            return found
    then_order, now_order = (sorted(range(len(names)), key=names.__getitem__) for names in (then_names, now_names))
    then_rows = [tuple([row[at] for at in then_order]) for row in rows_of(then)]
    now_rows = [tuple([row[at] for at in now_order]) for row in rows_of(now)]
    known: dict[tuple[object, ...], int] = {}
    then_ids, now_ids = (
        np.fromiter((known.setdefault(row, len(known)) for row in rows), dtype=np.int64, count=len(rows))
        for rows in (then_rows, now_rows)
    )
    if sorted(then_names) != sorted(now_names):
        # Rows of other columns are other rows, whatever stands in them.
        now_ids = now_ids + len(known)
    split = difference(then_ids, now_ids)
    return compare(
        then_ids, now_ids, split,
        [then_rows[at] for at in split.only_then.tolist()], [now_rows[at] for at in split.only_now.tolist()],
        sorted(then_names), sorted(now_names), match, judge,
    )  # fmt: skip


def _stretches(
    then: TableSource, now: TableSource, name: str
) -> Iterator[tuple[int, Sequence[Any], Sequence[Any]]] | None:
    """Where a column may differ row for row, as far as that is known without reading all of it."""
    (old, own), (new, other) = _inner(then, name), _inner(now, name)
    if not isinstance(old, KeptTable) or not isinstance(new, KeptTable):
        return None
    return old.stretches_that_differ(own, new, other)


def _inner(table: TableSource, name: str) -> tuple[TableSource, str]:
    return (table.inner, table.own_name(name)) if isinstance(table, RenamedTable) else (table, name)


def _by_columns(table: TableSource) -> bool:
    """Whether each column is read without all the others."""
    if isinstance(table, RenamedTable):
        return _by_columns(table.inner)
    return not isinstance(table, KeptTable) or all(table.has_copy(one.name) for one in table.columns[:1])
