"""The highest number."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import ExtremeModel


class Highest(ExtremeModel):
    """The highest number."""

    by: Literal["highest"] = "highest"

    def figure(self, numbers: list[int | float]) -> int | float:
        """That one."""
        return max(numbers)

    def best(self, numbers: list[tuple[float, int]]) -> int:
        """That one."""
        return max(numbers, key=lambda one: one[0])[1]


REDUCTION = Choice(key="highest", model=Highest, label="the highest", phrase="the highest")
