"""What the models of the query format have in common."""

from __future__ import annotations

from typing import Annotated
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import BaseModel, ConfigDict, Field

Name = Annotated[str, Field(pattern=r"^[A-Za-z_][A-Za-z0-9_]*$", max_length=80)]


class Part(BaseModel):
    """A part of a document; a member that it does not know is a fault."""

    model_config = ConfigDict(extra="forbid")


class Pair(Part):
    """A name and a value; the value may hold ``{parameter}``. Without a value the name stands alone."""

    name: str = Field(min_length=1)
    value: str | None = ""


def known_zone(value: str) -> str:
    """Check the name of an IANA time zone; an empty one is this machine's.

    Raises:
        ValueError: there is no such zone.
    """
    if value:
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError) as error:
            raise ValueError(f"“{value}” is not a time zone such as UTC or Europe/Berlin") from error
    return value
