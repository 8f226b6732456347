"""A notice as a document."""

from __future__ import annotations

from datetime import datetime, time, timedelta
from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.schedule.models import TimeOfDay

from .causes.registry import AnyCause
from .causes.time import TimeCause
from .channels.registry import AnyChannel


class Quiet(Part):
    """Hours of each day, where this machine is, in which nobody is told: it waits for their end."""

    start: TimeOfDay = "20:00"
    end: TimeOfDay = "07:00"

    def until(self, moment: datetime) -> datetime:
        """When something may be sent that is made at a moment: then, or at the end of the hours that it falls into.

        Args:
            moment: where this machine is.
        """
        start, end = (time.fromisoformat(text) for text in (self.start, self.end))
        own = moment.time().replace(tzinfo=None)
        within = start <= own < end if start <= end else own >= start or own < end
        if not within:
            return moment
        day = moment.date() if own < end else moment.date() + timedelta(days=1)
        return datetime.combine(day, end, moment.tzinfo)


class Notice(Part):
    """A notice.

    Attributes:
        cause: why somebody is told.
        to: where it goes.
    """

    name: str = Field(min_length=1, max_length=200)
    cause: AnyCause
    to: list[AnyChannel] = Field(min_length=1, max_length=10)
    sends: Literal["", "report", "changes"] = Field(default="", description="what goes with it")
    report: int | None = Field(default=None, description="the number of the report that goes with it")
    query: int | None = Field(default=None, description="the number of the query whose changes go with it")
    quiet: Quiet | None = None
    off: bool = False

    @model_validator(mode="after")
    def _has_what_it_sends(self) -> Notice:
        if self.sends == "report" and self.report is None:
            raise ValueError("choose the report that goes with it")
        if self.sends == "changes" and self.query is None:
            raise ValueError("choose the query whose changes go with it")
        if isinstance(self.cause, TimeCause) and not self.sends:
            raise ValueError("at a time, a report or the changes of a query are sent: choose one")
        return self
