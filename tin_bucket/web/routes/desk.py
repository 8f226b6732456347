"""The desk: a line for each query, and what wants attention."""

from __future__ import annotations

from datetime import datetime, timedelta

from fastapi import APIRouter

from tin_bucket.core.document.query import EverySchedule
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.store.queries import Query
from tin_bucket.web.context import Context, Here, key_info, run_info, snapshot_info
from tin_bucket.web.models.query import Attention, Desk, QueryLine

router = APIRouter(prefix="/api")
WARNED = timedelta(days=14)  # How long before its end a key is warned of.
_LONG, _NEARLY = 3600, 0.1  # Seconds of a window that is told of, and the part that is left then.
_LINE = 30  # Snapshots in the small line of row counts.


@router.get("/desk")
def desk(here: Here) -> Desk:
    """Everything that the desk shows."""
    services = here.workspace.services.all()
    names = {service.id: service.name for service in services}
    lines = [_line(here, query, names) for query in here.workspace.queries.all()]
    attention = []
    for line in lines:
        run = line.last_run
        if run is not None and run.state in ("failed", "broken off", "incomplete") and line.running is None:
            problem = run.problem
            lacks = "; ".join(run.notes.get("gaps", []))
            what = problem.what if problem else f"{lacks[:1].upper()}{lacks[1:]}."
            attention.append(
                Attention(
                    kind=run.state,
                    title=line.name,
                    what=what,
                    do=problem.do if problem else "",
                    query_id=line.id,
                    run_id=run.id,
                )
            )
        found = run.notes.get("drift", {}) if run is not None and run.snapshot_id is not None else {}
        if found.get("columns"):
            attention.append(
                Attention(
                    kind="drift",
                    title=line.name,
                    what=f"The answers are not as they were: {found['words']}.",
                    do="Look whether its columns still say what they should.",
                    query_id=line.id,
                    run_id=run.id if run else None,
                )
            )
    if here.workspace.vault.wants_passphrase:
        attention.append(
            Attention(
                kind="vault", title="The vault", what="It is closed: it opens with a passphrase.", do="Open the vault."
            )
        )
    used = {service_id for query in here.workspace.queries.all() for service_id in query.brief.services()}
    for service in services:
        if service.id in used and (told := _of_key(here, service)) is not None:
            attention.append(told)
    for service in services:
        if service.id in used:
            attention.extend(_of_limits(here, service))
    for query_id, waiting in here.engine.waiting().items():
        assert waiting.problem is not None
        attention.append(
            Attention(
                kind="waiting",
                title=next((line.name for line in lines if line.id == query_id), ""),
                what=f"Its refresh waits: {waiting.problem.what}",
                do=waiting.problem.do,
                query_id=query_id,
                service_id=waiting.service_id,
            )
        )
    return Desk(queries=lines, attention=attention, services=len(services))


def _of_limits(here: Context, service: Service) -> list[Attention]:
    """Allowances that are nearly used up. Short windows fill and empty by themselves, and are not told."""
    lane = here.engine.pacer.lane(service, here.engine.credentials.version(service.id))
    told = []
    for one in lane.left():
        if one.window.seconds >= _LONG and one.left <= one.window.calls * _NEARLY:
            told.append(
                Attention(
                    kind="allowance",
                    title=service.name,
                    what=f"{one.left:,} calls are left of {one.window.words()}.",
                    do="Runs wait for more and go on by themselves.",
                    service_id=service.id,
                )
            )
    return told


def _source(query: Query, names: dict[str, str]) -> str:
    """Where a query's rows come from, in words."""
    if query.brief.ask is not None:
        return names.get(query.brief.ask.service, query.brief.ask.service)
    sheet = query.brief.sheet
    assert sheet is not None
    return f"sheet {sheet.sheet}" if sheet.sheet else f"files {sheet.files}"


def _of_key(here: Context, service: Service) -> Attention | None:
    """What is to be said of a key that is missing, or about to end."""
    info = key_info(here, service)
    if service.key is None or info is None or service.key.source.pasted:
        return None
    name = service.key.name
    if info.stored is None:
        return Attention(
            kind="key", title=service.name, what=f"Its key “{name}” is not stored.", do="Put the key in.",
            service_id=service.id,
        )  # fmt: skip
    if info.expires is None:
        return None
    left = datetime.fromisoformat(info.expires) - here.engine.clock.now()
    if left > WARNED:
        return None
    day = datetime.fromisoformat(info.expires).strftime("%d %B %Y")
    days = -(-left // timedelta(days=1))
    when = f"ended on {day}" if left <= timedelta() else f"ends in {days} day{'' if days == 1 else 's'}, on {day}"
    return Attention(
        kind="key", title=service.name, what=f"Its key “{name}” {when}.",
        do="Put a new key in; everything that uses it goes on with that.", service_id=service.id,
    )  # fmt: skip


def _waits(here: Context, query_id: int) -> str | None:
    waiting = here.engine.waiting().get(query_id)
    return waiting.problem.what if waiting is not None and waiting.problem is not None else None


def _line(here: Context, query: Query, names: dict[str, str]) -> QueryLine:
    workspace = here.workspace
    snapshots = workspace.snapshots.of_query(query.id)
    runs = workspace.runs.latest(query.id, most=2)
    ended = next((run for run in runs if run.state not in ("running", "cancelled")), None)
    latest = snapshots[-1] if snapshots else None
    schedule = query.brief.keep.schedule
    span = None
    if isinstance(schedule, EverySchedule):
        duration = parse_duration(schedule.every)
        span = duration.days * 86_400 + duration.seconds
    elif schedule is not None:
        span = 7 * 86_400 // len(set(schedule.days))
    moment = here.schedule.next_time(query.id)
    return QueryLine(
        id=query.id,
        name=query.name,
        note=query.brief.note,
        service=_source(query, names),
        parameters=len(query.brief.parameters),
        snapshots=len(snapshots),
        counts=[snapshot.rows for snapshot in snapshots[-_LINE:]],
        latest=snapshot_info(latest) if latest else None,
        records=ended.records if ended else None,
        last_run=run_info(ended) if ended else None,
        running=here.engine.running().get(query.id),
        waiting=_waits(here, query.id),
        next_time=moment.isoformat() if moment else None,
        paused=query.brief.keep.paused and schedule is not None,
        drift=ended.notes.get("drift", {}).get("words", "") if ended else "",
        every_seconds=span,
    )
