"""Times of its own."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding
from tin_bucket.core.schedule.models import DailySchedule, Schedule


class TimeCause(Cause):
    """At some times, whatever happened."""

    why: Literal["time"] = "time"
    schedule: Schedule = DailySchedule(at="08:00", days=[1, 2, 3, 4, 5])


def found(one: TimeCause, facts: Facts) -> Iterator[Finding]:
    """Whether its time has come; each is told once."""
    moment = facts.due(one.schedule)
    if moment is not None:
        yield Finding("time", moment.isoformat(), "", (), None, {"due": moment.isoformat()})


def words(one: TimeCause) -> str:
    """When it is told, in a sentence."""
    return one.schedule.words()


KIND = CauseKind(
    key="time", model=TimeCause, label="At a time", found=found, words=words, after=False, phrase="{schedule}",
    fields=(FormField("schedule", "When", "times", required=True, wide=True),),
)  # fmt: skip
