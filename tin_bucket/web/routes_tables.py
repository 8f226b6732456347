"""Snapshots: windows of rows, downloads, and where a cell came from."""

from __future__ import annotations

import json
import re
import tempfile
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tin_bucket.core.brief import load_brief
from tin_bucket.core.picking import pick
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.trace import cell_pointer, fragment_around
from tin_bucket.core.verdict import Answer, judge
from tin_bucket.feeds.tables import WRITERS
from tin_bucket.store.runs import CallRecord

from .cells import json_response, shown, shown_rows
from .context import Context, Here, column_info
from .models import ColumnInfo, Trace, Window

router = APIRouter(prefix="/api/snapshots/{snapshot_id}")


@router.get("/columns")
def columns(here: Here, snapshot_id: int) -> list[ColumnInfo]:
    """A snapshot's headings."""
    return [column_info(column) for column in here.workspace.snapshots.get(snapshot_id).columns]


@router.get("/rows", response_model=Window)
def rows(here: Here, snapshot_id: int, start: int = 0, count: int = 200) -> Any:
    """A window of a snapshot's rows."""
    found = here.workspace.snapshots.window(snapshot_id, max(0, start), max(0, min(count, 2000)))
    return json_response({"start": start, "rows": shown_rows(found)})


@router.get("/table.{ending}", response_model=None)
def download(here: Here, snapshot_id: int, ending: str) -> StreamingResponse:
    """The whole table as a file."""
    writer = WRITERS.get(ending)
    if writer is None:
        raise fail(
            "format-unknown", f"“{ending}” is not a format.", where="download", do=f"Use {' or '.join(WRITERS)}."
        )
    snapshots = here.workspace.snapshots
    snapshot = snapshots.get(snapshot_id)
    name = here.workspace.queries.get(snapshot.query_id).name
    file = tempfile.TemporaryFile()  # noqa: SIM115 closed when it has been sent
    writer.write(snapshot.columns, snapshots.all_rows(snapshot_id), file, name)
    file.seek(0)

    def parts() -> Iterator[bytes]:
        with file:
            while part := file.read(1 << 16):
                yield part

    # What no file system takes in a name becomes a hyphen (RFC 6266 §4.3).
    title = re.sub(r'[<>:"/\\|?*\x00-\x1f]', "-", f"{name} {snapshot.taken[:10]}.{ending}")
    disposition = f"attachment; filename*=UTF-8''{quote(title, safe='')}"
    return StreamingResponse(parts(), media_type=writer.media_type, headers={"Content-Disposition": disposition})


@router.get("/trace")
def trace(here: Here, snapshot_id: int, row: int, column: int) -> Trace:
    """Where a cell came from: call, page, and the place in its answer."""
    workspace = here.workspace
    snapshot = workspace.snapshots.get(snapshot_id)
    if not (0 <= row < snapshot.rows and 0 <= column < len(snapshot.columns)):
        raise fail("cell-unknown", "There is no such cell.", where=f"row {row + 1}", do="Choose one in the table.")
    heading = snapshot.columns[column]
    values = workspace.snapshots.window(snapshot_id, row, 1)[0]
    brief = load_brief(json.loads(workspace.runs.brief_of(snapshot.run_id)))
    calls = workspace.runs.calls(snapshot.run_id)
    page, record, item = workspace.snapshots.origin(snapshot_id, row)
    pointer, fragment = None, None
    if heading.origin == "taken":
        stage = [call for call in calls if call.stage == "pages"]
        call = stage[page] if page < len(stage) else None
        document = _document(here, snapshot.run_id, call)
        if document is not None:
            found = pick(document, brief.take.records)
            pointer = cell_pointer(found.pointer(record), heading.place, item)
            fragment = fragment_around(document, pointer) if pointer is not None else None
    else:
        stage = [call for call in calls if call.stage == f"look up {heading.origin}"]
        look_up = next((one for one in brief.look_up if one.name == heading.origin), None)
        names = [one.name for one in snapshot.columns]
        label = ", ".join(str(values[names.index(name)]) for name in look_up.with_.values()) if look_up else ""
        call = next((one for one in stage if one.label == label), None)
        document = _document(here, snapshot.run_id, call)
        if document is not None:
            pointer = cell_pointer("", heading.place)
            fragment = fragment_around(document, pointer) if pointer is not None else None
    return Trace(
        column=heading.name,
        kind=heading.kind,
        value=shown(values[column]),
        row=row,
        run_id=snapshot.run_id,
        call=stage.index(call) + 1 if call is not None else None,
        calls=len(stage),
        label=call.label if call else "",
        address=call.address if call else "",
        sent=call.sent if call else snapshot.taken,
        ms=round(call.seconds * 1000) if call else 0,
        pointer=pointer,
        fragment=fragment,
        source="page" if heading.origin == "taken" else heading.origin,
    )


def _document(here: Context, run_id: int, call: CallRecord | None) -> Any:
    """The parsed answer of a call, or ``None`` when it is not kept."""
    if call is None or not call.has_answer:
        return None
    try:
        body = here.workspace.archive.body(run_id, call.number)
    except ProblemError:
        return None
    return judge(Answer(200, {}, body)).document
