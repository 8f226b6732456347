"""Texts that differ in their case and spaces alone."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.choice import Choice


class SameText(AlikeRule):
    """Texts are alike when they differ in upper and lower case and in spaces alone."""

    has_form: ClassVar[bool] = True

    by: Literal["text"] = "text"

    def form(self, value: Any) -> Any:
        """The text with its case folded (Unicode 15 §3.13) and one space for each run of them, none at its ends."""
        return " ".join(value.casefold().split()) if isinstance(value, str) else value

    def words(self) -> str:
        """What it makes alike."""
        return "whatever its case and spaces"


RULE = Choice(
    key="text", model=SameText, label="texts, whatever their case and spaces", phrase="whatever its case and spaces"
)
