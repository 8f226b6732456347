"""The values as one text."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.choice import Choice, FormField
from tin_bucket.core.columns.reduction import ReductionModel, text_of


class Joined(ReductionModel):
    """The values as one text."""

    by: Literal["joined"] = "joined"
    separator: str = Field(default=", ", max_length=100)

    def of(self, values: list[Any]) -> Any:
        """The texts of all that is there."""
        return self.separator.join(text_of(value) for value in values if value is not None)


REDUCTION = Choice(
    key="joined",
    model=Joined,
    label="joined text",
    fields=(FormField("separator", "Separator", "code"),),
    phrase="joined by “{separator}”",
)
