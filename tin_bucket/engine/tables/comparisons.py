"""Comparisons of two snapshots of a query, and windows of the merged table."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.compare import CHANGED, GONE, SAME, STATES, Comparison
from tin_bucket.core.document.made_with import other_values
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

_KEPT = 16
_WORDS = {number: word for word, number in STATES.items()}


@dataclass(frozen=True, slots=True)
class MergedRow:
    """A row of the merged table: its state, its cells now and then, and the numbers of the columns that changed."""

    state: str
    now: tuple[Any, ...] | None
    then: tuple[Any, ...] | None
    changed: list[int]


class Comparisons:
    """Compares snapshots; the latest comparisons are kept, each for just the contents that it is of."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._kept: LockedCache[tuple[int, int, int, int], Comparison] = LockedCache(_KEPT)

    def compare(self, then_id: int, now_id: int) -> tuple[Snapshot, Snapshot, Comparison]:
        """The two snapshots and what happened between them.

        Raises:
            ProblemError: ``snapshot-unknown`` or ``snapshots-apart``.
        """
        with self._workspace.read_together():
            then, now = self._workspace.snapshots.get(then_id), self._workspace.snapshots.get(now_id)
            found = self._kept.get_or_make(
                (then_id, then.version, now_id, now.version),
                lambda: self._workspace.snapshots.compare(then_id, now_id),
            )
            return then, now, found

    def window(
        self, then_id: int, now_id: int, show: str, column: str, start: int, count: int
    ) -> tuple[list[MergedRow], int]:
        """Some rows of the merged table, and how many there are of the chosen ones.

        Args:
            show: ``all``, ``differs`` or one of :data:`core.analysis.compare.STATES`.
            column: the rows that changed in this column alone; all when empty.
        """
        snapshots = self._workspace.snapshots
        with self._workspace.read_together():
            old, new, found = self.compare(then_id, now_id)
            chosen = _chosen(found, show, column)
            window = chosen[start : start + count]
            states, now_at, then_at = found.state[window], found.now_row[window], found.then_row[window]
            needs_then = (states == GONE) | (states == CHANGED)
            now_rows = iter(snapshots.rows_at(now_id, now_at[now_at >= 0]))
            then_rows = iter(_in_order(new, old, snapshots.rows_at(then_id, then_at[needs_then])))
        places = {heading.name: index for index, heading in enumerate(new.columns)}
        merged = [
            MergedRow(
                _WORDS[state],
                next(now_rows) if position >= 0 else None,
                next(then_rows) if older else None,
                [places[name] for name in found.changed_in.get(position, ())] if state == CHANGED else [],
            )
            for state, position, older in zip(states.tolist(), now_at.tolist(), needs_then.tolist(), strict=True)
        ]
        return merged, len(chosen)

    def asked_otherwise(self, then: Snapshot, now: Snapshot) -> list[tuple[str, Given, Given]]:
        """Parameters with another value then than now. Dates move with the calendar and are no news."""
        runs = self._workspace.runs
        old, new = runs.get(then.run_id).bindings, runs.get(now.run_id).bindings
        parameters = self._workspace.queries.get(now.query_id).brief.parameters
        return [(name, old.get(name), new.get(name)) for name in other_values(parameters, old, new)]


def _in_order(new: Snapshot, old: Snapshot, found: list[tuple[Any, ...]]) -> list[tuple[Any, ...]]:
    """Older rows in the order of the newer table's columns; a column that the older one lacks is empty."""
    at = {column.name: index for index, column in enumerate(old.columns)}
    order = [at.get(column.name) for column in new.columns]
    return [tuple([None if index is None else row[index] for index in order]) for row in found]


def _chosen(found: Comparison, show: str, column: str) -> Ints:
    """The merged rows to show, as their indices. Shape (chosen,)."""
    if column:
        changed = [position for position, names in found.changed_in.items() if column in names]
        mask = (found.state == CHANGED) & np.isin(found.now_row, np.array(changed, dtype=np.int64))
    elif show == "all":
        mask = np.ones(len(found.state), dtype=bool)
    elif show in STATES:
        mask = found.state == STATES[show]
    else:
        mask = found.state != SAME
    return np.flatnonzero(mask).astype(np.int64)
