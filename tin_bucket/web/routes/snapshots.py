"""Snapshots as things: their names, notes and pins, what they take up, and letting them go."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from tin_bucket.core.document.retention import KeptSnapshots
from tin_bucket.core.document.since import asks_since
from tin_bucket.engine.tables.repair import repair
from tin_bucket.engine.work_out.each_once import EachOnce
from tin_bucket.engine.workspace.thinning import beyond_rule
from tin_bucket.store.integrity import Fault, faults_of
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.web.cells import seconds_of
from tin_bucket.web.context import Here, snapshot_info
from tin_bucket.web.models.history import (
    CheckedInfo,
    ChosenSnapshots,
    GoingInfo,
    RunMark,
    SnapshotFaults,
    SnapshotLabel,
    SnapshotWeights,
    TimelineInfo,
    WeightInfo,
)
from tin_bucket.web.models.table import SnapshotInfo

router = APIRouter(prefix="/api")


MOST_LISTED = 1_000


@router.get("/queries/{query_id}/timeline")
def timeline(here: Here, query_id: int) -> TimelineInfo:
    """The dates of a query's table; of one that starts from tables, the dates of these."""
    query = here.workspace.queries.get(query_id)
    dates = here.engine.tables.work_out.timeline(query)
    return TimelineInfo(
        ids=[one.id for one in dates],
        at=[seconds_of(one.taken) for one in dates],
        rows=[one.rows for one in dates],
        states=[one.state for one in dates],
        differs=[_differing(one) for one in dates],
        labels={
            one.id: SnapshotLabel(name=one.name, note=one.note, pinned=one.pinned) for one in dates if one.labelled
        },
        without_table=[
            RunMark(run_id=one.id, at=seconds_of(one.started), state=one.state, what=one.what)
            for one in here.workspace.runs.without_table(query_id)
        ],
    )


def _differing(snapshot: Snapshot) -> int | None:
    since = snapshot.since
    return since["new"] + since["gone"] + since["changed"] if "new" in since else None


@router.get("/queries/{query_id}/breaks")
def breaks(here: Here, query_id: int) -> list[tuple[str, str]]:
    """Of a query that keeps each row that was ever seen: dates beside each other that have no row in common. What came
    and went between them was not seen. Of one that asks only for what came since there are none."""
    query = here.workspace.queries.get(query_id)
    start, work_out = query.brief.start, here.engine.tables.work_out
    dates = work_out.timeline(query)
    if start is None or start.every_date is None or not dates:
        return []
    if asks_since(here.workspace.queries.find(start.tables[0].source.name).brief):
        return []
    table = work_out.start(start, dates[-1].taken, (query.id,))
    return table.breaks if isinstance(table, EachOnce) else []


@router.get("/queries/{query_id}/snapshots")
def listed(here: Here, query_id: int, start: int = 0, count: int = 200, labelled: bool = False) -> list[SnapshotInfo]:
    """Some of a query's own snapshots, the newest first; or of those that have a name, a note or a pin."""
    kept = here.workspace.snapshots.of_query(query_id)[::-1]
    if labelled:
        kept = [one for one in kept if one.labelled]
    start = max(0, start)
    return [snapshot_info(one) for one in kept[start : start + min(max(0, count), MOST_LISTED)]]


@router.get("/snapshots/{snapshot_id}")
def told(here: Here, snapshot_id: int) -> SnapshotInfo:
    """What is known of a snapshot."""
    return snapshot_info(here.workspace.snapshots.get(snapshot_id))


@router.put("/snapshots/{snapshot_id}/label")
def label(here: Here, snapshot_id: int, body: SnapshotLabel) -> SnapshotInfo:
    """Name a snapshot, write a note to it, and pin it or not."""
    snapshots = here.workspace.snapshots
    snapshots.label(snapshot_id, body.name, body.note, body.pinned)
    return snapshot_info(snapshots.get(snapshot_id))


@router.get("/queries/{query_id}/snapshots/weights")
def weights(here: Here, query_id: int) -> SnapshotWeights:
    """What each snapshot takes up: the rows that it alone has, and their size."""
    removal = here.workspace.removal
    each = {number: WeightInfo(**asdict(weight)) for number, weight in removal.weights(query_id).items()}
    return SnapshotWeights(each=each, all=removal.whole_size(query_id))


@router.post("/queries/{query_id}/snapshots/weigh")
def weigh(here: Here, query_id: int, body: ChosenSnapshots) -> GoingInfo:
    """What deleting some snapshots would free; nothing is deleted."""
    return GoingInfo(ids=body.ids, **asdict(here.workspace.removal.freed(query_id, body.ids)))


@router.post("/queries/{query_id}/snapshots/delete")
def delete(here: Here, query_id: int, body: ChosenSnapshots) -> GoingInfo:
    """Delete some snapshots for good; the others read the same."""
    return GoingInfo(ids=body.ids, **asdict(here.workspace.removal.delete(query_id, body.ids)))


@router.post("/queries/{query_id}/snapshots/by-rule")
def by_rule(here: Here, query_id: int, body: KeptSnapshots) -> GoingInfo:
    """Which snapshots a rule would let go now, and what that frees; nothing is deleted."""
    here.workspace.queries.get(query_id)
    ids = beyond_rule(here.workspace, query_id, body, here.engine.clock)
    return GoingInfo(ids=ids, **asdict(here.workspace.removal.freed(query_id, ids)))


@router.post("/queries/{query_id}/snapshots/check")
def check(here: Here, query_id: int) -> CheckedInfo:
    """Read all snapshots of a query and hold them against their digests; nothing is changed."""
    here.workspace.queries.get(query_id)
    found = faults_of(here.workspace, query_id)
    return CheckedInfo(
        snapshots=len(found), damaged=[_faults(here, number, faults) for number, faults in found.items() if faults]
    )


@router.post("/snapshots/{snapshot_id}/repair")
def repair_one(here: Here, snapshot_id: int) -> SnapshotFaults:
    """Write what is damaged of a snapshot again, from its saved answers or its own rows; tells what is wrong with it
    still."""
    return _faults(here, snapshot_id, repair(here.workspace, here.engine.rereader, snapshot_id))


def _faults(here: Here, snapshot_id: int, faults: list[Fault]) -> SnapshotFaults:
    taken = here.workspace.snapshots.get(snapshot_id).taken
    return SnapshotFaults(snapshot=snapshot_id, taken=taken, what=[fault.what for fault in faults])
