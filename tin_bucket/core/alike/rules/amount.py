"""Numbers that differ by no more than an amount."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.alike.rule import AlikeRule, number_of
from tin_bucket.core.choice import Choice, FormField

# Decimals are not exact: 0.3 - 0.2 is a little below 0.1, and 0.4 - 0.3 a little above.
_SLACK = 1e-9


class WithinAmount(AlikeRule):
    """Numbers are alike when they differ by no more than an amount."""

    by: Literal["amount"] = "amount"
    amount: float = Field(ge=0, allow_inf_nan=False, description="the largest difference, in the unit of the column")

    def alike(self, old: Any, new: Any) -> bool:
        """Whether the two are numbers so close to each other."""
        then, now = number_of(old), number_of(new)
        if then is None or now is None:
            return False
        return abs(now - then) <= self.amount + _SLACK * max(abs(now), abs(then), self.amount)

    def words(self) -> str:
        """What it makes alike."""
        return f"within {self.amount:g}"


RULE = Choice(
    key="amount", model=WithinAmount, label="numbers within an amount", phrase="within {amount}",
    fields=(FormField("amount", "Differ by up to", "number", required=True, least=0),),
)  # fmt: skip
