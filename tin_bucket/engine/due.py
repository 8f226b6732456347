"""Which scheduled refreshes are due now: for the program that serves, and for a command that cron begins."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, tzinfo

from tin_bucket.core.schedule.again import Stopped, again_at
from tin_bucket.core.schedule.due import due_since, newest_due, resumed
from tin_bucket.engine.clock import Clock
from tin_bucket.store.queries import Scheduled
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

PAUSED = "schedules paused"
COMMAND = "command line"  # The cause of a run that a command began.
_LOOKED_AT = 12  # Runs of a query that are looked at since it was due.


@dataclass(frozen=True, slots=True)
class Due:
    """A refresh that is due: since when, and the run that stopped since, if one did."""

    moment: datetime
    stopped: Run | None = None


def paused_until(workspace: Workspace) -> date | bool:
    """The day until which all schedules are paused; ``True`` for good, ``False`` for not at all."""
    text = workspace.settings.get(PAUSED) or ""
    if not text:
        return False
    return True if text == "on" else date.fromisoformat(text)


def counts_from(one: Scheduled, since: datetime, here: tzinfo, until: date | bool) -> datetime:
    """The moment from which a schedule counts, behind its own pause and that of all.

    Args:
        since: the moment without any pause.
        until: see :func:`paused_until`.
    """
    since = resumed(since, one.resumes, here)
    return resumed(since, until, here) if isinstance(until, date) else since


def due(workspace: Workspace, one: Scheduled, clock: Clock) -> Due | None:
    """Whether a query is due now: its time has come, or it came and what ran since brought no table and is worth
    another try."""
    now, here, until = clock.now(), clock.zone(), paused_until(workspace)
    if until is True:
        return None
    since = counts_from(one, due_since(one.schedule, one.saved, one.last, now), here, until)
    moment = newest_due(one.schedule, since, now) if since <= now else None
    if moment is not None or not one.stopped:
        return None if moment is None else Due(moment)
    since = counts_from(one, one.saved, here, until)
    moment = newest_due(one.schedule, since, now) if since <= now else None
    if moment is None:
        return None
    runs = [run for run in workspace.runs.latest(one.id, _LOOKED_AT) if datetime.fromisoformat(run.started) >= moment]
    at = again_at([_stopped(run) for run in runs])
    if at is None or at > now or (runs[0].state == "interrupted" and not _reads(workspace, one.id)):
        return None
    return Due(moment, runs[0])


def superseded(one: Scheduled, run: Run, clock: Clock) -> bool:
    """Whether a query was due again since a run began."""
    now = clock.now()
    since = counts_from(one, one.saved, clock.zone(), False)
    moment = newest_due(one.schedule, since, now) if since <= now else None
    return moment is not None and datetime.fromisoformat(run.started) < moment


def _stopped(run: Run) -> Stopped:
    ended = datetime.fromisoformat(run.ended or run.started)
    return Stopped(run.state, run.cause == COMMAND, ended, run.problem.kind if run.problem is not None else "")


def _reads(workspace: Workspace, query_id: int) -> bool:
    """Whether its calls only read: what was under way when the program ended can be asked again."""
    ask = workspace.queries.get(query_id).brief.ask
    return ask is None or ask.only_reads


def all_due(workspace: Workspace, clock: Clock) -> dict[int, Due]:
    """Query → why it is due, for those that are."""
    found = {one.id: due(workspace, one, clock) for one in workspace.queries.scheduled()}
    return {query_id: one for query_id, one in found.items() if one is not None}
