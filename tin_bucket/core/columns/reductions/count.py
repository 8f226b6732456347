"""How many there are."""

from __future__ import annotations

from typing import Any, Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import Cell, ReductionModel, values_in
from tin_bucket.core.formats.jsonpath import Place


class Counted(ReductionModel):
    """How many there are."""

    by: Literal["count"] = "count"

    def words(self) -> str:
        """What it makes."""
        return "how many"

    def of(self, values: list[Any]) -> Any:
        """Their number."""
        return len(values)

    def reader(self, rest: Place) -> Cell:
        """Items are counted, or the values that they have at a place."""
        if not rest:
            return len
        return lambda items: sum(value is not None for value in values_in(items, rest))


REDUCTION = Choice(key="count", model=Counted, label="how many there are", phrase="how many there are")
