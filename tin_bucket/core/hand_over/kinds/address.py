"""A live address: programs read the table by themselves, as files or as an OData service."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.hand_over.feed import FeedKind, FeedModel
from tin_bucket.core.work_out.line import Chip, Word, maybe


class AddressFeed(FeedModel):
    """An address at which readers with a key find the table."""

    live: ClassVar[bool] = True

    to: Literal["address"] = "address"
    name: str = Field(pattern=r"^[a-z][a-z0-9_]{0,60}$", description="in the address, such as sailings")
    older_than: int | None = Field(
        default=None, ge=1, le=100_000, description="minutes; a table that is older when it is read is refreshed"
    )

    @model_validator(mode="after")
    def _whole_tables(self) -> AddressFeed:
        if self.rows != "all" or self.most is not None:
            raise ValueError("an address has the whole table; readers ask for what changed with ?since=")
        return self

    def place(self) -> str:
        """/tables/sailings"""
        return f"/tables/{self.name}"

    def destination(self) -> list[Word]:
        """to the live address /tables/sailings"""
        age = maybe(self.older_than, ", refreshed when older than ", Chip(f"{self.older_than} minutes", "older_than"))
        return ["to the live address ", Chip(self.place(), "name"), *age]

    def words(self) -> list[Word]:
        """It runs when somebody reads, so no time is said."""
        return self.destination()


KIND = FeedKind(
    key="address",
    model=AddressFeed,
    label="a live address",
    hint="Spreadsheets and report tools read it by themselves: as CSV, JSON, a workbook, or an OData service.",
    fields=(
        FormField("name", "Name in the address", "code", placeholder="sailings", required=True, wide=True),
        FormField("older_than", "Refresh when older than, minutes", "number", placeholder="never", least=1, wide=True),
    ),
)
