"""Snapshots as things: their names, notes and pins, what they take up, and letting them go."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from tin_bucket.core.document.retention import KeptSnapshots
from tin_bucket.engine.workspace.thinning import beyond_rule
from tin_bucket.web.context import Here, snapshot_info
from tin_bucket.web.models.table import (
    ChosenSnapshots,
    GoingInfo,
    SnapshotInfo,
    SnapshotLabel,
    SnapshotWeights,
    WeightInfo,
)

router = APIRouter(prefix="/api")


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
