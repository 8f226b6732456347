"""Refreshes that will be due, and pausing them."""

from __future__ import annotations

from datetime import date
from typing import Any

from pydantic import BaseModel, Field


class PlannedInfo(BaseModel):
    """The refreshes of a query on a day."""

    query_id: int
    query_name: str
    day: str
    first: str = Field(description="when the first of them is due")
    last: str
    times: int
    calls: int | None = Field(description="how many calls they make, by the last whole refresh; empty without one")


class LoadInfo(BaseModel):
    """The busiest stretch of a limit of a service."""

    service: str
    limit: str
    planned: int
    allowed: int
    begins: str


class WeekInfo(BaseModel):
    """What is due in the next days."""

    planned: list[PlannedInfo]
    loads: list[LoadInfo]
    paused: bool = Field(description="whether all schedules are paused")
    paused_until: str | None


class PauseIn(BaseModel):
    """A pause of all schedules."""

    paused: bool
    until: date | None = None


class ScheduleIn(BaseModel):
    """A schedule that is being written."""

    schedule: dict[str, Any]


class ScheduleWords(BaseModel):
    """What a schedule means."""

    next: list[str] = Field(description="the next moments at which it is due")
    clock_changes: list[str] = Field(description="what becomes of times that the clock leaps over or shows twice")
