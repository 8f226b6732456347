"""How texts and numbers are read as another kind."""

from __future__ import annotations

from pydantic import Field, field_validator

from tin_bucket.core.base import Part, known_zone
from tin_bucket.core.formats.date_patterns import check_pattern


class Reads(Part):
    """How texts and numbers are read as another kind."""

    comma: bool = Field(default=False, description="decimals have a comma; full stops and spaces group digits")
    dates: str | None = Field(
        default=None,
        max_length=100,
        description="strftime pattern (POSIX.1-2017), or “seconds” or “milliseconds” since 1970; ISO 8601 when absent",
    )
    zone: str | None = Field(default=None, description="IANA time zone of dates without an offset, and of days")
    yes: list[str] = Field(default=[], max_length=50, description="words for yes; the usual ones when empty")
    no: list[str] = Field(default=[], max_length=50, description="words for no; the usual ones when empty")

    empty: list[str] = Field(
        default=[], max_length=50, description="texts that mean that there is no value, such as “-” or “n/a”"
    )

    @field_validator("dates")
    @classmethod
    def _pattern_is_known(cls, value: str | None) -> str | None:
        if value is not None and value not in ("seconds", "milliseconds"):
            check_pattern(value)
        return value

    @field_validator("zone")
    @classmethod
    def _zone_is_known(cls, value: str | None) -> str | None:
        return None if value is None else known_zone(value)
