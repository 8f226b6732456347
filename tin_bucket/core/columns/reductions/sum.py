"""The sum of numbers."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import FigureModel, rounded


class Sum(FigureModel):
    """The sum of the numbers."""

    by: Literal["sum"] = "sum"

    def words(self) -> str:
        """What it makes."""
        return "sum of"

    def figure(self, numbers: list[int | float]) -> int | float:
        """The sum; whole where all are."""
        total = sum(numbers)
        return rounded(total) if isinstance(total, float) else total


REDUCTION = Choice(key="sum", model=Sum, label="their sum", phrase="their sum")
