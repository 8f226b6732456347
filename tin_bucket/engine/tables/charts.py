"""Charts of tables as they are seen: with lines done, sorted and filtered."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.view import View
from tin_bucket.core.chart.cells import Cells, ChartColumn
from tin_bucket.core.chart.drawing import Canvas, Drawing
from tin_bucket.core.chart.model import ChartModel
from tin_bucket.core.chart.propose import LOOKED, offered, propose
from tin_bucket.core.chart.registry import draw
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.engine.work_out.work import without_totals

from .browse import Tables

_KEPT = 40
_CELLS = 3_000_000  # That columns which were drawn lately have together.


class Charts:
    """Draws charts; the latest are kept, each for just the contents that it is of."""

    def __init__(self, tables: Tables) -> None:
        self._tables = tables
        self._kept: LockedCache[tuple[Any, ...], Drawing] = LockedCache(_KEPT)
        # What is seen larger, or in another way, is of the same columns.
        self._columns: LockedCache[tuple[Any, ...], ChartColumn] = LockedCache(_CELLS, lambda one: len(one.values))

    def draw(self, source: TableSource, view: View, chart: ChartModel, canvas: Canvas = Canvas()) -> Drawing:
        """A chart of the rows that are seen; a row of totals is none of them.

        Raises:
            ProblemError: ``column-unknown``, ``chart-unfit``.
        """
        source = without_totals(source)
        key = (source.key, view.model_dump_json(), chart.model_dump_json(), canvas)
        return self._kept.get_or_make(key, lambda: draw(chart, self.cells(source, view, chart.columns()), canvas))

    def propose(self, source: TableSource, view: View, match: list[str]) -> list[ChartModel]:
        """Charts that suit the columns that are shown, the likeliest first.

        Args:
            match: the columns that say which row is which.
        """
        source = without_totals(source)
        shown = [one.name for one in source.columns if not one.hidden]
        cells = self.cells(source, view, shown)
        found = [offered(cells.column(name), match == [name]) for name in shown]
        return propose(found, min(cells.height, LOOKED))

    def cells(self, source: TableSource, view: View, names: Sequence[str]) -> Cells:
        """Columns of the rows that are seen, as charts read them; those that were read lately are kept."""
        seen = view.model_dump_json()
        known = {name: self._columns.get((source.key, seen, name)) for name in names}
        missing = [name for name, one in known.items() if one is None]
        for name, (heading, values) in self._tables.columns_seen(source, missing, view).items():
            known[name] = made = ChartColumn(name, heading.kind, heading.unit, values)
            self._columns.put((source.key, seen, name), made)
        rows = self._tables.seen(source, view)
        return Cells(len(rows), known.get, rows)
