"""Comparisons of two snapshots of a query."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Any

import numpy as np
from fastapi import APIRouter

from tin_bucket.core.analysis.compare import CHANGED, GONE, SAME, STATES, Comparison
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.store.snapshots import Snapshot
from tin_bucket.web.cells import json_response, shown_rows
from tin_bucket.web.context import Context, Here, column_info, snapshot_info
from tin_bucket.web.models.table import ColumnChangeInfo, ComparisonInfo, MergedWindow, OtherValue

router = APIRouter(prefix="/api/compare")
_WORDS = {number: word for word, number in STATES.items()}
# Snapshots never change, so a comparison of two of them is the same for ever.
_kept: OrderedDict[tuple[str, int, int], Comparison] = OrderedDict()
_lock = Lock()


@router.get("")
def compare(here: Here, then: int, now: int) -> ComparisonInfo:
    """What happened between two snapshots."""
    old, new = here.workspace.snapshots.get(then), here.workspace.snapshots.get(now)
    found = _comparison(here, then, now)
    units = {column.name: column.unit for column in new.columns}
    return ComparisonInfo(
        then=snapshot_info(old),
        now=snapshot_info(new),
        match=new.match,
        counts=found.counts(),
        columns=[
            ColumnChangeInfo(
                name=change.name,
                unit=units.get(change.name, ""),
                cells=change.cells,
                rose=change.rose,
                fell=change.fell,
                mean=change.mean,
            )
            for change in found.columns
        ],
        new_columns=found.new_columns,
        gone_columns=found.gone_columns,
        repeated_keys=found.repeated_keys,
        asked_otherwise=_asked_otherwise(here, old, new),
        headings=[column_info(column) for column in new.columns],
    )


def _asked_otherwise(here: Context, old: Snapshot, new: Snapshot) -> list[OtherValue]:
    """Parameters with another value then than now. Dates move with the calendar and are no news."""
    runs = here.workspace.runs
    then, now = runs.get(old.run_id).bindings, runs.get(new.run_id).bindings
    query = here.workspace.queries.get(new.query_id)
    dates = {parameter.name for parameter in query.brief.parameters if parameter.kind == "date"}
    return [
        OtherValue(name=name, then=then.get(name), now=now.get(name))
        for name in dict.fromkeys([*then, *now])
        if name not in dates and then.get(name) != now.get(name)
    ]


@router.get("/rows", response_model=MergedWindow)
def rows(
    here: Here, then: int, now: int, show: str = "differs", column: str = "", start: int = 0, count: int = 200
) -> Any:
    """A window of the merged table: all that differs, one state, or the rows that changed in one column."""
    found = _comparison(here, then, now)
    chosen = _chosen(found, show, column)
    window = chosen[max(0, start) : max(0, start) + min(count, 2000)]
    snapshots = here.workspace.snapshots
    old, new = snapshots.get(then), snapshots.get(now)
    states = found.state[window]
    now_at, then_at = found.now_row[window], found.then_row[window]
    wants_then = (states == GONE) | (states == CHANGED)
    now_rows = iter(shown_rows(snapshots.rows_at(now, now_at[now_at >= 0])))
    then_rows = iter(shown_rows(_in_order(new, old, snapshots.rows_at(then, then_at[wants_then]))))
    places = {heading.name: index for index, heading in enumerate(new.columns)}
    merged = []
    for state, position, older in zip(states.tolist(), now_at.tolist(), wants_then.tolist(), strict=True):
        merged.append(
            {
                "state": _WORDS[state],
                "now": next(now_rows) if position >= 0 else None,
                "then": next(then_rows) if older else None,
                "changed": [places[name] for name in found.changed_in.get(position, ())] if state == CHANGED else [],
            }
        )
    return json_response({"start": start, "total": len(chosen), "rows": merged})


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


def _comparison(here: Context, then: int, now: int) -> Comparison:
    key = (str(here.workspace.path), then, now)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    found = here.workspace.snapshots.compare(then, now)
    with _lock:
        _kept[key] = found
        while len(_kept) > 16:
            _kept.popitem(last=False)
    return found
