"""A report as a document."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Literal

from pydantic import BaseModel, Field, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.choice import union_of
from tin_bucket.core.hand_over.feed import FilePath

from .exhibit import Exhibit
from .exhibits.registry import EXHIBITS
from .figures.registry import AnyFigure
from .text import MOST_TEXT

Against = Literal["", "before", "P1D", "P7D", "P1M", "P3M", "P1Y"]
"""Which other date a report is held against by itself: none, the one before, or one so long before."""
AGAINST_WORDS: dict[Against, str] = {
    "": "nothing", "before": "the date before", "P1D": "a day before", "P7D": "a week before", "P1M": "a month before",
    "P3M": "three months before", "P1Y": "a year before",
}  # fmt: skip


class TextBlock(Part):
    """Text between exhibits: Markdown with figures in braces."""

    block: Literal["text"] = "text"
    text: str = Field(default="", max_length=MOST_TEXT)


if TYPE_CHECKING:
    Block = TextBlock | Exhibit
else:
    from dataclasses import dataclass

    @dataclass(frozen=True)
    class _Text:
        model: type[BaseModel] = TextBlock

    Block = union_of("block", (_Text(), *EXHIBITS))


class ReportChoice(Part):
    """What a reader can choose: only rows are counted and shown that fit. Tables without the column stay as they are.

    Attributes:
        name: what it is called.
        column: whose values are chosen among.
        how: whether the value is the one, or the first or the last that counts.
        value: what holds until the reader chooses; all where empty.
        asks: whether queries with a parameter of this name may be asked anew with what is chosen. Readers at an address
            never ask.
    """

    name: str = Field(min_length=1, max_length=80)
    column: str = Field(min_length=1, max_length=500)
    how: Literal["is", "from", "to"] = "is"
    value: str = Field(default="", max_length=500)
    asks: bool = False


class Report(Part):
    """A report."""

    tin_bucket_report: Literal[1] = Field(default=1, description="version of this format")
    title: str = Field(min_length=1, max_length=200)
    figures: list[AnyFigure] = Field(default=[], max_length=300)
    choices: list[ReportChoice] = Field(default=[], max_length=6)
    blocks: list[Block] = Field(default=[], max_length=200)
    against: Against = "P7D"
    files: list[FilePath] = Field(
        default=[],
        max_length=10,
        description="files that it is written to after each refresh; {date}, {time} and {report} stand for those",
    )
    address: str = Field(
        default="", max_length=60, pattern=r"^$|^[a-z0-9]+(-[a-z0-9]+)*$",
        description="the last part of its address for readers; it has none where this is empty",
    )  # fmt: skip

    @model_validator(mode="after")
    def _told_apart(self) -> Report:
        names = [one.name.casefold() for one in self.figures]
        for at, name in enumerate(names):
            if name in names[:at]:
                raise ValueError(f"two figures are named “{self.figures[at].name}”")
        return self

    def figure(self, name: str) -> object | None:
        """A figure by its name, in any case."""
        return next((one for one in self.figures if one.name.casefold() == name.casefold()), None)

    def reads(self, query: int) -> list[str]:
        """The columns of a query's table that are read from top to bottom, each once."""
        own = [one for one in (*self.figures, *self.blocks) if not isinstance(one, TextBlock) and one.query == query]
        return list(
            dict.fromkeys([*(one.column for one in self.choices), *(name for one in own for name in one.reads())])
        )

    def renumbered(self, numbers: Mapping[int, int]) -> Report:
        """The report of the same queries under other numbers; one that is not named gets 0, which no query has."""
        figures = [one.model_copy(update={"query": numbers.get(one.query, 0)}) for one in self.figures]
        blocks = [
            one.model_copy(update={"query": numbers.get(one.query, 0)}) if isinstance(one, Exhibit) else one
            for one in self.blocks
        ]
        return self.model_copy(update={"figures": figures, "blocks": blocks})

    def queries(self) -> list[int]:
        """The numbers of the queries that it is made of, each once."""
        own = [one.query for one in self.blocks if isinstance(one, Exhibit)]
        return list(dict.fromkeys([*own, *(one.query for one in self.figures)]))
