"""Repairs snapshots that are not as they were stored: from their saved answers, or from their own rows."""

from __future__ import annotations

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.engine.preview.reread import Rereader
from tin_bucket.store.integrity import Fault, faults_of
from tin_bucket.store.repair import restore_list, restore_rows
from tin_bucket.store.workspace import Workspace

from .sides import brief_then


def repair(workspace: Workspace, rereader: Rereader, snapshot_id: int) -> list[Fault]:
    """Write what is damaged of a snapshot again; gives what is wrong with it still. Rows that other snapshots have too
    are right in these as well.

    Raises:
        ProblemError: ``snapshot-unknown``; ``cannot-repair`` where what it was made of is not kept, or gives another
            table now.
    """
    snapshot = workspace.snapshots.get(snapshot_id)

    def faults() -> list[Fault]:
        return faults_of(workspace, snapshot.query_id, snapshot_id)[snapshot_id]

    found = faults()
    if any(fault.part != "copy" for fault in found):
        _from_answers(workspace, rereader, snapshot_id)
        found = faults()
    if found and all(fault.part == "copy" for fault in found):
        with workspace.write() as db:
            workspace.snapshots.copy_columns(db, snapshot_id)
        found = faults()
    return found


def _from_answers(workspace: Workspace, rereader: Rereader, snapshot_id: int) -> None:
    snapshot = workspace.snapshots.get(snapshot_id)
    query = workspace.queries.get(snapshot.query_id)
    brief = brief_then(workspace, snapshot, query)
    where = f"the snapshot of {snapshot.taken[:10]}"
    try:
        table = rereader.table_again(workspace.runs.get(snapshot.run_id), brief)
    except ProblemError as error:
        raise fail(
            "cannot-repair",
            f"It cannot be repaired: {error.problem.what}",
            where=where,
            do="Restore a backup, or delete the snapshot.",
        ) from error
    restore_rows(workspace, query.id, table)
    if all(fault.part != "list" for fault in faults_of(workspace, query.id, snapshot_id)[snapshot_id]):
        return
    if not restore_list(workspace, workspace.snapshots, snapshot_id, table, [snapshot.match, brief.keep.match]):
        raise fail(
            "cannot-repair",
            "It cannot be repaired: its saved answers give another table than the one that was stored.",
            where=where,
            do="Rebuild it from its run, restore a backup, or delete the snapshot.",
        )
