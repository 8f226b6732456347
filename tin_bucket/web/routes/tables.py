"""Looking at a table, kept or tried: windows, search, a column at a glance, where a cell came from."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from tin_bucket.core.problem import fail
from tin_bucket.core.table.fan_out_columns import FAN_OUT_ORIGIN
from tin_bucket.engine.tables.provenance import Provenance, trace_preview, trace_snapshot
from tin_bucket.web.cells import json_response, shown, shown_rows
from tin_bucket.web.context import Here
from tin_bucket.web.models import (
    CellIn,
    ColumnIn,
    EarlierInfo,
    ExcerptInfo,
    FindIn,
    FindOut,
    FrequentInfo,
    FromInfo,
    ProfileInfo,
    RowsIn,
    RowsOut,
    Trace,
    TypeGuessInfo,
)

router = APIRouter(prefix="/api/table")


@router.post("/rows", response_model=RowsOut)
def rows(here: Here, body: RowsIn) -> Any:
    """A window of a table as it is sorted and filtered."""
    tables = here.engine.tables
    found, numbers, total = tables.rows(tables.source(body.snapshot, body.preview), body.view, body.start, body.count)
    return json_response({"start": body.start, "total": total, "numbers": numbers.tolist(), "rows": shown_rows(found)})


@router.post("/find")
def find(here: Here, body: FindIn) -> FindOut:
    """The cells in which a text stands."""
    tables = here.engine.tables
    cells, total = tables.find(tables.source(body.snapshot, body.preview), body.view, body.text)
    return FindOut(total=total, cells=[list(cell) for cell in cells])


@router.post("/profile")
def profile(here: Here, body: ColumnIn) -> ProfileInfo:
    """A column at a glance, and what its values may mean."""
    tables = here.engine.tables
    found = tables.profile(tables.source(body.snapshot, body.preview), body.column)
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
        frequent=[FrequentInfo(value=_short(value), count=times) for value, times in found.frequent],
        longest=found.longest,
        guesses=[
            TypeGuessInfo(
                kind=one.kind, reads=one.reads, evidence=one.evidence, before=one.example[0], after=one.example[1]
            )
            for one in found.guesses
        ],
    )


def _short(value: Any) -> Any:
    return shown(value[:200] if isinstance(value, str) else value)


@router.post("/trace")
def trace(here: Here, body: CellIn) -> Trace:
    """Where a cell came from: call, page, and the place in its answer."""
    if body.preview is not None:
        preview = here.engine.previews.get(body.preview)
        if preview is None:
            raise fail(
                "preview-gone",
                "This preview is not kept any more.",
                where=f"preview {body.preview}",
                do="Ask once again.",
            )
        return _told(trace_preview(here.engine.rereader, here.workspace, preview, body.row, body.column), body.row)
    return _told(trace_snapshot(here.workspace, body.snapshot or 0, body.row, body.column), body.row)


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
