"""Comparisons of two snapshots of a query."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query
from fastapi.responses import StreamingResponse

from tin_bucket.core.analysis.difference_size import Measure, Order, SizeFilter, Way
from tin_bucket.engine.tables.comparisons import Reading, RowChoice, RowsShown
from tin_bucket.web.cells import json_response, shown
from tin_bucket.web.context import Here, column_info, snapshot_info
from tin_bucket.web.downloads import Options, dated, download, format_of, new_file
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


@dataclass(frozen=True, slots=True)
class Chosen:
    """Which rows of a merged table are wanted."""

    then: int
    now: int
    reading: Reading
    query_id: int | None
    choice: RowChoice


def chosen_rows(
    then: int,
    now: int,
    show: RowsShown = "differs",
    column: str = "",
    reading: Reading = "today",
    query_id: int | None = None,
    way: Way = "any",
    least: Annotated[float, Query(ge=0, le=1e300)] = 0.0,
    measure: Measure = "amount",
    order: Order = "table",
    find: Annotated[str, Query(max_length=1000)] = "",
) -> Chosen:
    """All that differs, one state, or the rows that changed in one column; of these those that rose or fell by more
    than so much, or the largest difference first; and of these those in which a text stands."""
    choice = RowChoice(show, column, SizeFilter(way, least, measure, order), find)
    return Chosen(then, now, reading, query_id, choice)


Rows = Annotated[Chosen, Depends(chosen_rows)]


@router.get("/rows", response_model=MergedWindow)
def rows(here: Here, chosen: Rows, start: int = 0, count: int = 200) -> Any:
    """A window of the chosen rows of the merged table."""
    one = chosen
    merged, total = here.engine.comparisons.window(
        one.then, one.now, one.choice, max(0, start), min(max(0, count), 2000), one.reading, one.query_id
    )
    told = [
        {"state": row.state, "now": _cells(row.now), "then": _cells(row.then), "changed": row.changed} for row in merged
    ]
    return json_response({"start": start, "total": total, "rows": told})


@router.get("/table.{ending}", response_model=None)
def download_rows(here: Here, chosen: Rows, ending: str, options: Options) -> StreamingResponse:
    """The chosen rows as a file: what became of each, its cells, and of a changed one what they were."""
    writer = format_of(ending)
    one = chosen
    headings, found = here.engine.comparisons.differing(one.then, one.now, one.reading, one.query_id, one.choice)
    old, new = here.workspace.snapshots.get(one.then), here.workspace.snapshots.get(one.now)
    name = here.workspace.queries.get(new.query_id if one.query_id is None else one.query_id).name
    file = new_file()
    writer.write(headings, found, file, name, options)
    part = one.choice.column or _PARTS[one.choice.show]
    return download(file, writer, f"{name}, {dated(old)} to {dated(new)}, {part}")


_PARTS: dict[RowsShown, str] = {
    "differs": "what differs",
    "all": "all rows",
    "same": "the same",
    "new": "new",
    "gone": "gone",
    "changed": "changed",
}


def _cells(row: tuple[Any, ...] | None) -> list[Any] | None:
    return None if row is None else [shown(value) for value in row]
