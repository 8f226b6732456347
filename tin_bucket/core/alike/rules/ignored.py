"""Columns that are not looked at."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.choice import Choice


class Ignored(AlikeRule):
    """Whatever stands in these columns is alike."""

    ignores: ClassVar[bool] = True

    by: Literal["ignored"] = "ignored"
    columns: list[str] = Field(min_length=1, max_length=500, description="the columns that are not looked at")

    def words(self) -> str:
        """What it makes alike."""
        return "whatever it is"


RULE = Choice(key="ignored", model=Ignored, label="whatever it is: the column is ignored", phrase="whatever it is")
