"""An entry of the registry of charts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.choice import Choice

from .cells import Cells
from .drawing import Canvas, Drawing
from .model import ChartModel


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartKind(Choice[ChartModel]):
    """A kind of chart.

    Attributes:
        drawn: makes the drawing of a chart from the rows that are seen.
    """

    drawn: Callable[[Any, Cells, Canvas], Drawing]
