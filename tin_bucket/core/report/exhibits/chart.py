"""A chart, with the other date as thin lines."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.chart.registry import Chart
from tin_bucket.core.report.exhibit import Exhibit, ExhibitKind


class ChartExhibit(Exhibit):
    """A chart of a table."""

    block: Literal["chart"] = "chart"
    chart: Chart

    def reads(self) -> list[str]:
        """Those of its conditions and of its chart."""
        return [*super().reads(), *self.chart.columns()]


KIND = ExhibitKind(key="chart", model=ChartExhibit, label="Chart", phrase="a chart")
