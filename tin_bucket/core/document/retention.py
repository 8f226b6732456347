"""Which snapshots a rule keeps: all of some days, then the last of each week, then of each month.

The rule may be put in force each day or once a year: what stays is the same.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta, tzinfo

from pydantic import Field, model_validator

from tin_bucket.core.base import Part


class KeptSnapshots(Part):
    """How long snapshots are kept. Those that are named or pinned stay, and so does the newest."""

    days: int = Field(default=30, ge=1, le=100_000, description="all of the last so many days")
    weeks: int = Field(default=0, ge=0, le=20_000, description="then the last one of each week, for so many weeks")
    months: int | None = Field(
        default=None, ge=0, le=5_000, description="then the last one of each month, for so many months; without end"
    )

    @model_validator(mode="after")
    def _in_order(self) -> KeptSnapshots:
        if self.weeks and self.weeks * 7 <= self.days:
            raise ValueError("the weeks reach no further back than the days: name more weeks, or none")
        if self.months and self.months * 28 <= max(self.days, self.weeks * 7):
            raise ValueError("the months reach no further back than the days and weeks: name more months, or none")
        return self


@dataclass(frozen=True, slots=True)
class DatedSnapshot:
    """A snapshot as a rule sees it.

    Attributes:
        taken: when.
        whole: whether it is not known to be incomplete: of a week or a month a whole one is kept before others.
        stays: whether it stays whatever the rule says.
    """

    id: int
    taken: datetime
    whole: bool = True
    stays: bool = False


def let_go(rule: KeptSnapshots, snapshots: Sequence[DatedSnapshot], now: datetime, here: tzinfo) -> list[int]:
    """The ids of the snapshots that a rule does not keep, the oldest first.

    Args:
        snapshots: those of one query, the oldest first.
        here: the time zone in which days, weeks (from Monday, ISO 8601) and months begin.
    """
    if not snapshots:
        return []
    last_of: dict[Hashable, DatedSnapshot] = {}
    for one in snapshots:
        for period in _periods(one.taken, here):
            before = last_of.get(period)
            if before is None or one.whole or not before.whole:
                last_of[period] = one
    today = now.astimezone(here).date()
    out = []
    for one in snapshots[:-1]:
        day = one.taken.astimezone(here).date()
        week, month = _periods(one.taken, here)
        age = today - day
        if one.stays or age < timedelta(days=rule.days):
            continue
        of_month = last_of[month].id == one.id
        if age < timedelta(weeks=rule.weeks) and (of_month or last_of[week].id == one.id):
            continue
        months = (today.year - day.year) * 12 + today.month - day.month
        if of_month and (rule.months is None or months < rule.months):
            continue
        out.append(one.id)
    return out


def _periods(moment: datetime, here: tzinfo) -> tuple[Hashable, Hashable]:
    """The week and the month that a moment lies in."""
    day = moment.astimezone(here).date()
    return ("week", *day.isocalendar()[:2]), ("month", day.year, day.month)
