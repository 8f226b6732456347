"""An empty cell and nought."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.choice import Choice


class EmptyIsZero(AlikeRule):
    """No value, an empty text and the number nought are alike."""

    has_form: ClassVar[bool] = True

    by: Literal["empty"] = "empty"

    def form(self, value: Any) -> Any:
        """Nothing for each of the three."""
        nought = isinstance(value, int | float) and not isinstance(value, bool) and value == 0
        return None if nought or value == "" else value

    def words(self) -> str:
        """What it makes alike."""
        return "empty or 0"


RULE = Choice(key="empty", model=EmptyIsZero, label="empty and 0", phrase="empty or 0")
