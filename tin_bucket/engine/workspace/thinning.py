"""Puts the rule of a query in force: which of its snapshots stay."""

from __future__ import annotations

from datetime import datetime

from tin_bucket.core.document.retention import DatedSnapshot, KeptSnapshots, let_go
from tin_bucket.engine.clock import Clock
from tin_bucket.store.removal import Weight
from tin_bucket.store.workspace import Workspace


def beyond_rule(workspace: Workspace, query_id: int, rule: KeptSnapshots, clock: Clock) -> list[int]:
    """The snapshots of a query that a rule would let go now, the oldest first."""
    dated = [
        DatedSnapshot(one.id, datetime.fromisoformat(one.taken), one.state != "incomplete", one.stays)
        for one in workspace.snapshots.of_query(query_id)
    ]
    return let_go(rule, dated, clock.now(), clock.zone())


def thin_out(workspace: Workspace, query_id: int, rule: KeptSnapshots, clock: Clock) -> Weight:
    """Let the snapshots of a query go that its rule does not keep.

    Raises:
        ProblemError: the workspace cannot be written; nothing is gone then.
    """
    ids = beyond_rule(workspace, query_id, rule, clock)
    return workspace.removal.delete(query_id, ids) if ids else Weight(0, 0)
