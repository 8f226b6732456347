"""A token that a person pastes when asked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.auth.place import KeyPlaceModel
from tin_bucket.core.auth.source import LASTS, KeySourceModel, SecretSource
from tin_bucket.core.formats.durations import parse_duration


class Asked(KeySourceModel):
    """A token that a person pastes when asked; it is kept in memory until it ends, and never stored."""

    by: Literal["asked"] = "asked"
    lasts: str = Field(default="PT1H", description="ISO 8601 duration, when the token itself does not say")

    @field_validator("lasts")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        parse_duration(value)
        return value

    @property
    def pasted(self) -> bool:
        """It is."""
        return True

    @property
    def life_when_unknown(self) -> str | None:
        """As it was set."""
        return self.lasts

    def required_fields(self, places: Sequence[KeyPlaceModel]) -> list[str]:
        """The token alone."""
        return ["token"]


SOURCE = SecretSource(
    key="asked",
    model=Asked,
    label="a token that is pasted when asked",
    fields=(LASTS,),
    phrase="a token that is pasted when asked",
)
