"""How a column of numbers is spread: how many rows lie in each step."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from pydantic import Field

from tin_bucket.core.chart.cells import Cells
from tin_bucket.core.chart.drawing import Axis, Canvas, Drawing, Panel, Series
from tin_bucket.core.chart.fields import EACH, SCALE
from tin_bucket.core.chart.kind import ChartKind
from tin_bucket.core.chart.model import MOST_NAME, ScaledChart
from tin_bucket.core.chart.parts import odd_values, panels_of
from tin_bucket.core.choice import FormField
from tin_bucket.core.columns.readings import Floats

_FEWEST, _MOST = 5, 60
_FINEST = 1e-290  # Below it numbers have no power of ten left.


class SpreadChart(ScaledChart):
    """A bar for each step of a number."""

    draw: Literal["spread"] = "spread"
    x: str = Field(default="", max_length=MOST_NAME, description="the column of numbers")
    steps: int | None = Field(default=None, ge=2, le=200, description="about so many steps; as many as suit if absent")

    def columns(self) -> list[str]:
        """The columns that it reads, each once."""
        return list(dict.fromkeys(filter(None, (self.x, self.each))))


def drawn(chart: SpreadChart, cells: Cells, canvas: Canvas) -> Drawing:
    """The steps of a column. A step holds its lower edge; the last one holds both.

    Raises:
        ProblemError: ``column-unknown``.
    """
    notes: list[str] = []
    column = cells.column(chart.x)
    numbers, odd = cells.numbers(chart.x)
    odd_values(odd, chart.x, "number", notes)
    empty = int(np.isnan(numbers).sum()) - odd
    if empty:
        notes.append(f"{empty:,} {'row has' if empty == 1 else 'rows have'} no value.")
    edges = step_edges(numbers[~np.isnan(numbers)], chart.steps)
    panels = []
    for label, rows in panels_of(cells, chart.each, notes):
        own = numbers[rows]
        counts = np.histogram(own[~np.isnan(own)], bins=edges)[0].tolist() if len(edges) > 1 else []
        series = Series("", counts, edges.tolist(), [], None, 0, int(sum(counts)))
        panels.append(Panel([series], label))
    along = Axis(chart.x, "number", column.unit)
    return Drawing("spread", along, [Axis("rows", "number")], panels, cells.height, list(dict.fromkeys(notes)))


def step_edges(numbers: Floats, steps: int | None = None) -> Floats:
    """Where steps of a round width begin and end: 1, 2 or 5 times a power of ten, from the lowest number to the
    highest. Shape (steps + 1,); none where there is no number.

    Args:
        steps: about how many; as Freedman and Diaconis have it (1981) where absent.
    """
    if not len(numbers):
        return np.zeros(0)
    low, high = float(numbers.min()), float(numbers.max())
    if low == high:
        return np.array([low, math.nextafter(high, math.inf) if abs(high) > 1e15 else high + 1])
    if steps is None:
        quarters = np.quantile(numbers, (0.25, 0.75))
        width = 2 * float(quarters[1] - quarters[0]) / len(numbers) ** (1 / 3)
        steps = _MOST // 2 if width <= 0 else int(min(max((high - low) / width, _FEWEST), _MOST))
    if (high - low) / steps < _FINEST:
        return np.array([low, high])
    width = _round_up((high - low) / steps)
    if bool((numbers == np.floor(numbers)).all()):
        width = max(width, 1.0)  # Between whole numbers there is nothing.
    first = math.floor(low / width) * width
    if first > low:
        first -= width  # A number that vanishes beside the width lies below the step that it would begin.
    count = max(1, math.ceil((high - first) / width))
    edges = first + width * np.arange(count + 1)
    if edges[-1] <= high and count < 10 * _MOST:
        edges = np.append(edges, edges[-1] + width) if edges[-1] < high else edges
    return np.asarray(edges, dtype=np.float64)


def _round_up(width: float) -> float:
    power = 10.0 ** math.floor(math.log10(width))
    return next((step * power for step in (1, 2, 5) if step * power >= width * (1 - 1e-9)), 10 * power)


KIND = ChartKind(
    key="spread", model=SpreadChart, label="Spread", phrase="the spread of {x}", drawn=drawn,
    fields=(
        FormField("x", "Of", "number column", required=True),
        FormField("steps", "Steps, about", "number", placeholder="as many as suit", least=2),
        EACH, *SCALE,
    ),
)  # fmt: skip
