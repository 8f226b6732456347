"""Rows in memory that charts are drawn of."""

import numpy as np

from tin_bucket.core.chart.cells import Cells, ChartColumn
from tin_bucket.core.columns.kind_registry import guess_kind


def cells(units=None, /, **columns):
    """The rows of some columns, as a chart sees them."""
    height = len(next(iter(columns.values()))) if columns else 0
    known = {
        name: ChartColumn(name, guess_kind(list(values)), (units or {}).get(name, ""), list(values))
        for name, values in columns.items()
    }
    return Cells(height, known.get, np.arange(height, dtype=np.int64))
