"""The last one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import ReductionModel, as_cell


class Last(ReductionModel):
    """The last one."""

    by: Literal["last"] = "last"

    def of(self, values: list[Any]) -> Any:
        """That one."""
        return as_cell(values[-1]) if values else None

    def chosen(self, values: Sequence[Any]) -> int | None:
        """That one."""
        return len(values) - 1 if values else None


REDUCTION = Choice(key="last", model=Last, label="the last one", phrase="the last one")
