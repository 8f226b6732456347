"""What a query offers to a report: figures, charts, a report to begin with."""

from __future__ import annotations

from datetime import datetime, timedelta

from tin_bucket.core.analysis.view import View
from tin_bucket.core.chart.propose import LOOKED, offered, propose
from tin_bucket.core.columns.readings import group_text
from tin_bucket.core.problem import fail
from tin_bucket.core.report.model import Against
from tin_bucket.core.report.propose import AtHand, few_values
from tin_bucket.engine.tables.charts import Charts
from tin_bucket.engine.work_out.work import without_totals

from .sources import ReportParts

_WEEK = timedelta(days=7)


def at_hand(parts: ReportParts, charts: Charts, query_id: int) -> AtHand:
    """A query as it is written about.

    Raises:
        ProblemError: ``query-unknown``, ``table-missing`` where it has no table yet, or what is wrong with a line.
    """
    query = parts.workspace.queries.get(query_id)
    dates = parts.tables.work_out.timeline(query)
    if not dates and query.brief.start is None:
        raise fail(
            "table-missing",
            f"“{query.name}” has no table yet.",
            where=f"query “{query.name}”",
            do="Refresh it, then write about it.",
        )
    with parts.workspace.read_together():
        source = without_totals(parts.tables.work_out.dated(query, dates[-1] if dates else None))
        match = query.brief.keep.match or (dates[-1].match if dates else [])
        shown = [one.name for one in source.columns if not one.hidden]
        cells = charts.cells(source, View(), shown)
        columns = [offered(cells.column(name), match == [name]) for name in shown]
        values = {}
        for name in few_values(columns):
            counts = parts.tables.values(source, name).counts
            texts = [group_text(value) for (_, value), _ in counts.most_common()]
            values[name] = [text for text in texts if text]
        kept = list(query.brief.show) or propose(columns, min(cells.height, LOOKED))
    return AtHand(query.id, query.name, cells.height, columns, values, kept, _against([one.taken for one in dates]))


def _against(taken: list[str]) -> Against:
    """Which other date there is: one a week before, else the one before."""
    if len(taken) < 2:
        return ""
    first, last = datetime.fromisoformat(taken[0]), datetime.fromisoformat(taken[-1])
    return "P7D" if last - first >= _WEEK else "before"
