"""Which columns say which row is which, behind work-out lines and in tables that are made of others."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from tin_bucket.core.document.start import StartTables
from tin_bucket.core.work_out.steps import Below, Fold, Groups, Unfold
from tin_bucket.store.workspace import Workspace

if TYPE_CHECKING:
    from .work import LineDone, WorkOut


def match_of(match: list[str], done: Sequence[LineDone]) -> list[str]:
    """The columns whose values say which row is which, behind some lines; none where no column does.

    Args:
        match: those of the table that the lines begin from.
        done: what became of the lines.
    """
    if not done:
        return match
    own = list(match)
    for one in done:
        step = one.step
        if isinstance(step, Groups):
            own = [made.name for made in step.by]
        elif isinstance(step, (Unfold, Fold)):
            own = [*own, step.name] if own else []
        elif isinstance(step, Below):
            own = [*own, step.whose] if own and step.whose else []
    return own if set(own) <= set(done[-1].stage.names) else []


def match_of_start(workspace: Workspace, work_out: WorkOut, start: StartTables, as_of: str) -> list[str]:
    """The match columns of a table that a query starts from: those of the table. Where it is made of several tables,
    they have to have the same ones, and a column has to say whose a row is.

    Args:
        as_of: the date, ISO 8601, of which the table could be made.
    """
    found = [_of_query(workspace, work_out, one.query, as_of) if one.query else [] for one in start.tables]
    if any(one != found[0] for one in found) or not found[0]:
        return []
    if start.every_date is not None:
        return found[0] if start.every_date.rows == "each once" else [start.every_date.column, *found[0]]
    if len(found) == 1:
        return found[0]
    return [*found[0], start.whose] if start.whose else []


def _of_query(workspace: Workspace, work_out: WorkOut, name: str, as_of: str) -> list[str]:
    query = workspace.queries.find(name)
    match = query.brief.keep.match
    if not match and query.brief.start is not None:
        match = match_of_start(workspace, work_out, query.brief.start, as_of)
    return match_of(match, work_out.of_query(query, as_of)[1])
