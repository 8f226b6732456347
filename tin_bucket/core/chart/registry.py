"""The registry of charts. A further kind is a file in ``kinds`` and a line here."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from tin_bucket.core.choice import union_of

from .cells import Cells
from .drawing import Canvas, Drawing
from .kind import ChartKind
from .kinds import bars, figure, line, points, spread
from .model import ChartModel, ScaledChart
from .words import sentence

# In the order in which they are offered.
CHARTS: tuple[ChartKind, ...] = (line.KIND, bars.KIND, points.KIND, spread.KIND, figure.KIND)
_BY_MODEL = {kind.model: kind for kind in CHARTS}

if TYPE_CHECKING:
    Chart = ChartModel
else:
    Chart = union_of("draw", CHARTS)


def draw(chart: ChartModel, cells: Cells, canvas: Canvas = Canvas()) -> Drawing:
    """A chart of the rows that are seen, with a sentence that says what it shows.

    Raises:
        ProblemError: ``column-unknown``, ``chart-unfit``.
    """
    made = _BY_MODEL[type(chart)].drawn(chart, cells, canvas)
    for panel in made.panels:
        for one in panel.series:
            # A sum that no number holds.
            one.y = [None if value is None or not math.isfinite(value) else value for value in one.y]
    if isinstance(chart, ScaledChart) and chart.logarithmic:
        values = (value for panel in made.panels for one in panel.series for value in one.y if value is not None)
        made.logarithmic = all(value > 0 for value in values)
        if not made.logarithmic:
            made.notes.append("The scale is not logarithmic, because not all of it is above 0.")
    made.sentence = sentence(made)
    return made
