"""Live addresses: a table as a file of a format, as of any date, or what changed since one. For readers alone."""

from __future__ import annotations

import asyncio
import csv
import logging
import tempfile
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response, StreamingResponse
from pydantic import ValidationError

from tin_bucket.core.analysis.view import View
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.engine.hand_over.live import LiveTable
from tin_bucket.feeds.formats.format import Format
from tin_bucket.feeds.formats.registry import FORMATS, endings
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.web.context import Context, Here
from tin_bucket.web.live_headers import entity_tag, is_known, table_headers
from tin_bucket.web.streaming import begun, streamed

router = APIRouter()
log = logging.getLogger("tin_bucket.live")
_PART = 1 << 16


@router.api_route("/tables/{name}.{ending}", methods=["GET", "HEAD"], include_in_schema=False)
async def table(
    here: Here,
    request: Request,
    name: str,
    ending: str,
    on: str = "",
    since: str = "",
    view: str = "",
    columns: str = "",
    headings: bool = True,
    separator: str = "comma",
    decimal: str = "point",
    encoding: str = "utf-8",
    formulas_as_text: bool = False,
    moments: str = "zone",
) -> Response:
    """A table as a file."""
    form = FORMATS.get(ending)
    if form is None:
        raise fail("format-unknown", f"“{ending[:40]}” is no format.", where=f"/tables/{name}", do=f"Use {endings()}.")
    options = ExportOptions(formulas_as_text, headings, separator, decimal, encoding, moments=moments).checked(
        "address"
    )
    seen = _view(view)
    found = await asyncio.to_thread(here.live.open, name, on, since)
    refresh_if_old(here, found)
    picks = _picked(found, columns)
    tag = entity_tag(found, ending, view, columns, options)
    headers = table_headers(found, tag, here.engine.clock.now())
    if is_known(request.headers, tag, found.taken):
        return Response(status_code=304, headers=headers)
    if request.method == "HEAD":
        return Response(headers={**headers, "Content-Type": form.media_type})

    def write(out: Any) -> object:
        with here.workspace.snapshots.reading():
            rows = here.engine.tables.all_rows(found.source, seen)
            if picks is None:
                return form.write(found.source.columns, rows, out, found.query.name, options)
            headings_of = [found.source.columns[at] for at in picks]
            return form.write(headings_of, ([row[at] for at in picks] for row in rows), out, found.query.name, options)

    pieces = streamed(write if form.streams else lambda out: _through_a_file(form, write, out))
    return StreamingResponse(await begun(pieces), media_type=form.media_type, headers=headers)


def _through_a_file(form: Format, write: Any, out: Any) -> None:
    """Write a format that goes back in its file, and send it then."""
    with tempfile.TemporaryFile() as file:
        write(file)
        file.seek(0)
        while part := file.read(_PART):
            out.write(part)


def _picked(found: LiveTable, columns: str) -> list[int] | None:
    """The places of the columns that are asked for, in that order; ``None`` for all.

    Raises:
        ProblemError: ``column-unknown``.
    """
    if not columns:
        return None
    names = [column.name for column in found.source.columns]
    out = []
    for name in next(csv.reader([columns])):
        if name not in names:
            told = ", ".join(names[:12])
            raise fail("column-unknown", f"There is no column “{name[:80]}”.", where="columns", do=f"There are {told}.")
        out.append(names.index(name))
    return out


def _view(text: str) -> View:
    try:
        return View.model_validate_json(text) if text else View()
    except ValidationError as error:
        raise fail(
            "request-unreadable",
            "How the table is seen cannot be read.",
            where="view",
            do="Copy the address from the page of the query again.",
        ) from error


def refresh_if_old(here: Context, found: LiveTable) -> None:
    """Refresh the query of a table that is too old, while the reader gets what is there."""
    older = found.feed.older_than
    if older is None or found.snapshot is None:
        return
    age = here.engine.clock.now() - found.taken
    if age.total_seconds() < older * 60 or found.query.id in here.engine.running():
        return

    async def refresh() -> None:
        try:
            await here.engine.start(found.query.id, {}, "live address", patient=False)
        except ProblemError as error:
            log.warning("“%s” is not refreshed for a reader: %s", found.query.name, error.problem.sentence())

    task = asyncio.create_task(refresh())
    _REFRESHING.add(task)
    task.add_done_callback(_REFRESHING.discard)


_REFRESHING: set[asyncio.Task[None]] = set()
