"""All dates of a table as a Parquet dataset, for engines that read many files."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.hand_over.feed import FeedKind, FeedModel, FilePath
from tin_bucket.core.work_out.line import Chip, Word


class HistoryFeed(FeedModel):
    """A folder with a Parquet file for each snapshot, parted by date; only dates that are not there are written."""

    to: Literal["history"] = "history"
    path: FilePath = Field(description="the folder")
    whole: bool = Field(default=True, description="whether dates before the first time are written too")

    @model_validator(mode="after")
    def _whole_tables(self) -> HistoryFeed:
        if self.rows != "all" or self.most is not None:
            raise ValueError("a history has the whole table of each date")
        return self

    def place(self) -> str:
        """sailings-history"""
        return self.path

    def destination(self) -> list[Word]:
        """to the Parquet history in sailings-history"""
        return ["to the Parquet history in ", Chip(self.path, "path")]


KIND = FeedKind(
    key="history",
    model=HistoryFeed,
    label="a Parquet history",
    hint="Writes each snapshot once, into a folder parted by date such as taken=2026-11-25.",
    fields=(
        FormField("path", "Folder", "code", placeholder="sailings-history", required=True, wide=True),
        FormField("whole", "Also the dates until now", "yes"),
        FormField("when", "When", "text", options=(
            Option("complete", "after each complete refresh"),
            Option("any", "after each refresh, also an incomplete one"),
            Option("schedule", "at times of its own"),
            Option("by hand", "by hand alone"))),
        FormField("schedule", "Times of its own", "times", wide=True, with_field="when", with_values=("schedule",)),
    ),
)  # fmt: skip
