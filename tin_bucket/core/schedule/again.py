"""Whether a refresh that was due and brought no table is tried again by itself, and when."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

# Minutes until a refresh that failed is tried again, the first time and later.
PAUSES = (5, 15, 60)
MOST_INTERRUPTED = 3
# Kinds of problems that pass by themselves. A refused key, a wrong address or a place that is nowhere stay as they are.
PASSING = frozenset(
    {
        "broken-connection",
        "cut-off",
        "host-unknown",
        "refused",
        "service-failed",
        "service-slow",
        "slow-answer",
        "time-out",
        "too-many-calls",
        "workspace-locked",
        "workspace-unreadable",
    }
)


@dataclass(frozen=True, slots=True)
class Stopped:
    """A run that began when a refresh was due, or later.

    Attributes:
        state: how it ended, see :data:`store.runs.STATES`.
        by_command: whether it was a command's: what ends one before its time is a signal or a wait, and no person.
        ended: when.
        kind: of its problem.
    """

    state: str
    by_command: bool
    ended: datetime
    kind: str = ""


def again_at(runs: Sequence[Stopped]) -> datetime | None:
    """When a refresh is tried again; ``None`` when it is not: it is under way, brought a table, was stopped by a
    person, or what hinders it does not pass.

    Args:
        runs: those since it was due, the newest first.
    """
    if not runs:
        return None
    newest = runs[0]
    if newest.state == "interrupted":
        in_a_row = next((at for at, run in enumerate(runs) if run.state != "interrupted"), len(runs))
        return newest.ended if in_a_row <= MOST_INTERRUPTED else None
    if newest.state == "cancelled":
        return newest.ended if newest.by_command else None
    failed = sum(run.state == "failed" for run in runs)
    if newest.state != "failed" or newest.kind not in PASSING or failed > len(PAUSES):
        return None
    return newest.ended + timedelta(minutes=PAUSES[failed - 1])
