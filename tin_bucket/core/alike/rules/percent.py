"""Numbers that differ by no more than a share of what they were."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.alike.rule import AlikeRule, number_of
from tin_bucket.core.choice import Choice, FormField

_SLACK = 1e-9  # Decimals are not exact.


class WithinPercent(AlikeRule):
    """Numbers are alike when the new one differs by no more than some percent of the old one."""

    by: Literal["percent"] = "percent"
    percent: float = Field(ge=0, allow_inf_nan=False, description="the largest difference, in percent of what it was")

    def alike(self, old: Any, new: Any) -> bool:
        """Whether the two are numbers so close to each other. Of nought every change is more than any percent."""
        then, now = number_of(old), number_of(new)
        if then is None or now is None:
            return False
        return abs(now - then) <= abs(then) * self.percent / 100 * (1 + _SLACK)

    def words(self) -> str:
        """What it makes alike."""
        return f"within {self.percent:g} %"


RULE = Choice(
    key="percent", model=WithinPercent, label="numbers within some percent", phrase="within {percent} %",
    fields=(FormField("percent", "Differ by up to, %", "number", required=True, least=0),),
)  # fmt: skip
