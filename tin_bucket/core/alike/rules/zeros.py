"""Codes that differ in leading zeros alone."""

from __future__ import annotations

import re
from typing import Any, ClassVar, Literal

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.choice import Choice

_LEADING = re.compile(r"0+(?=[0-9])")


class LeadingZeros(AlikeRule):
    """Codes of digits are alike when they differ in leading zeros alone, also where one of them is a number."""

    has_form: ClassVar[bool] = True

    by: Literal["zeros"] = "zeros"

    def form(self, value: Any) -> Any:
        """The digits without leading zeros, as a text."""
        if isinstance(value, bool):
            return value
        if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
            value = int(value)
        if isinstance(value, int):
            return str(value)
        return _LEADING.sub("", value, count=1) if isinstance(value, str) and _LEADING.match(value) else value

    def words(self) -> str:
        """What it makes alike."""
        return "whatever its leading zeros"


RULE = Choice(
    key="zeros", model=LeadingZeros, label="codes, whatever their leading zeros", phrase="whatever its leading zeros"
)
