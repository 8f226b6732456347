"""Tables, kept or only looked at: windows, search, a column at a glance, the provenance of a cell, downloads."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.analysis.view import View
from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.document.start import StartTables
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.fan_out_columns import FAN_OUT_ORIGIN
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.core.work_out.registry import WorkOutLine
from tin_bucket.engine.tables.formulas import formula_cells
from tin_bucket.engine.tables.proposals import match_proposal
from tin_bucket.engine.tables.provenance import Provenance, trace_preview, trace_snapshot
from tin_bucket.engine.tables.sides import brief_then
from tin_bucket.engine.tables.worked_provenance import Origin, origin_of
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.web.cells import json_response, shown, shown_rows
from tin_bucket.web.context import Context, Here, column_info, kept_preview
from tin_bucket.web.downloads import Options, dated, download, format_of, new_file
from tin_bucket.web.models.compare import MatchProposalInfo
from tin_bucket.web.models.table import (
    CellIn,
    ColumnIn,
    ColumnInfo,
    EarlierInfo,
    ExcerptInfo,
    FindIn,
    FindOut,
    FormulasInfo,
    FrequentInfo,
    FromInfo,
    InputInfo,
    ProfileInfo,
    ReadThen,
    RowsIn,
    RowsOut,
    RowWindow,
    TableRef,
    Trace,
    TypeGuessInfo,
    ValuesOut,
    WorkedInfo,
)

router = APIRouter()
MOST_VALUES = 50_000  # Of a column, told at once.
_table = APIRouter(prefix="/api/table")
_snapshot = APIRouter(prefix="/api/snapshots/{snapshot_id}")


@_table.post("/rows", response_model=RowsOut)
def rows(here: Here, body: RowsIn) -> Any:
    """A window of a table as it is sorted and filtered."""
    tables = here.engine.tables
    with tables.open(body.at()) as source:
        found, numbers, total = tables.rows(source, body.view, body.start, body.count)
    return json_response({"start": body.start, "total": total, "numbers": numbers.tolist(), "rows": shown_rows(found)})


@_table.post("/find")
def find(here: Here, body: FindIn) -> FindOut:
    """The cells in which a text stands."""
    tables = here.engine.tables
    with tables.open(body.at()) as source:
        cells, total = tables.find(source, body.view, body.text)
    return FindOut(total=total, cells=[list(cell) for cell in cells])


@_table.post("/profile")
def profile(here: Here, body: ColumnIn) -> ProfileInfo:
    """A column at a glance, and what its values may mean."""
    tables = here.engine.tables
    with tables.open(body.at()) as source:
        found = tables.profile(source, body.column, body.view)
    return ProfileInfo(
        rows=found.rows,
        filled=found.filled,
        empty_texts=found.empty_texts,
        nulls=found.nulls,
        missed=found.missed,
        distinct=found.distinct,
        capped=found.capped,
        lowest=shown(found.lowest),
        highest=shown(found.highest),
        mean=found.mean,
        frequent=_counted(found.frequent),
        strays=_counted(found.strays),
        empties=_counted(found.empties),
        longest=found.longest,
        guesses=[
            TypeGuessInfo(
                kind=one.kind, reads=one.reads, evidence=one.evidence, before=one.example[0], after=one.example[1]
            )
            for one in found.guesses
        ],
    )


@_table.post("/values")
def values(here: Here, body: ColumnIn) -> ValuesOut:
    """Every value of a column among the rows that are seen, with how often it comes."""
    tables = here.engine.tables
    with tables.open(body.at()) as source:
        found = tables.values(source, body.column, body.view)
    return ValuesOut(
        rows=found.rows,
        empty=found.none + found.missed,
        distinct=len(found.counts),
        capped=found.capped,
        values=_counted(found.most_common(MOST_VALUES)),
    )


def _counted(pairs: Iterable[tuple[Any, int]]) -> list[FrequentInfo]:
    return [FrequentInfo(value=_short(value), count=times) for value, times in pairs]


def _short(value: Any) -> Any:
    return shown(value[:200] if isinstance(value, str) else value)


@_table.post("/match-proposal")
def proposed_match(here: Here, body: TableRef) -> MatchProposalInfo | None:
    """The columns that tell the rows of a table apart; nothing where none do."""
    with here.engine.tables.open(body.at()) as source:
        found = match_proposal(source)
    return MatchProposalInfo(columns=found.columns, evidence=found.evidence) if found is not None else None


@_table.post("/trace")
def trace(here: Here, body: CellIn) -> Trace:
    """Where a cell came from: call, page, and the place in its answer."""
    if not body.lines and body.starts_from is None:
        return _stored(here, body.snapshot, body.preview, body.row, body.column, body.row)
    with here.workspace.read_together():
        found = origin_of(here.workspace, here.engine.tables, body.at(), body.row, body.column)
    if not found.stored:
        return _worked(found, body.row)
    preview = body.preview if found.snapshot is None else None
    told = _stored(here, found.snapshot, preview, found.row, found.column, body.row)
    return told.model_copy(update={"through": found.through})


def _stored(here: Context, snapshot: int | None, preview: int | None, row: int, column: int, shown_row: int) -> Trace:
    """Where a cell came from that is stored, or was read for a look."""
    if preview is not None:
        kept = kept_preview(here, preview)
        return _told(trace_preview(here.engine.rereader, here.workspace, kept, row, column), shown_row)
    return _told(trace_snapshot(here.workspace, snapshot or 0, row, column), shown_row)


def _worked(found: Origin, row: int) -> Trace:
    """Where a cell came from that is stored nowhere: a line made it, or it is of a sheet."""
    made = found.worked
    return Trace(
        column=found.name, kind="", value=shown(found.value), row=row, run_id=None, call=None, calls=0,
        call_number=None, label="", address="", sent="", ms=0, source="worked out", kept=True, from_memory=False,
        pointer=None, state="", excerpt=None, steps=[], made_with=[], history=[], through=found.through,
        worked=WorkedInfo(
            line=made.line, sentence=made.sentence, expression=made.expression, behind=made.behind,
            inputs=[InputInfo(name=one.name, value=shown(one.value)) for one in made.inputs],
        )
        if made
        else None,
    )  # fmt: skip


def _told(found: Provenance, row: int) -> Trace:
    heading, source = found.heading, found.source
    excerpt = source.excerpt if source is not None else None
    return Trace(
        column=heading.name,
        kind=heading.kind,
        value=shown(found.value),
        row=row,
        run_id=found.run_id,
        call=found.number,
        calls=found.calls,
        call_number=found.call_number,
        label=found.label,
        address=found.address,
        sent=found.sent,
        ms=round(found.seconds * 1000),
        source="page" if heading.origin == "taken" else heading.origin,
        kept=source is not None or heading.origin == FAN_OUT_ORIGIN,
        from_memory=found.from_memory,
        pointer=source.pointer if source is not None else None,
        state=source.state if source is not None else "",
        excerpt=ExcerptInfo(before=shown(excerpt.before), lit=shown(excerpt.lit), after=shown(excerpt.after))
        if excerpt
        else None,
        steps=source.steps if source is not None else [],
        made_with=[FromInfo(column=one.column, name=one.name, value=shown(one.value)) for one in found.made_with],
        history=[
            EarlierInfo(snapshot=snapshot.id, taken=snapshot.taken, value=shown(value))
            for snapshot, value in found.history
        ],
    )


# Snapshots -----------------------------------------------------------------------------------------------------------


@_snapshot.get("/columns")
def columns(here: Here, snapshot_id: int) -> list[ColumnInfo]:
    """A snapshot's headings."""
    return [column_info(column) for column in here.workspace.snapshots.get(snapshot_id).columns]


@_snapshot.get("/then")
def read_then(here: Here, snapshot_id: int, query_id: int | None = None) -> ReadThen:
    """How the brief that a snapshot was made with reads it; of a query that starts from tables, its brief of that
    date."""
    snapshot = here.workspace.snapshots.get(snapshot_id)
    brief = brief_then(here.workspace, snapshot, here.workspace.queries.get(query_id or snapshot.query_id))
    return ReadThen(lines=brief.work_out, start=brief.start)


@_snapshot.get("/rows", response_model=RowWindow)
def snapshot_rows(here: Here, snapshot_id: int, start: int = 0, count: int = 200) -> Any:
    """A window of a snapshot's rows."""
    found = here.workspace.snapshots.window(snapshot_id, max(0, start), max(0, min(count, 2000)))
    return json_response({"start": start, "rows": shown_rows(found)})


@_snapshot.get("/formulas")
def formulas(here: Here, snapshot_id: int) -> FormulasInfo:
    """What a workbook would take for formulas if this table came to it as CSV."""
    found, more = formula_cells(here.workspace.snapshots, snapshot_id)
    return FormulasInfo(cells=found.cells, more=more, columns=found.columns, example=found.example[:80])


@_snapshot.get("/table.{ending}", response_model=None)
def download_snapshot(
    here: Here,
    snapshot_id: int,
    ending: str,
    options: Options,
    view: str = "",
    lines: str = "",
    query_id: int | None = None,
    starts_from: str = "",
) -> StreamingResponse:
    """A snapshot's table as a file: all of it, or as somebody looks at it, with work-out lines done to it."""
    snapshot = here.workspace.snapshots.get(snapshot_id)
    start = _start(starts_from)
    own = snapshot.query_id if start is None or query_id is None else query_id
    name = here.workspace.queries.get(own).name
    seen = _view(view)
    part = "" if seen.plain else ", as seen"
    title = f"{name} {dated(snapshot)}{part}"
    table = TableRef(snapshot=snapshot_id, query_id=query_id, starts_from=start, lines=_lines(lines))
    return _file(here, table, seen, ending, name, title, options)


@router.get("/api/queries/{query_id}/table.{ending}", response_model=None)
def download_undated(
    here: Here, query_id: int, ending: str, options: Options, view: str = "", lines: str = "", starts_from: str = ""
) -> StreamingResponse:
    """The table of a query that starts from tables without a date, such as sheets, as a file."""
    query = here.workspace.queries.get(query_id)
    start = _start(starts_from) or query.brief.start
    if start is None:
        raise fail("table-missing", f"“{query.name}” has no table yet.", where="export", do="Refresh it first.")
    seen = _view(view)
    title = f"{query.name} {here.engine.clock.today()}{'' if seen.plain else ', as seen'}"
    table = TableRef(query_id=query_id, starts_from=start, lines=_lines(lines))
    return _file(here, table, seen, ending, query.name, title, options)


@router.get("/api/previews/{number}/table.{ending}", response_model=None)
def download_preview(
    here: Here, number: int, ending: str, query_id: int, options: Options, view: str = "", lines: str = ""
) -> StreamingResponse:
    """The table of answers that are read as a draft says, as a file, with or without how it is looked at."""
    preview = kept_preview(here, number)
    name = preview.brief.name
    if preview.partial:
        # The screen may have its first records alone.
        number = here.engine.reread(query_id, preview.brief, number, None) or number
    what = "one call" if preview.run_id is None else "read anew"
    title = f"{name} {preview.asked[:10]}, {what}"
    table = TableRef(preview=number, query_id=query_id, lines=_lines(lines))
    return _file(here, table, _view(view), ending, name, title, options)


def _view(text: str) -> View:
    try:
        return View.model_validate_json(text) if text else View()
    except ValidationError as error:
        raise fail(
            "request-unreadable", "How the table is seen cannot be read.", where="export", do="Reload the page."
        ) from error


_LINES: TypeAdapter[list[LineModel]] = TypeAdapter(list[WorkOutLine])


def _lines(text: str) -> list[LineModel]:
    try:
        return _LINES.validate_json(text) if text else []
    except ValidationError as error:
        raise ProblemError(validation_problem(error, "the lines")) from error


def _start(text: str) -> StartTables | None:
    try:
        return StartTables.model_validate_json(text) if text else None
    except ValidationError as error:
        raise ProblemError(validation_problem(error, "the tables that it starts from")) from error


def _file(
    here: Context, table: TableRef, view: View, ending: str, name: str, title: str, options: ExportOptions
) -> StreamingResponse:
    """A table as it is looked at, as a file with a title."""
    writer = format_of(ending)
    tables = here.engine.tables
    file = new_file()
    with tables.open(table.at()) as source:
        whole = table.preview is None and view.plain and not table.lines and table.starts_from is None
        rows = here.workspace.snapshots.all_rows(table.snapshot or 0) if whole else tables.all_rows(source, view)
        writer.write(source.columns, rows, file, name, options)
    return download(file, writer, title)


router.include_router(_table)
router.include_router(_snapshot)
