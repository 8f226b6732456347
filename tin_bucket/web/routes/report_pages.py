"""Reports for readers: a page of its own for each, with a key of its own; and reports as files."""

from __future__ import annotations

from io import BytesIO

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response, StreamingResponse

from tin_bucket.core.report.controls import controls_html
from tin_bucket.core.report.seen import ReportSeen
from tin_bucket.engine.reports.reader import Asked, chosen_of
from tin_bucket.engine.reports.words import moments_of
from tin_bucket.feeds.formats.report_workbook import write_report
from tin_bucket.feeds.formats.workbook import FORMAT as WORKBOOK
from tin_bucket.feeds.report_page import page_policy, report_page
from tin_bucket.store.readers import Reader
from tin_bucket.store.report_files import ReportFile
from tin_bucket.web.context import Context, Here, problem_info, reader_info
from tin_bucket.web.downloads import download_as, new_file
from tin_bucket.web.models.feed import NewReader, ReaderIn, ReaderInfo
from tin_bucket.web.models.report import ReadIn, ReportFileInfo
from tin_bucket.web.report_door import private, wrong

router = APIRouter()
_MOST_DAYS = 400


@router.get("/reports/{address}", include_in_schema=False)
def page(here: Here, request: Request, address: str) -> Response:
    """A report for a reader who may see nothing else."""
    reader: Reader = request.scope["reader"]
    kept = here.workspace.reports.at(address)
    if kept is None or kept.id != reader.report_id:
        return wrong()
    given = request.query_params
    chosen = {one.name: given.get(f"choice {one.name}", one.value) for one in kept.report.choices}
    asked = Asked(given.get("as-of", "")[:40], given.get("against") or None, chosen_of(chosen), links=False)
    seen = here.engine.reports.read(kept.report, asked)
    days = here.engine.reports.days(kept.report.queries())[:_MOST_DAYS]
    form = controls_html(kept.report, seen.choices, days, asked.as_of, asked.against or "")
    made = report_page(seen, moments_of(here.engine.clock), form)
    policy = f"{page_policy(answered=True)}; frame-ancestors 'none'"
    return private(HTMLResponse(made, headers={"Content-Security-Policy": policy}))


@router.post("/api/reports/page", response_model=None)
def page_file(here: Here, body: ReadIn) -> Response:
    """A report as one HTML file, which loads nothing from elsewhere."""
    made = report_page(_read(here, body), moments_of(here.engine.clock))
    file = BytesIO(made)
    return download_as(file, "text/html; charset=utf-8", f"{body.report.title}.html")


@router.post("/api/reports/workbook", response_model=None)
def workbook(here: Here, body: ReadIn) -> StreamingResponse:
    """The exhibits of a report as a workbook, its charts as the workbook's own."""
    file = new_file()
    write_report(_read(here, body), moments_of(here.engine.clock), file)
    return download_as(file, WORKBOOK.media_type, f"{body.report.title}.xlsx")


def _read(here: Context, body: ReadIn) -> ReportSeen:
    asked = Asked(body.as_of, body.against, chosen_of(body.chosen), links=False, width=body.width)
    return here.engine.reports.read(body.report, asked)


@router.get("/api/reports/{report_id}/files")
def files(here: Here, report_id: int) -> list[ReportFileInfo]:
    """What became of the files that a report is written to."""
    kept = here.workspace.reports.get(report_id)
    known = here.workspace.report_files.of(report_id)
    return [_file(known.get(path, ReportFile(report_id, path))) for path in kept.report.files]


@router.post("/api/reports/{report_id}/files")
def write_files(here: Here, report_id: int) -> list[ReportFileInfo]:
    """Write a report to its files now."""
    kept = here.workspace.reports.get(report_id)
    return [_file(here.engine.report_files.write(kept, path)) for path in kept.report.files]


def _file(one: ReportFile) -> ReportFileInfo:
    return ReportFileInfo(
        path=one.path,
        written=one.written,
        place=one.place,
        size=one.size,
        problem=problem_info(one.problem),
        next_try=one.next_try,
    )


@router.get("/api/reports/{report_id}/readers")
def readers(here: Here, report_id: int) -> list[ReaderInfo]:
    """Who reads a report."""
    return [reader_info(one) for one in here.workspace.readers.all(report_id)]


@router.post("/api/reports/{report_id}/readers", status_code=201)
def add_reader(here: Here, report_id: int, body: ReaderIn) -> NewReader:
    """Make a reader of a report. Its key is told this once."""
    here.workspace.reports.get(report_id)
    reader, key = here.workspace.readers.add(body.name, here.engine.clock.now(), report_id)
    return NewReader(reader=reader_info(reader), key=key)
