"""Work-out lines: what they do to a table, and the first values of an expression while it is typed."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Any

from fastapi import APIRouter, Request
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.work_out.expression.mistake import ExpressionError
from tin_bucket.core.work_out.line import LineModel, Word
from tin_bucket.core.work_out.registry import WorkOutLine
from tin_bucket.core.work_out.statement import own_functions
from tin_bucket.core.work_out.steps import Source
from tin_bucket.engine.tables.browse import TableAt
from tin_bucket.engine.work_out.matching import matching
from tin_bucket.engine.work_out.offers import offers
from tin_bucket.engine.work_out.sample import sample
from tin_bucket.engine.work_out.stage import Stage
from tin_bucket.engine.work_out.work import LineDone, statement_of
from tin_bucket.web.cells import shown, shown_rows
from tin_bucket.web.context import Context, Here, column_info, problem_info
from tin_bucket.web.models.table import ColumnInfo
from tin_bucket.web.models.work_out import (
    LineInfo,
    MatchInfo,
    NoteInfo,
    OfferInfo,
    OtherIn,
    OtherInfo,
    SampleIn,
    SampleInfo,
    TableNameInfo,
    WordInfo,
    WorkOutIn,
    WorkOutInfo,
)
from tin_bucket.web.wanted import while_wanted

router = APIRouter(prefix="/api/work-out")
_LINE: TypeAdapter[LineModel] = TypeAdapter(WorkOutLine)


@router.post("")
async def work_out(here: Here, request: Request, body: WorkOutIn) -> WorkOutInfo:
    """Do lines to a table. It stops when the page that asked is left."""
    lines, broken = _read(body.lines)
    at = _at(body, lines)

    def work(stop: Any) -> WorkOutInfo:
        with here.workspace.read_together():
            first, done = here.engine.tables.worked(at, stop)
            return _told(here, body, lines, broken, first, done)

    return await while_wanted(request, work)


@router.post("/sample")
async def first_values(here: Here, request: Request, body: SampleIn) -> SampleInfo:
    """The first values of an expression, behind some lines."""
    lines, _ = _read(body.lines)

    def work(stop: Any) -> SampleInfo:
        with here.workspace.read_together():
            first, done = here.engine.tables.worked(_at(body, lines), stop)
            stage = done[-1].stage if done else first
            try:
                found = sample(stage, body.expression)
            except ExpressionError as error:
                return SampleInfo(values=[], inputs=[], rows=[], problem=problem_info(error.problem),
                                  start=error.start, end=error.end)  # fmt: skip
            except ProblemError as error:
                return SampleInfo(
                    values=[], inputs=[], rows=[], problem=problem_info(error.problem), start=None, end=None
                )
        values = [shown(value) for value in found.values]
        return SampleInfo(
            values=values, inputs=found.inputs, rows=shown_rows(found.rows), problem=None, start=None, end=None
        )

    return await while_wanted(request, work)


@router.post("/offers")
async def offered(here: Here, request: Request, body: WorkOutIn) -> list[OfferInfo]:
    """Lines that the values of a table suggest, behind the lines that are there."""
    lines, _ = _read(body.lines)

    def work(stop: Any) -> list[OfferInfo]:
        with here.workspace.read_together():
            first, done = here.engine.tables.worked(_at(body, lines), stop)
            return [OfferInfo(**asdict(one)) for one in offers(done[-1].stage if done else first)]

    return await while_wanted(request, work)


@router.get("/tables")
def tables(here: Here) -> list[TableNameInfo]:
    """The tables that can be brought in."""
    out = []
    for query in here.workspace.queries.all():
        dates = here.engine.tables.work_out.timeline(query)
        rows, taken = (dates[-1].rows, dates[-1].taken) if dates else (0, None)
        out.append(TableNameInfo(query=query.name, query_id=query.id, sheet=None, rows=rows, taken=taken))
    for sheet in here.workspace.sheets.all():
        out.append(TableNameInfo(query=None, query_id=None, sheet=sheet.name, rows=sheet.rows, taken=None))
    return out


@router.get("/{query_id}/columns")
def columns(here: Here, query_id: int) -> list[ColumnInfo]:
    """The headings of a query's newest table, behind its lines."""
    query = here.workspace.queries.get(query_id)
    with here.workspace.read_together():
        return [column_info(one) for one in here.engine.tables.work_out.newest(query.name).columns]


@router.post("/other")
async def other(here: Here, request: Request, body: OtherIn) -> OtherInfo:
    """Another table beside one with lines done to it: its columns, and which of them match."""
    lines, _ = _read(body.lines)

    def work(stop: Any) -> OtherInfo:
        with here.workspace.read_together():
            engine = here.engine.tables
            first, done = engine.worked(_at(body, lines), stop)
            stage = done[-1].stage if done else first
            own = engine.base(_at(body, lines))[2]
            try:
                table = engine.work_out.other(
                    Source(body.query, body.sheet), stage.as_of, () if own is None else (own,), stop
                )
            except ProblemError as error:
                return OtherInfo(columns=[], rows=0, matches=[], problem=problem_info(error.problem))
            found = matching(stage, table)
        return OtherInfo(
            columns=[column_info(column) for column in table.columns],
            rows=table.height,
            matches=[MatchInfo(**asdict(one)) for one in found],
            problem=None,
        )

    return await while_wanted(request, work)


def _at(body: WorkOutIn, lines: list[LineModel]) -> TableAt:
    return TableAt(body.snapshot, body.preview, lines, body.query_id, body.starts_from)


def _read(raw: list[dict[str, Any]]) -> tuple[list[LineModel], Problem | None]:
    """The lines, up to the first one that cannot be read, and what is wrong with that one."""
    out: list[LineModel] = []
    for document in raw:
        try:
            out.append(_LINE.validate_python(document))
        except ValidationError as error:
            return out, validation_problem(error, "the line", document)
    return out, None


def _told(
    here: Context, body: WorkOutIn, lines: list[LineModel], broken: Problem | None, first: Stage, done: list[LineDone]
) -> WorkOutInfo:
    infos: list[LineInfo] = []
    before = first
    for line, one in zip(lines, done, strict=True):
        infos.append(_line(line, one, before))
        before = one.stage
    if broken is not None:
        rest = len(body.lines) - len(lines)
        waits = infos and infos[-1].state in ("failed", "waiting")
        for at in range(rest):
            wrong = at == 0
            infos.append(
                LineInfo(
                    state="failed" if wrong and not waits else "waiting", words=[], rows_before=before.height,
                    rows=before.height, notes=[], lit=[], columns=[column_info(one) for one in before.columns],
                    totals=False, problem=problem_info(broken) if wrong else None, start=None, end=None,
                )
            )  # fmt: skip
    name = _name(here, body)
    text = statement_of(name, first, done)
    return WorkOutInfo(
        columns=[column_info(one) for one in first.columns],
        rows=first.height,
        lines=infos,
        statement=text,
        own_functions=own_functions(text),
    )


def _name(here: Context, body: WorkOutIn) -> str:
    """What the table is called in the statement."""
    if body.starts_from is not None:
        return body.starts_from.tables[0].source.name
    if body.snapshot is not None:
        return here.workspace.queries.get(here.workspace.snapshots.get(body.snapshot).query_id).name
    found = here.engine.previews.get(body.preview or 0)
    return found.brief.name if found is not None else "table"


def _line(line: LineModel, done: LineDone, before: Stage) -> LineInfo:
    stage = done.stage
    did = done.state == "done"
    return LineInfo(
        state=done.state,
        words=[word_info(word) for word in line.words() if word != ""],
        rows_before=before.height,
        rows=stage.height,
        notes=[NoteInfo(text=note.text, look=note.look, odd=note.odd) for note in stage.notes] if did else [],
        lit=stage.lit if did else [],
        # How full a column was, was counted for the table before the lines.
        columns=[column_info(replace(column, filled=None, nulls=None)) for column in stage.columns],
        totals=did and stage.totals,
        problem=problem_info(done.problem),
        start=done.place[0] if done.place else None,
        end=done.place[1] if done.place else None,
    )


def word_info(word: Word) -> WordInfo:
    """A word of a sentence for the browser."""
    return WordInfo(text=word, field="") if isinstance(word, str) else WordInfo(text=word.text, field=word.field)
