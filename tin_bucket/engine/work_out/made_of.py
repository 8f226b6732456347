"""What a query's table is made of beside its own: the tables that it starts from, and those that its lines read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.steps import Source
from tin_bucket.store.queries import Query
from tin_bucket.store.workspace import Workspace

from .work import WorkOut


@dataclass(frozen=True, slots=True)
class MadeOf:
    """A table that a query's table is made of.

    Attributes:
        query_id: of a query; ``None`` for a sheet, and for what is gone.
        starts: whether the query starts from it, and does not only read it.
        rows, taken, state: of its newest snapshot; `state` is ``sheet``, ``none`` or ``gone`` where it has none.
        of: what it is made of itself.
    """

    query_id: int | None
    name: str
    starts: bool
    rows: int
    taken: str | None
    state: str
    of: list[MadeOf]


def made_of(workspace: Workspace, work_out: WorkOut, query: Query, path: tuple[int, ...] = ()) -> list[MadeOf]:
    """The tables that a query's table is made of beside its own, each once."""
    return [_one(workspace, work_out, source, starts, (*path, query.id)) for source, starts in _sources(query)]


def _sources(query: Query) -> list[tuple[Source, bool]]:
    """The tables that a query reads itself, each once, and whether it starts from it."""
    start = query.brief.start
    tables = [(table.source, True) for table in (start.tables if start is not None else [])]
    tables += [(source, False) for line in query.brief.work_out if not line.off for source in line.sources()]
    first: dict[str, tuple[Source, bool]] = {}
    for source, starts in tables:
        first.setdefault(source.name, (source, starts))
    return list(first.values())


def _one(workspace: Workspace, work_out: WorkOut, source: Source, starts: bool, path: tuple[int, ...]) -> MadeOf:
    try:
        if source.sheet is not None:
            return MadeOf(None, source.name, starts, workspace.sheets.get(source.sheet).rows, None, "sheet", [])
        other = workspace.queries.find(source.name)
    except ProblemError:
        return MadeOf(None, source.name, starts, 0, None, "gone", [])
    dates = work_out.timeline(other)
    inner = [] if other.id in path else made_of(workspace, work_out, other, path)
    if not dates:
        return MadeOf(other.id, other.name, starts, 0, None, "none", inner)
    return MadeOf(other.id, other.name, starts, dates[-1].rows, dates[-1].taken, dates[-1].state, inner)


def start_columns(work_out: WorkOut, query: Query) -> list[TableColumn]:
    """The headings of the newest table that a query starts from; none where there is none."""
    if query.brief.start is None:
        return []
    dates = work_out.timeline(query)
    try:
        return work_out.start(query.brief.start, dates[-1].taken if dates else work_out.undated(), (query.id,)).columns
    except ProblemError:
        return []  # The work-out says what is wrong.


def history_key(workspace: Workspace, query: Query) -> tuple[Any, ...]:
    """What all dates of a query's table are made of: another one when a brief, a snapshot or a sheet of it is another
    one."""
    found: dict[tuple[str, str], tuple[Any, ...]] = {}

    def visit(one: Query) -> None:
        if ("query", one.name) in found:
            return
        found["query", one.name] = (one.id, one.brief_id, workspace.snapshots.versions(one.id))
        for source, _ in _sources(one):
            try:
                if source.sheet is not None:
                    found["sheet", source.name] = (workspace.sheets.get(source.sheet).added,)
                else:
                    visit(workspace.queries.find(source.name))
            except ProblemError:
                found["gone", source.name] = ()

    visit(query)
    return tuple(found.items())
