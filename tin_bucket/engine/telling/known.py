"""What is known now, as causes of notices ask for it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from tin_bucket.core.notices.facts import KeyState, QueryState
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.report.figure import ReportFigure, Told
from tin_bucket.core.schedule.due import newest_due
from tin_bucket.core.schedule.models import AnySchedule
from tin_bucket.engine.reports.reader import ReportReader
from tin_bucket.engine.tables.sides import two_dates
from tin_bucket.store.queries import Query
from tin_bucket.store.workspace import Workspace


class Known:
    """What is known now.

    Attributes:
        now: this moment.
    """

    def __init__(
        self, workspace: Workspace, reports: ReportReader, now: datetime, since: datetime, only: int | None = None
    ) -> None:
        """
        Args:
            since: the moment from which times count.
            only: the query that was refreshed, where a notice is of any query; all of them where absent.
        """
        self._workspace, self._reports = workspace, reports
        self.now = now
        self._since = since
        self._only = only

    def queries(self, query_id: int | None) -> Sequence[QueryState]:
        """A query, or that which was refreshed, or all of them."""
        wanted = query_id if query_id is not None else self._only
        try:
            found = self._workspace.queries.all() if wanted is None else [self._workspace.queries.get(wanted)]
        except ProblemError:
            return []  # It was deleted.
        return [self._state(one) for one in found]

    def _state(self, query: Query) -> QueryState:
        run = next(iter(self._workspace.runs.latest(query.id, most=1)), None)
        snapshot, since = self._newest(query)
        if run is None:
            return QueryState(query.id, query.name, snapshot=snapshot, since=since)
        gaps = "; ".join(run.report.gaps)
        why = run.problem.what if run.problem is not None else f"{gaps[:1].upper()}{gaps[1:]}." if gaps else ""
        drift = run.report.drift
        return QueryState(
            query.id, query.name, run.id, run.state, why, snapshot, since, drift.words if drift is not None else ""
        )

    def _newest(self, query: Query) -> tuple[int | None, dict[str, int]]:
        """The newest date, and what it changed."""
        if query.brief.start is None:
            snapshot = self._workspace.snapshots.latest(query.id)
            return (None, {}) if snapshot is None else (snapshot.id, dict(snapshot.since))
        parts = self._reports.parts
        try:
            dates = parts.tables.work_out.timeline(query)
            if len(dates) < 2:
                return (dates[-1].id if dates else None), {}
            laid = parts.comparisons.compare(two_dates(dates[-2].id, dates[-1].id, "today", query.id))
        except ProblemError:
            return None, {}
        return dates[-1].id, laid.found.counts()

    def ending_keys(self) -> Sequence[KeyState]:
        """The keys that end at some time."""
        out = []
        for service in self._workspace.services.all():
            state = self._workspace.vault.state(service.id)
            if state is not None and state.expires:
                ends = datetime.fromisoformat(state.expires)
                ends = ends if ends.tzinfo is not None else ends.replace(tzinfo=self.now.tzinfo)
                out.append(KeyState(service.id, service.name, ends))
        return out

    def figure(self, figure: ReportFigure) -> tuple[Told, Told | None]:
        """A figure of the newest table, and of the date before."""
        seen = self._reports.figure(figure, "before")
        return seen.now, seen.then

    def due(self, schedule: AnySchedule) -> datetime | None:
        """The newest moment since then at which something was due."""
        return newest_due(schedule, self._since, self.now)
