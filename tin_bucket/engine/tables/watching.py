"""What watched rows and figures are now, what they were, and how they moved."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from tin_bucket.cache import LockedCache
from tin_bucket.core.alike.rule import number_of
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.work_out.made_of import history_key
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.store.watches import Watched
from tin_bucket.store.workspace import Workspace

from .history import History, unit_of

_KEPT = 200
_DRAWN = 40  # Dates whose numbers are drawn.


@dataclass(frozen=True, slots=True)
class WatchNow:
    """How something that is watched stands.

    Attributes:
        taken: as of when, ISO 8601; empty where there is no table.
        value: what it is: a figure, or the cell of a row; nothing where there is none.
        before: what it was before it became so; nothing where that is not known.
        since: since when it is so.
        there: whether a row is there.
        unit: of the number.
        points: its numbers on the last dates.
        problem: why nothing can be told.
    """

    taken: str = ""
    value: Any = None
    before: Any = None
    since: str = ""
    there: bool = True
    unit: str = ""
    points: list[float | None] = field(default_factory=list)
    problem: str = ""


class Watching:
    """Reads what is watched; it is kept until one of the things that it is made of changes."""

    def __init__(self, workspace: Workspace, history: History, work_out: WorkOut) -> None:
        self._workspace = workspace
        self._work_out = work_out
        self._history = history
        self._kept: LockedCache[tuple[Any, ...], WatchNow] = LockedCache(_KEPT)

    def now(self, one: Watched) -> WatchNow:
        """How something stands."""
        query = self._workspace.queries.get(one.query_id)
        key = (history_key(self._workspace, query), one.watch.model_dump_json())
        return self._kept.get_or_make(key, lambda: self._made(one))

    def _made(self, one: Watched) -> WatchNow:
        try:
            return self._row(one) if one.watch.what == "row" else self._figure(one)
        except ProblemError as error:
            return WatchNow(problem=error.problem.what)

    def _figure(self, one: Watched) -> WatchNow:
        found = self._history.figure(one.query_id, one.watch.column, one.watch.figure)
        if not found:
            return WatchNow(problem="There is no snapshot yet.")
        last = found[-1]
        other = next((at for at in reversed(found) if at.value != last.value), None)
        since = found[found.index(other) + 1] if other is not None else found[0]
        return WatchNow(
            last.snapshot.taken,
            last.value,
            other.value if other is not None else None,
            since.snapshot.taken,
            unit=unit_of(found, one.watch.column, one.watch.figure),
            points=[at.value for at in found[-_DRAWN:]],
            problem=last.why,
        )

    def _row(self, one: Watched) -> WatchNow:
        story = self._history.story(one.query_id, one.watch.key, one.watch.match)
        column = one.watch.column
        last = story.dates[-1]
        values = [then.values.get(column) if then is not None else None for _, then in story.dates]
        changes = [event for event in story.events if event.what != "changed" or column in event.changes]
        event = changes[-1]
        heading = next((own for own in last[0].columns if own.name == column), None)
        return WatchNow(
            last[0].taken,
            values[-1],
            event.changes[column][0] if column in event.changes else None,
            story.dates[event.at][0].taken,
            last[1] is not None,
            heading.unit if heading is not None else "",
            [number_of(value) for value in values[-_DRAWN:]] if column else [],
        )
