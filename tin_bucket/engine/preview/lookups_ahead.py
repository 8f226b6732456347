"""What a lookup will ask, before a refresh: by the values of the rows at hand, without those whose answers are kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np

from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.formats.durations import parse_duration, span_of
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.fan_out_columns import FAN_OUT_ORIGIN
from tin_bucket.core.table.lookup import lookup_keys, lookup_service, plan_lookup, question_of, with_iterations
from tin_bucket.core.table.table import Table
from tin_bucket.engine.run.plan import RunPlan
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.store.workspace import Workspace

MOST_ROWS = 200_000  # More take longer to count than one waits for a plan.


@dataclass(frozen=True, slots=True)
class LookUpAhead:
    """What a lookup will ask.

    Attributes:
        calls: how many calls.
        values: how many different values the rows have, and `kept` of how many the answers are kept.
    """

    calls: int
    values: int
    kept: int

    def words(self) -> str:
        """The numbers as the plan says them."""
        kept = f", {self.kept:,} of them kept" if self.kept else ""
        return f"by {self.values:,} {'value' if self.values == 1 else 'values'} of the rows at hand{kept}"


def look_up_ahead(
    workspace: Workspace, plan: RunPlan, look_up: LookUp, source: TableSource, now: datetime
) -> LookUpAhead | None:
    """Count what a lookup will ask for the rows of a table; nothing where they do not say it."""
    table = _columns(look_up, source)
    if table is None:
        return None
    service = plan.services[lookup_service(plan.brief, look_up)]
    scope = plan.scope()
    own = with_iterations(plan.brief, look_up, table)
    try:
        keys = lookup_keys(own, table)[0]
        kept = {}
        if own.keep_for is not None:
            since = now - span_of(parse_duration(own.keep_for))
            kept = workspace.looked_up.known(question_of(own, service.id, scope), keys, since)
        found = plan_lookup(own, table, scope, service.base, service.fixed_headers(), kept)
    except ProblemError:
        # What is wrong with it is told where it stands.
        return None
    return LookUpAhead(len(found.calls), len(found.keys), len(found.kept))


def _columns(look_up: LookUp, source: TableSource) -> Table | None:
    """The columns that a lookup reads, as a table."""
    wanted = set(look_up.with_.values())
    if source.height > MOST_ROWS or not wanted <= {column.name for column in source.columns}:
        return None
    found = [
        source.column(column.name)
        for column in source.columns
        if column.name in wanted or column.origin == FAN_OUT_ORIGIN
    ]
    pairs = [pair for pair in found if pair is not None]
    rows = np.zeros(source.height, dtype=np.int64)
    return Table([heading for heading, _ in pairs], [list(values) for _, values in pairs], rows, rows)
