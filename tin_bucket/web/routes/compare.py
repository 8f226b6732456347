"""Comparisons of two snapshots of a query."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from tin_bucket.core.analysis.difference_size import Measure, Order, SizeFilter, Way
from tin_bucket.engine.tables.comparisons import Reading, RowsShown
from tin_bucket.web.cells import json_response, shown
from tin_bucket.web.context import Here, column_info, snapshot_info
from tin_bucket.web.models.table import ColumnChangeInfo, ComparisonInfo, MergedWindow, OtherValue

router = APIRouter(prefix="/api/compare")


@router.get("")
def compare(here: Here, then: int, now: int, reading: Reading = "today", query_id: int | None = None) -> ComparisonInfo:
    """What happened between two snapshots, with the lines of today's brief, with those that each was made with, or
    with none."""
    comparisons = here.engine.comparisons
    old, new, found = comparisons.compare(then, now, reading, query_id)
    units = {column.name: column.unit for column in new.columns}
    return ComparisonInfo(
        then=snapshot_info(old.snapshot),
        now=snapshot_info(new.snapshot),
        rows_then=old.table.height,
        rows_now=new.table.height,
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
        asked_otherwise=[
            OtherValue(name=name, then=before, now=after)
            for name, before, after in (
                comparisons.asked_otherwise(old.snapshot, new.snapshot) if query_id is None else []
            )
        ],
        headings=[column_info(column) for column in new.columns],
    )


@router.get("/rows", response_model=MergedWindow)
def rows(
    here: Here,
    then: int,
    now: int,
    show: RowsShown = "differs",
    column: str = "",
    start: int = 0,
    count: int = 200,
    reading: Reading = "today",
    query_id: int | None = None,
    way: Way = "any",
    least: Annotated[float, Query(ge=0, le=1e300)] = 0.0,
    measure: Measure = "amount",
    order: Order = "table",
) -> Any:
    """A window of the merged table: all that differs, one state, or the rows that changed in one column; of these
    those that rose or fell by more than so much, or the largest difference first."""
    merged, total = here.engine.comparisons.window(
        then, now, show, column, max(0, start), min(max(0, count), 2000), reading, query_id,
        SizeFilter(way, least, measure, order),
    )  # fmt: skip
    told = [
        {"state": row.state, "now": _cells(row.now), "then": _cells(row.then), "changed": row.changed} for row in merged
    ]
    return json_response({"start": start, "total": total, "rows": told})


def _cells(row: tuple[Any, ...] | None) -> list[Any] | None:
    return None if row is None else [shown(value) for value in row]
