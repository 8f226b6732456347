"""The registry of exhibits. A further kind is a file here and a line."""

from __future__ import annotations

from tin_bucket.core.report.exhibit import ExhibitKind

from . import changes, chart, table

# In the order in which they are offered.
EXHIBITS: tuple[ExhibitKind, ...] = (chart.KIND, table.KIND, changes.KIND)
