"""The lowest number."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import ExtremeModel


class Lowest(ExtremeModel):
    """The lowest number."""

    by: Literal["lowest"] = "lowest"

    def figure(self, numbers: list[int | float]) -> int | float:
        """That one."""
        return min(numbers)

    def best(self, numbers: list[tuple[float, int]]) -> int:
        """That one."""
        return min(numbers, key=lambda one: one[0])[1]


REDUCTION = Choice(key="lowest", model=Lowest, label="the lowest", phrase="the lowest")
