"""Reports: kept, read, and begun from a query."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter

from tin_bucket.core.report.exhibit import Exhibit
from tin_bucket.core.report.html import drawn_height, other_date
from tin_bucket.core.report.propose import begin as begun
from tin_bucket.core.report.propose import offers as offered
from tin_bucket.core.report.seen import ReportSeen
from tin_bucket.engine.reports.begin import at_hand
from tin_bucket.engine.reports.reader import Asked, chosen_of
from tin_bucket.store.reports import KeptReport
from tin_bucket.web.cells import json_response
from tin_bucket.web.context import Here
from tin_bucket.web.models.report import (
    OfferedFigure,
    OffersIn,
    OffersOut,
    QueriesIn,
    ReadIn,
    ReportBegin,
    ReportChange,
    ReportDates,
    ReportIn,
    ReportLine,
    ReportOut,
    ReportRead,
)

router = APIRouter(prefix="/api/reports")
_MOST_DATES = 1_000


@router.get("")
def reports(here: Here) -> list[ReportLine]:
    """All reports, by their titles."""
    names = here.workspace.queries.names()
    return [_line(one, names) for one in here.workspace.reports.all()]


def _line(one: KeptReport, names: dict[int, str]) -> ReportLine:
    report = one.report
    return ReportLine(
        id=one.id,
        title=report.title,
        changed=one.changed,
        queries=[names.get(query, "a query that is gone") for query in report.queries()],
        exhibits=sum(isinstance(block, Exhibit) for block in report.blocks),
        address=report.address,
    )


def _out(one: KeptReport) -> ReportOut:
    return ReportOut(id=one.id, version=one.version, changed=one.changed, report=one.report)


@router.post("", status_code=201)
def add(here: Here, body: ReportIn) -> ReportOut:
    """Keep a new report."""
    return _out(here.workspace.reports.add(body.report, here.engine.clock.now()))


@router.post("/begin", status_code=201)
def begin(here: Here, body: ReportBegin) -> ReportOut:
    """A report of a query, which reads well already."""
    made = begun(at_hand(here.engine.reports.parts, here.engine.charts, body.query_id))
    return _out(here.workspace.reports.add(made, here.engine.clock.now()))


@router.post("/read", response_model=ReportRead)
def read(here: Here, body: ReadIn) -> Any:
    """What a report says, as of a date and against another; also one that is not kept yet."""
    asked = Asked(body.as_of, body.against, chosen_of(body.chosen), width=body.width)
    return json_response(shown(here.engine.reports.read(body.report, asked)))


def shown(seen: ReportSeen) -> dict[str, Any]:
    """A report for the browser."""
    blocks = []
    for block in seen.blocks:
        told = asdict(block)
        told["chart"] = block.chart.model_dump(mode="json") if block.chart is not None else None
        del told["table"]
        told["height"] = drawn_height(block.drawing) if block.drawing is not None else 0
        told["other_date"] = other_date(block.drawing) if block.drawing is not None else ""
        blocks.append(told)
    told = asdict(seen)
    return {**told, "blocks": blocks, "figures": told.pop("facts")}


@router.post("/dates")
def dates(here: Here, body: QueriesIn) -> ReportDates:
    """The dates of the tables of some queries, the newest first."""
    return ReportDates(dates=here.engine.reports.dates(body.queries)[:_MOST_DATES])


@router.post("/offers")
def offers(here: Here, body: OffersIn) -> OffersOut:
    """Figures and charts of a query, with what they are now."""
    engine = here.engine
    hand = at_hand(engine.reports.parts, engine.charts, body.query_id)
    figures = offered(hand, body.taken)
    words = engine.reports.words(figures, hand.against)
    return OffersOut(
        query_id=hand.query,
        name=hand.name,
        against=hand.against,
        figures=[OfferedFigure(figure=one, words=words[one.name]) for one in figures],
        charts=list(hand.charts),
    )


@router.get("/{report_id}")
def one(here: Here, report_id: int) -> ReportOut:
    """A report as a document."""
    return _out(here.workspace.reports.get(report_id))


@router.put("/{report_id}")
def save(here: Here, report_id: int, body: ReportChange) -> ReportOut:
    """Keep a changed report."""
    return _out(here.workspace.reports.save(report_id, body.report, here.engine.clock.now(), body.version))


@router.delete("/{report_id}", status_code=204)
def remove(here: Here, report_id: int) -> None:
    """Delete a report. Its queries stay."""
    here.workspace.reports.remove(report_id)
