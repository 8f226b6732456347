"""What needs attention: runs that failed, keys about to expire, allowances nearly used up."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from tin_bucket.core.document.service import Service
from tin_bucket.core.schedule.due import LATE, due_since, newest_due, resumed
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.run.progress import Waiting
from tin_bucket.store.overview import LastRun, QueryOverview
from tin_bucket.store.queries import Scheduled
from tin_bucket.store.workspace import Workspace

WARNED = timedelta(days=14)  # How long before its end a key is warned of.
_GIVEN_UP = timedelta(days=7)  # How long a message that was given up is told.
_LONG, _NEARLY = 3600, 0.1  # Seconds of a window worth a warning, and the part that is left then.


@dataclass(frozen=True, slots=True)
class Attention:
    """One thing, what is to be done, and what it belongs to."""

    kind: str
    title: str
    what: str
    do: str
    query_id: int | None = None
    run_id: int | None = None
    service_id: str | None = None


def attention(
    workspace: Workspace,
    queries: Sequence[QueryOverview],
    running: Mapping[int, int],
    waiting: Mapping[int, Waiting],
    lanes: Mapping[str, LaneView],
    now: datetime,
) -> list[Attention]:
    """Everything that needs attention, in the order in which it is shown.

    Args:
        queries: every query at a glance.
        running: query → run, for those that run now.
        waiting: query → what its run waits for.
        lanes: id → lane, of every service.
    """
    found: list[Attention] = []
    for query in queries:
        if query.last_run is not None:
            found += _of_run(query, query.last_run, query.id in running)
    if workspace.vault.wants_passphrase:
        closed = "It is locked: it opens with a passphrase."
        found.append(Attention("vault", "The vault", closed, "Open the vault."))
    used = {service_id for query in queries for service_id in query.facts.services}
    services = [service for service in workspace.services.all() if service.id in used]
    for service in services:
        found += _of_key(workspace, service, now)
    for service in services:
        found += _of_limits(service, lanes[service.id])
    found += _of_feeds(workspace, queries)
    found += _of_messages(workspace, now)
    for query in queries:
        if query.scheduled is not None:
            found += _of_schedule(query.scheduled, query.name, now)
    names = {query.id: query.name for query in queries}
    for query_id, one in waiting.items():
        if one.problem is not None:
            what = f"Its refresh waits: {one.problem.what}"
            found.append(
                Attention("waiting", names.get(query_id, ""), what, one.problem.do, query_id, None, one.service_id)
            )
    return found


def _of_run(query: QueryOverview, run: LastRun, running: bool) -> Iterator[Attention]:
    if run.state in ("failed", "interrupted", "incomplete") and not running and not run.only_first:
        problem = run.problem
        gaps = "; ".join(run.gaps)
        what = problem.what if problem else f"{gaps[:1].upper()}{gaps[1:]}."
        yield Attention(run.state, query.name, what, problem.do if problem else "", query.id, run.id)
    drift = run.drift
    if drift is not None and drift.columns and run.snapshot_id is not None:
        yield Attention(
            "drift",
            query.name,
            f"The answers have changed: {drift.words}.",
            "Check that its columns still hold what you expect.",
            query.id,
            run.id,
        )


def _of_feeds(workspace: Workspace, queries: Sequence[QueryOverview]) -> Iterator[Attention]:
    """Feeds that failed the last time, and are still there."""
    names = {query.id: query.name for query in queries}
    for (query_id, key), last in workspace.feeds.last().items():
        if last.state != "failed" or last.problem is None or query_id not in names:
            continue
        feeds = workspace.queries.get(query_id).brief.hand_over
        if any(feed.key == key and not feed.off for feed in feeds):
            what = f"It was not handed over to {last.place}: {last.problem.what}"
            yield Attention("feed", names[query_id], what, last.problem.do, query_id)


def _of_messages(workspace: Workspace, now: datetime) -> Iterator[Attention]:
    """Notices that were given up in the last days."""
    for message in workspace.notices.given_up(now - _GIVEN_UP):
        why = message.problem.what if message.problem is not None else "It was not taken."
        yield Attention(
            "notice", message.notice, f"“{message.content.title}” was not sent to {message.place}: {why}", ""
        )


def _of_schedule(one: Scheduled, name: str, now: datetime) -> Iterator[Attention]:
    """A refresh that was due while the program was off, and is not caught up."""
    if one.schedule.missed != "skip":
        return
    since = resumed(due_since(one.schedule, one.saved, one.last, now), one.resumes, now.tzinfo or UTC)
    moment = newest_due(one.schedule, since, now)
    if moment is not None and now - moment >= LATE:
        what = f"Its refresh of {moment:%d %B, %H:%M} UTC was missed: Tin Bucket was not running."
        yield Attention("missed", name, what, "Refresh it, or wait for the next time.", one.id)


def _of_limits(service: Service, lane: LaneView) -> Iterator[Attention]:
    """Allowances that are nearly used up. Short windows fill and empty by themselves, and are not told."""
    for one in lane.left:
        if one.window.seconds >= _LONG and one.left <= one.window.calls * _NEARLY:
            what = f"{one.left:,} calls are left of {one.window.words()}."
            yield Attention(
                "allowance",
                service.name,
                what,
                "Runs wait until more are free, then resume by themselves.",
                service_id=service.id,
            )


def _of_key(workspace: Workspace, service: Service, now: datetime) -> Iterator[Attention]:
    """What is to be said of a key that is missing, or about to end."""
    if service.key is None or service.key.source.pasted:
        return
    state, name = workspace.vault.state(service.id), service.key.name
    if state is None:
        what = f"Its key “{name}” is not stored."
        yield Attention("key", service.name, what, "Enter the key.", service_id=service.id)
        return
    if state.expires is None:
        return
    ends = datetime.fromisoformat(state.expires)
    left = ends - now
    if left > WARNED:
        return
    day, days = f"{ends:%d %B %Y}", -(-left // timedelta(days=1))
    when = f"ended on {day}" if left <= timedelta() else f"ends in {days} day{'' if days == 1 else 's'}, on {day}"
    do = "Enter a new key; everything that uses it switches to it."
    yield Attention("key", service.name, f"Its key “{name}” {when}.", do, service_id=service.id)
