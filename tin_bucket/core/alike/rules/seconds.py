"""Times that lie close to each other."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.choice import Choice, FormField


class WithinSeconds(AlikeRule):
    """Times are alike when they lie within so many seconds of each other, whatever their offsets."""

    by: Literal["seconds"] = "seconds"
    seconds: float = Field(ge=0, allow_inf_nan=False, description="the longest time between the two")

    def alike(self, old: Any, new: Any) -> bool:
        """Whether the two are times, both with an offset or both without, so close to each other."""
        then, now = _moment(old), _moment(new)
        if then is None or now is None or (then.tzinfo is None) != (now.tzinfo is None):
            return False
        return abs((now - then).total_seconds()) <= self.seconds

    def words(self) -> str:
        """What it makes alike."""
        return f"within {self.seconds:g} s"


def _moment(value: Any) -> datetime | None:
    """A cell as a moment (ISO 8601); nothing for a day without a time."""
    if not isinstance(value, str) or len(value) <= 10:
        return None
    try:
        return datetime.fromisoformat(value)
    except ValueError:
        return None


RULE = Choice(
    key="seconds", model=WithinSeconds, label="times within some seconds", phrase="within {seconds} s",
    fields=(FormField("seconds", "Differ by up to, in seconds", "number", required=True, start="60", least=0),),
)  # fmt: skip
