"""What all kinds of feeds have in common."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, TypeVar

from pydantic import Field, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice, FormField, Option
from tin_bucket.core.schedule.models import Schedule
from tin_bucket.core.work_out.line import Chip, Word, maybe

FilePath = Annotated[str, Field(min_length=1, max_length=1_000)]

_ROWS = {"all": "", "new": "new rows alone", "changed": "rows that changed"}
_WHEN = {
    "complete": "after each complete refresh",
    "any": "after each refresh",
    "schedule": "at times of its own",
    "by hand": "by hand",
}


class FeedModel(Part):
    """A feed. Each kind has a subclass with its own ``to``; `live` says whether readers come by themselves."""

    live: ClassVar[bool] = False

    to: str
    id: str = Field(
        default="",
        pattern=r"^[a-z0-9]{0,40}$",
        description="what tells it from others for good; without one, where it goes to does",
    )
    rows: Literal["all", "new", "changed"] = Field(
        default="all", description="the whole table, rows that are new, or all that differs"
    )
    since_days: int | None = Field(
        default=None, ge=1, le=3_660, description="new or changed for so many days; else since the last time"
    )
    most: int | None = Field(default=None, ge=1, le=100_000_000, description="no more rows than that")
    when: Literal["complete", "any", "schedule", "by hand"] = Field(
        default="complete",
        description="after each complete refresh, also after incomplete ones, at times of its own, or by hand alone",
    )
    schedule: Schedule | None = Field(default=None, description="the times of its own")
    off: bool = Field(default=False, description="whether it is switched off")

    @property
    def key(self) -> str:
        """What its record is kept under: its id, or a digest (BLAKE2b, RFC 7693) of where it goes to."""
        if self.id:
            return self.id
        return hashlib.blake2b(f"{self.to}\n{self.place()}".encode(), digest_size=5).hexdigest()

    def place(self) -> str:
        """Where it goes to, in short."""
        raise NotImplementedError

    def account(self) -> str:
        """What its password is bound to; empty where it needs none."""
        return ""

    def destination(self) -> list[Word]:
        """Where it goes to and how, as a part of a sentence."""
        raise NotImplementedError

    def words(self) -> list[Word]:
        """The feed as a sentence."""
        what = maybe(self.rows != "all", Chip(_ROWS[self.rows], "rows"), " ")
        first = maybe(self.most is not None, "the first ", Chip(f"{self.most or 0:,}", "most"), " rows ")
        when = _WHEN[self.when] if self.schedule is None else self.schedule.words()
        return [*what, *first, *self.destination(), ", ", Chip(when, "when")]

    @model_validator(mode="after")
    def _since_of_something(self) -> FeedModel:
        if self.since_days is not None and self.rows == "all":
            raise ValueError("“since” goes with new rows, or rows that changed")
        if (self.schedule is not None) != (self.when == "schedule"):
            raise ValueError("times of its own go with “when”: schedule, and need a schedule")
        return self


F = TypeVar("F", bound=FeedModel)


@dataclass(frozen=True, slots=True, kw_only=True)
class FeedKind(Choice[F]):
    """An entry of the registry of feeds.

    Attributes:
        hint: what it is good for, in a few words.
    """

    hint: str


# The fields that the forms of all kinds end with.
COMMON = (
    FormField(
        "when", "When", "text", wide=True,
        options=(
            Option("complete", "after each complete refresh"),
            Option("any", "after each refresh, also an incomplete one"),
            Option("schedule", "at times of its own"),
            Option("by hand", "by hand alone"),
        ),
    ),
    FormField("schedule", "Times of its own", "times", wide=True, with_field="when", with_values=("schedule",)),
    FormField(
        "rows", "Rows", "text", more=True,
        options=(
            Option("all", "the whole table"),
            Option("new", "only new rows"),
            Option("changed", "only what differs: new, changed, gone"),
        ),
    ),
    FormField(
        "since_days", "New or changed for, days", "number", placeholder="since the last time", least=1, more=True,
        with_field="rows", with_values=("new", "changed"),
    ),
    FormField("most", "At most, rows", "number", placeholder="all", least=1, more=True),
)  # fmt: skip
