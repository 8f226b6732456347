"""The first one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.reduction import ReductionModel, as_cell


class First(ReductionModel):
    """The first one."""

    by: Literal["first"] = "first"

    def of(self, values: list[Any]) -> Any:
        """That one."""
        return as_cell(values[0]) if values else None

    def chosen(self, values: Sequence[Any]) -> int | None:
        """That one."""
        return 0 if values else None


REDUCTION = Choice(key="first", model=First, label="the first one", phrase="the first one")
