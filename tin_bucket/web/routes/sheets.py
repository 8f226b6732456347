"""Sheets: look at a file, keep it, read it in another way."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request

from tin_bucket.core.interchange.spreadsheet import SheetSettings, SheetTable
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.engine.workspace.sheet_files import READER
from tin_bucket.engine.workspace.sources import kept_sheet, matching_files, readable
from tin_bucket.store.sheets import Sheet
from tin_bucket.web.context import Context, Here
from tin_bucket.web.models.sheet import FilesInfo, SheetInfo, SheetPreview, SheetSettingsIn

from .begin import sheet_preview

router = APIRouter(prefix="/api")
MOST_BYTES = 100 * 2**20


def _settings(
    separator: str | None = None,
    encoding: str | None = None,
    header: bool = True,
    skip: int = 0,
    tab: str | None = None,
) -> SheetSettings:
    return SheetSettings(separator or None, encoding or None, header, max(0, skip), tab or None)


Settings = Annotated[SheetSettings, Depends(_settings)]


@router.get("/sheets")
def sheets(here: Here) -> list[SheetInfo]:
    """Every kept sheet, by name."""
    return [_info(here, sheet) for sheet in here.workspace.sheets.all()]


@router.post("/sheets/look")
async def look(request: Request, file: str, settings: Settings) -> SheetPreview:
    """The first rows of a file that is sent as the body; nothing is kept."""
    data = await _body(request)
    return sheet_preview(file, await asyncio.to_thread(READER.read, file, data, settings))


@router.post("/sheets", status_code=201)
async def keep(
    here: Here, request: Request, name: str, file: str, settings: Settings, replace: bool = False
) -> SheetInfo:
    """Keep a file that is sent as the body. Without `replace` a taken name gets a number."""
    data = await _body(request)

    def store() -> SheetInfo:
        table: SheetTable = READER.read(file, data, settings)
        title = name.strip() or "sheet"
        if not replace:
            title = free_name(title, {sheet.name for sheet in here.workspace.sheets.all()})
        now = here.engine.clock.now()
        sheet = here.workspace.sheets.save(title, file, settings, table.headings, len(table.records), data, now)
        return _info(here, sheet)

    return await asyncio.to_thread(store)


@router.get("/sheets/{name}/rows")
def rows(
    here: Here,
    name: str,
    start: Annotated[int, Query(ge=0)] = 0,
    count: Annotated[int, Query(ge=1, le=2000)] = 200,
) -> SheetPreview:
    """Some rows of a kept sheet."""
    sheet = here.workspace.sheets.get(name)
    table = here.sheets.get_or_make((name, sheet.added), lambda: kept_sheet(here.workspace, name))
    return sheet_preview(name, table, start, count)


@router.put("/sheets/{name}/settings")
def settings(here: Here, name: str, body: SheetSettingsIn) -> SheetInfo:
    """Read a kept sheet in another way."""
    sheet = here.workspace.sheets.get(name)
    data = here.workspace.sheets.body(name)
    wanted = SheetSettings(**body.model_dump())
    table = READER.read(sheet.file, data, wanted)
    now = here.engine.clock.now()
    return _info(
        here, here.workspace.sheets.save(name, sheet.file, wanted, table.headings, len(table.records), data, now)
    )


@router.delete("/sheets/{name}", status_code=204)
def delete(here: Here, name: str) -> None:
    """Delete a sheet that no query reads."""
    here.workspace.sheets.delete(name)


@router.get("/files")
def files(here: Here, pattern: str = "**/*") -> FilesInfo:
    """The files of the allowed folder that a pattern names."""
    folder = here.workspace.settings.folder
    found = matching_files(folder, pattern)
    return FilesInfo(
        folder=str(folder), files=[readable(path.relative_to(folder.resolve()).as_posix()) for path in found[:500]]
    )


async def _body(request: Request) -> bytes:
    parts, size = [], 0
    async for part in request.stream():
        size += len(part)
        if size > MOST_BYTES:
            raise fail(
                "sheet-too-large",
                f"The file is larger than {MOST_BYTES // 2**20} MB.",
                where="the file",
                do="Put it into the allowed folder, and let a query read it there.",
            )
        parts.append(part)
    return b"".join(parts)


def _info(here: Context, sheet: Sheet) -> SheetInfo:
    return SheetInfo(
        name=sheet.name,
        file=sheet.file,
        headings=sheet.headings,
        rows=sheet.rows,
        added=sheet.added,
        settings=SheetSettingsIn(**asdict(sheet.settings)),
        used_by=here.workspace.sheets.used_by(sheet.name),
    )
