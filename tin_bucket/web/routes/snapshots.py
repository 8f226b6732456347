"""Snapshots: windows of rows, downloads, and where a cell came from."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterator
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tin_bucket.core.problem import fail
from tin_bucket.feeds.tables import WRITERS
from tin_bucket.web.cells import json_response, shown_rows
from tin_bucket.web.context import Here, column_info
from tin_bucket.web.models import ColumnInfo, RowWindow

router = APIRouter(prefix="/api/snapshots/{snapshot_id}")


@router.get("/columns")
def columns(here: Here, snapshot_id: int) -> list[ColumnInfo]:
    """A snapshot's headings."""
    return [column_info(column) for column in here.workspace.snapshots.get(snapshot_id).columns]


@router.get("/rows", response_model=RowWindow)
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
