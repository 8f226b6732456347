"""The median of numbers."""

from __future__ import annotations

from statistics import median
from typing import Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import FigureModel, rounded


class Median(FigureModel):
    """The median of the numbers: of an even number of them the mean of the two in the middle."""

    by: Literal["median"] = "median"

    def words(self) -> str:
        """What it makes."""
        return "median of"

    def figure(self, numbers: list[int | float]) -> int | float:
        """The one in the middle; whole where it is."""
        found = median(numbers)
        return rounded(found) if isinstance(found, float) else found


REDUCTION = Choice(key="median", model=Median, label="their median", phrase="their median")
