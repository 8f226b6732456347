"""Comparisons of any two tables."""

from __future__ import annotations

import math
import re
from dataclasses import asdict, dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Query
from fastapi.responses import StreamingResponse
from pydantic import ValidationError

from tin_bucket.core.analysis.difference_size import Measure, Order, SizeFilter, Way
from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.engine.tables.compared_tables import ComparedTables
from tin_bucket.engine.tables.comparison_words import sentences
from tin_bucket.engine.tables.proposals import propose
from tin_bucket.engine.tables.row_choice import RowChoice, RowsShown
from tin_bucket.engine.tables.sides import Compared, Reading, Side, SideAt
from tin_bucket.feeds.comparison_page import write_page
from tin_bucket.feeds.formats.workbook import FORMAT as WORKBOOK
from tin_bucket.feeds.formats.workbook import SheetOf, write_sheets
from tin_bucket.web.cells import json_response, shown
from tin_bucket.web.context import Here, column_info, snapshot_info
from tin_bucket.web.downloads import Options, dated, download, download_as, format_of, new_file
from tin_bucket.web.models.compare import (
    ColumnChangeInfo,
    ComparingIn,
    ComparisonInfo,
    DifferenceGroupInfo,
    DifferenceGroupsInfo,
    DifferenceTotalsInfo,
    LikelyPairInfo,
    MatchProposalInfo,
    MergedWindow,
    OtherKind,
    OtherValue,
    ProposalsInfo,
    RenamedNow,
    SideInfo,
)

router = APIRouter(prefix="/api/compare")
_MOST_GROUPS = 100


def asked(
    then: Annotated[str, Query(max_length=300)],
    now: Annotated[str, Query(max_length=300)],
    reading: Reading = "today",
    query_id: int | None = None,
    by: Annotated[str, Query(max_length=20_000, description="a ComparingIn as JSON")] = "",
) -> Compared:
    """What is compared. A table is ``12``, the snapshot of that number; ``12@5``, that date of query 5, which starts
    from tables; ``sheet:Name``; or ``preview:3``, answers that are read as a draft of the query says."""
    how = _how(by)
    return Compared(
        _side(then, query_id),
        _side(now, query_id),
        reading,
        None if how.match is None else tuple(how.match),
        None if how.alike is None else tuple(how.alike),
        None if how.pairs is None else tuple((pair.then, pair.now) for pair in how.pairs),
    )


Asked = Annotated[Compared, Depends(asked)]


def _how(text: str) -> ComparingIn:
    try:
        return ComparingIn.model_validate_json(text) if text else ComparingIn()
    except ValidationError as error:
        raise ProblemError(validation_problem(error, "how they are compared")) from error


_REF = re.compile(r"(preview:)?([0-9]{1,15})(?:@([0-9]{1,15}))?")


def _side(ref: str, query_id: int | None) -> SideAt:
    if ref.startswith("sheet:") and len(ref) > len("sheet:"):
        return SideAt(sheet=ref.removeprefix("sheet:"))
    found = _REF.fullmatch(ref)
    if found is None:
        raise fail(
            "compared-unreadable",
            f"“{ref[:80]}” is no table.",
            where="comparison",
            do="Choose a date, a query or a sheet.",
        )
    preview, number, own = found.groups()
    query = int(own) if own else query_id
    return SideAt(preview=int(number), query_id=query) if preview else SideAt(int(number), query_id=query)


def _ref(at: SideAt) -> str:
    if at.sheet is not None:
        return f"sheet:{at.sheet}"
    return f"preview:{at.preview}" if at.preview is not None else str(at.snapshot)


def _side_info(at: SideAt, side: Side) -> SideInfo:
    return SideInfo(
        ref=_ref(at),
        name=side.name,
        query_id=side.query.id if side.query is not None else None,
        snapshot=snapshot_info(side.snapshot) if side.snapshot is not None else None,
        rows=side.table.height,
        columns=[one.name for one in side.columns],
    )


@router.get("")
def compare(here: Here, asked: Asked) -> ComparisonInfo:
    """What happened between two tables: two dates of a query, with the lines of today's brief, with those that each was
    made with, or with none; or any two others."""
    comparisons = here.engine.comparisons
    laid = comparisons.compare(asked)
    found = laid.found
    units = {column.name: column.unit for column in laid.now.columns}
    return ComparisonInfo(
        then=_side_info(asked.then, laid.then),
        now=_side_info(asked.now, laid.now),
        match=found.matched_by,
        lacking=found.lacking,
        alike=laid.rules,
        alike_cells=found.alike,
        renamed=[
            RenamedNow(then=old, now=new, by_hand=laid.by_hand.get(old) == new) for old, new in laid.renamed.items()
        ],
        other_kinds=[OtherKind(name=name, then=old, now=new) for name, old, new in laid.other_kinds],
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
        repeated_rows=len(found.repeated),
        asked_otherwise=[
            OtherValue(name=name, then=before, now=after)
            for name, before, after in comparisons.asked_otherwise(laid.then, laid.now)
        ],
        headings=[column_info(column) for column in laid.now.columns],
    )


@router.get("/proposals")
def proposals(here: Here, asked: Asked) -> ProposalsInfo:
    """What may make the comparison better: columns that tell the rows apart, and columns that look renamed."""
    found = propose(here.engine.comparisons.compare(asked))
    return ProposalsInfo(
        match=MatchProposalInfo(columns=found.match.columns, evidence=found.match.evidence) if found.match else None,
        renamed=[LikelyPairInfo(**asdict(one)) for one in found.renamed],
        other_key=found.other_key,
    )


@dataclass(frozen=True, slots=True)
class Chosen:
    """Which rows of a merged table are wanted."""

    asked: Compared
    choice: RowChoice


def chosen_rows(
    asked: Asked,
    show: RowsShown = "differs",
    column: str = "",
    way: Way = "any",
    least: Annotated[float, Query(ge=0, le=1e300)] = 0.0,
    measure: Measure = "amount",
    order: Order = "table",
    group: Annotated[str, Query(max_length=500)] = "",
    value: Annotated[str, Query(max_length=10_000)] = "",
    find: Annotated[str, Query(max_length=1000)] = "",
    sort: Annotated[str, Query(max_length=500)] = "",
    down: bool = False,
) -> Chosen:
    """All that differs, one state, or the rows that changed in one column; of these those that rose or fell by more
    than so much, or the largest difference first; of these those that have a value in a column; and of these those in
    which a text stands."""
    choice = RowChoice(show, column, SizeFilter(way, least, measure, order), group, value, find, sort, down)
    return Chosen(asked, choice)


Rows = Annotated[Chosen, Depends(chosen_rows)]


@router.get("/rows", response_model=MergedWindow)
def rows(here: Here, chosen: Rows, start: int = 0, count: int = 200) -> Any:
    """A window of the chosen rows of the merged table."""
    merged, total = here.engine.comparisons.window(chosen.asked, chosen.choice, max(0, start), min(max(0, count), 2000))
    told = [
        {
            "state": row.state, "now": _cells(row.now), "then": _cells(row.then),
            "changed": row.changed, "alike": row.alike,
        }
        for row in merged
    ]  # fmt: skip
    return json_response({"start": start, "total": total, "rows": told})


@router.get("/totals")
def totals(here: Here, asked: Asked, column: str) -> DifferenceTotalsInfo:
    """What the changes of a column of numbers come to, and how large they are."""
    found = here.engine.comparisons.totals(asked, column)
    then, now, came, went, changed = (
        one if math.isfinite(one) else None for one in (found.then, found.now, found.came, found.went, found.changed)
    )
    return DifferenceTotalsInfo(
        then=then, now=now, came=came, went=went, changed=changed,
        others=found.others, edges=found.edges, counts=found.counts,
    )  # fmt: skip


@router.get("/groups")
def groups(here: Here, chosen: Rows, grouped_by: str) -> DifferenceGroupsInfo:
    """The chosen rows that differ, counted by the values of a column."""
    found = here.engine.comparisons.groups(chosen.asked, chosen.choice, grouped_by)
    told = [
        DifferenceGroupInfo(value=shown(one.value), new=one.new, gone=one.gone, changed=one.changed)
        for one in found[:_MOST_GROUPS]
    ]
    return DifferenceGroupsInfo(groups=told, values=len(found))


@router.get("/table.{ending}", response_model=None)
def download_rows(here: Here, chosen: Rows, ending: str, options: Options) -> StreamingResponse:
    """The chosen rows as a file: what became of each, its cells, and of a changed one what they were."""
    writer = format_of(ending)
    one = chosen
    comparisons = here.engine.comparisons
    headings, found = comparisons.differing(one.asked, one.choice)
    laid = comparisons.compare(one.asked)
    name = laid.now.name
    file = new_file()
    writer.write(headings, found, file, name, options)
    part = one.choice.column or _PARTS[one.choice.show]
    return download(file, writer, f"{_sides(laid)}, {part}")


@router.get("/whole.{ending}", response_model=None)
def download_whole(here: Here, asked: Asked, ending: Literal["xlsx", "html"]) -> StreamingResponse:
    """All that differs: a workbook with a sheet for each kind of change and marked cells, or a page that stands
    alone."""
    comparisons = here.engine.comparisons
    laid = comparisons.compare(asked)
    kinds, told, title, file = comparisons.by_kind(asked), sentences(laid), _sides(laid), new_file()
    if ending == "xlsx":
        sheets = [SheetOf(one.kind.capitalize(), one.columns, one.rows, one.marks) for one in kinds]
        write_sheets(sheets, file, about=[("Comparison", title), *((f"{at}.", one) for at, one in enumerate(told, 1))])
        return download_as(file, WORKBOOK.media_type, f"{title}.xlsx")
    write_page(title, told, kinds, file)
    return download_as(file, "text/html; charset=utf-8", f"{title}.html")


def _sides(laid: ComparedTables) -> str:
    """The two tables in the name of a file."""
    old, new = (dated(side.snapshot) if side.snapshot is not None else "" for side in (laid.then, laid.now))
    if laid.then.name == laid.now.name and old and new:
        return f"{laid.now.name}, {old} to {new}"
    return f"{' '.join(filter(None, (laid.then.name, old)))} to {' '.join(filter(None, (laid.now.name, new)))}"


_PARTS: dict[RowsShown, str] = {
    "differs": "what differs",
    "all": "all rows",
    "same": "the same",
    "new": "new",
    "gone": "gone",
    "changed": "changed",
    "alike": "alike",
    "repeated": "repeated match values",
}


def _cells(row: tuple[Any, ...] | None) -> list[Any] | None:
    return None if row is None else [shown(value) for value in row]
