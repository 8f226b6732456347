"""The mean of numbers."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import FigureModel, rounded


class Mean(FigureModel):
    """The mean of the numbers."""

    by: Literal["mean"] = "mean"

    def words(self) -> str:
        """What it makes."""
        return "mean of"

    def figure(self, numbers: list[int | float]) -> int | float:
        """The arithmetic mean."""
        total = sum(numbers)
        return rounded((rounded(total) if isinstance(total, float) else total) / len(numbers))


REDUCTION = Choice(key="mean", model=Mean, label="their mean", phrase="their mean")
