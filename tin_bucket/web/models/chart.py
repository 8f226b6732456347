"""Charts: what is asked for, and the numbers to draw."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from tin_bucket.core.analysis.view import View
from tin_bucket.core.chart.registry import Chart

from .table import TableRef


class ChartIn(TableRef):
    """A chart of a table as it is seen."""

    view: View = View()
    chart: Chart
    width: int = Field(default=900, ge=50, le=8_000, description="in pixels: no more points come than it can show")
    within: tuple[float, float] | None = Field(default=None, description="the part of the first axis that is seen")


class ChartFileIn(ChartIn):
    """A chart that is taken away."""

    title: str = Field(default="", max_length=300)
    about: list[tuple[str, str]] = Field(
        default=[], max_length=20, description="where it is from, for those who get it"
    )


class ProposalsIn(TableRef):
    """A table as it is seen, for which charts are wanted."""

    view: View = View()
    match: list[str] = Field(default=[], max_length=500)


class AxisInfo(BaseModel):
    name: str
    kind: Literal["time", "day", "number", "category"]
    unit: str


class SeriesInfo(BaseModel):
    """A line, the bars of one colour, a cloud of points."""

    name: str
    y: list[float | None] = Field(description="what is drawn; nothing is a gap")
    x: list[float] = Field(
        description="milliseconds since 1970 (POSIX), numbers, or the edges of steps; none where there are categories"
    )
    rows: list[int] = Field(description="the row of the table that each was made of; -1 for none")
    size: list[float] | None
    axis: int = Field(description="which value axis it belongs to")
    then: bool = Field(description="whether it is of another date, which the chart is held against")
    points: int = Field(description="how many there are, before those are left out that no screen shows")


class PanelInfo(BaseModel):
    """One of several small charts, or the only one."""

    series: list[SeriesInfo]
    name: str
    categories: list[str]


class DrawingInfo(BaseModel):
    """A chart with its numbers."""

    draw: str
    x: AxisInfo
    y: list[AxisInfo]
    panels: list[PanelInfo]
    rows: int = Field(description="how many rows were read")
    notes: list[str] = Field(description="what is not drawn, and why")
    sentence: str = Field(description="what it shows")
    stacked: bool = Field(description="whether its bars stand on each other")
    logarithmic: bool = Field(description="whether its scale is")


class ChartsOut(BaseModel):
    charts: list[Chart]
