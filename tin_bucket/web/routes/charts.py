"""Charts of tables as they are seen."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse

from tin_bucket.core.chart.drawing import Canvas
from tin_bucket.feeds.formats.chart_workbook import write_chart
from tin_bucket.feeds.formats.workbook import FORMAT as WORKBOOK
from tin_bucket.web.cells import json_response
from tin_bucket.web.context import Here
from tin_bucket.web.downloads import download_as, new_file
from tin_bucket.web.models.chart import ChartFileIn, ChartIn, ChartsOut, DrawingInfo, ProposalsIn

router = APIRouter(prefix="/api/table/chart")


@router.post("", response_model=DrawingInfo)
def chart(here: Here, body: ChartIn) -> Any:
    """The numbers of a chart."""
    with here.engine.tables.open(body.at()) as source:
        made = here.engine.charts.draw(source, body.view, body.chart, Canvas(body.width, body.within))
    return json_response(asdict(made))


@router.post("/workbook", response_model=None)
def workbook(here: Here, body: ChartFileIn) -> StreamingResponse:
    """The figures of a chart as a workbook with a chart of its own."""
    with here.engine.tables.open(body.at()) as source:
        made = here.engine.charts.draw(source, body.view, body.chart, Canvas(body.width, body.within))
    file = new_file()
    about = [*body.about, ("It shows", made.sentence), *(("Note", note) for note in made.notes)]
    write_chart(made, body.title, about, file)
    return download_as(file, WORKBOOK.media_type, f"{body.title or 'Chart'}.xlsx")


@router.post("/proposals")
def proposals(here: Here, body: ProposalsIn) -> ChartsOut:
    """Charts that suit the columns of a table, the likeliest first."""
    with here.engine.tables.open(body.at()) as source:
        return ChartsOut(charts=here.engine.charts.propose(source, body.view, body.match))
