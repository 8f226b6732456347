"""The desk: a line for each query, and what wants attention."""

from __future__ import annotations

from fastapi import APIRouter

from tin_bucket.core.brief import EverySchedule
from tin_bucket.core.durations import parse_duration
from tin_bucket.store.queries import Query

from .context import Context, Here, run_info, snapshot_info
from .models import Attention, Desk, QueryLine

router = APIRouter(prefix="/api")
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
        if run is not None and run.state in ("failed", "broken off", "short") and line.running is None:
            problem = run.problem
            lacks = "; ".join(run.notes.get("lacks", []))
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
    used = {query.brief.ask.service for query in here.workspace.queries.all()}
    for service in services:
        if service.key is not None and service.id in used and here.workspace.vault.state(service.id) is None:
            attention.append(
                Attention(
                    kind="key",
                    title=service.name,
                    what=f"Its key “{service.key.name}” is not stored.",
                    do="Put the key in.",
                    service_id=service.id,
                )
            )
    return Desk(queries=lines, attention=attention, services=len(services))


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
        service=names.get(query.brief.ask.service, query.brief.ask.service),
        parameters=len(query.brief.parameters),
        snapshots=len(snapshots),
        counts=[snapshot.rows for snapshot in snapshots[-_LINE:]],
        latest=snapshot_info(latest) if latest else None,
        records=ended.records if ended else None,
        last_run=run_info(ended) if ended else None,
        running=here.engine.running().get(query.id),
        next_time=moment.isoformat() if moment else None,
        paused=query.brief.keep.paused and schedule is not None,
        every_seconds=span,
    )
