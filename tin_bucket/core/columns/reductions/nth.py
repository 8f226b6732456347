"""The one with a number."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import Choice, FormField
from tin_bucket.core.columns.reduction import ReductionModel, as_cell


class Nth(ReductionModel):
    """The one with a number; −1 is the last."""

    by: Literal["number"] = "number"
    number: int = Field(ge=-100_000, le=100_000, description="counted from 1; from the end when negative")

    @field_validator("number")
    @classmethod
    def _not_nought(cls, value: int) -> int:
        if value == 0:
            raise ValueError("items are counted from 1, or from −1 at the end")
        return value

    def words(self) -> str:
        """Which one."""
        return f"number {self.number}" if self.number > 0 else f"number {-self.number} from the end"

    def chosen(self, values: Sequence[Any]) -> int | None:
        """That one."""
        at = self.number - 1 if self.number > 0 else len(values) + self.number
        return at if 0 <= at < len(values) else None

    def of(self, values: list[Any]) -> Any:
        """That one."""
        at = self.chosen(values)
        return None if at is None else as_cell(values[at])


REDUCTION = Choice(
    key="number",
    model=Nth,
    label="the one with a number",
    fields=(FormField("number", "Number; −1 is the last", "number", required=True),),
    phrase="number {number}",
)
