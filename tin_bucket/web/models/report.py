"""Reports: documents, and what is read."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from tin_bucket.core.chart.registry import Chart
from tin_bucket.core.report.figures.registry import AnyFigure
from tin_bucket.core.report.model import Against, Report

from .chart import DrawingInfo
from .common import ProblemInfo


class ReportLine(BaseModel):
    """A report in the list."""

    id: int
    title: str
    changed: str
    queries: list[str]
    exhibits: int
    address: str


class ReportOut(BaseModel):
    """A report as a document."""

    id: int
    version: int
    changed: str
    report: Report


class ReportIn(BaseModel):
    """A new report."""

    report: Report


class ReportChange(ReportIn):
    """A changed report."""

    version: int = Field(description="the version that was changed")


class ReportBegin(BaseModel):
    """A query that a report begins from."""

    query_id: int


class ReportFileInfo(BaseModel):
    """A file that a report is written to after each refresh."""

    path: str
    written: str | None
    place: str
    size: int
    problem: ProblemInfo | None
    next_try: str | None


class ReadIn(BaseModel):
    """How a report is read."""

    report: Report
    as_of: str = Field(default="", max_length=40, description="a day or a moment, ISO 8601; the newest if empty")
    against: str | None = Field(
        default=None, max_length=40, description="the other date; as the report says if absent, “none” for none"
    )
    chosen: dict[str, str] = Field(default={}, max_length=20, description="by the name of a choice")
    width: int = Field(default=960, ge=200, le=4_000, description="of charts, in pixels")


class ReportSource(BaseModel):
    """From which table something is."""

    query_id: int
    name: str
    snapshot: int | None
    then: int | None
    taken: str
    then_taken: str
    state: Literal["complete", "unverified", "incomplete", "missing"]
    rows: int
    evidence: str
    old: str
    notes: list[str]


class BlockInfo(BaseModel):
    """A block as it is read."""

    block: str
    number: int = Field(description="of an exhibit, counted from 1; 0 for text")
    title: str
    html: str = Field(description="harmless HTML")
    text: str
    sources: list[ReportSource]
    odd: list[str] = Field(description="what is wrong, in sentences")
    drawing: DrawingInfo | None
    chart: Chart | None
    height: int = Field(description="of the chart, in pixels; 0 where there is none")
    other_date: str = Field(description="how the other date stands in the chart, in words")


class ReportChoiceInfo(BaseModel):
    name: str
    column: str
    how: str
    value: str
    options: list[str]
    kind: str
    asks: list[int] = Field(description="the queries that can be asked anew with the value")


class FigureNow(BaseModel):
    """A figure as it is now, for whoever writes."""

    name: str
    query_id: int
    query: str
    words: str = Field(description="what it is")
    parts: dict[str, str] = Field(description="what a text can say of it besides, and what that is now")
    why: str = Field(description="why there is none")


class ReportRead(BaseModel):
    """A report as it is read."""

    title: str
    as_of: str
    against: str
    choices: list[ReportChoiceInfo]
    blocks: list[BlockInfo]
    figures: list[FigureNow]
    sources: list[ReportSource]


class ReportDates(BaseModel):
    """The dates of some queries, the newest first."""

    dates: list[str]


class QueriesIn(BaseModel):
    queries: list[int] = Field(max_length=500)


class OffersIn(BaseModel):
    """What is wanted of a query."""

    query_id: int
    taken: list[str] = Field(default=[], max_length=400, description="names that figures have already")


class OfferedFigure(BaseModel):
    """A figure that can be written, with what it is now."""

    figure: AnyFigure
    words: str


class OffersOut(BaseModel):
    """Figures and charts of a query, the likeliest first."""

    query_id: int
    name: str
    against: Against
    figures: list[OfferedFigure]
    charts: list[Chart]
