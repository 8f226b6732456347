"""What all exhibits of a report have."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import Field

from tin_bucket.core.analysis.view import Condition
from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice


class Exhibit(Part):
    """A numbered exhibit.

    Attributes:
        query: the number of the query whose table it shows.
        title: what stands above it; it is named after what it shows where there is none.
        where: the conditions of the rows that it shows.
    """

    query: int
    title: str = Field(default="", max_length=300)
    where: list[Condition] = Field(default=[], max_length=20)

    def reads(self) -> list[str]:
        """The columns that it reads from top to bottom; some may be named twice."""
        return [one.column for one in self.where]


@dataclass(frozen=True, slots=True, kw_only=True)
class ExhibitKind(Choice[Exhibit]):
    """A kind of exhibit."""
