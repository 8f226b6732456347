"""A figure of a report: what it is read from, and what it says."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

from pydantic import Field, field_validator

from tin_bucket.core.analysis.compare import ColumnChange
from tin_bucket.core.analysis.view import Condition
from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.readings import Floats
from tin_bucket.core.problem import fail
from tin_bucket.core.table.table import TableColumn

MOST_NAME = 200
RESERVED = ("as of", "against", "end")
"""Names that mean something else in a text."""

Where = Sequence[Condition]


class FigureRows(Protocol):
    """The table that a figure is read from, as of a date, with what the reader chose."""

    @property
    def taken(self) -> str:
        """As of when, ISO 8601."""

    def count(self, where: Where) -> int:
        """How many rows meet all conditions.

        Raises:
            ProblemError: ``column-unknown``, ``value-unreadable``.
        """

    def column(self, name: str, where: Where) -> tuple[TableColumn, Sequence[Any]] | None:
        """A column's heading, and its cells in the rows that meet all conditions; nothing where there is no such
        column."""

    def numbers(self, name: str, where: Where) -> tuple[Floats, int]:
        """The numbers of a column in these rows, NaN where a cell has none, and how many have another value."""

    def moves(self) -> Moves | None:
        """What differs from the date that the report is read against; nothing where there is none."""


@dataclass(frozen=True, slots=True)
class Moves:
    """What differs between two dates of a table.

    Attributes:
        counts: ``new``, ``gone``, ``changed`` → how many rows.
        columns: of each column that changed, how.
    """

    counts: dict[str, int]
    columns: dict[str, ColumnChange]


@dataclass(frozen=True, slots=True)
class Told:
    """What a figure is, on one date.

    Attributes:
        value: a number, a text such as a name, or a moment, ISO 8601; nothing where there is none.
        amount: of a name, the number that it was chosen by.
        unit: of the number.
        counts: whether the number counts rows or values.
        where: the conditions of the rows that it is of; nothing where it is of no rows.
        notes: what was left out, in sentences.
        why: why there is no value.
    """

    value: float | str | None
    amount: float | None = None
    unit: str = ""
    counts: bool = False
    where: list[Condition] | None = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    why: str = ""

    @property
    def number(self) -> float | None:
        """The number that is held against that of another date."""
        return self.amount if isinstance(self.value, str) else self.value


class ReportFigure(Part):
    """A figure.

    Attributes:
        name: what a text calls it.
        query: the number of the query whose table it is of.
        where: the conditions of the rows that count.
        decimals: as many as suit it where absent.
    """

    name: str = Field(min_length=1, max_length=MOST_NAME)
    query: int
    where: list[Condition] = Field(default=[], max_length=20)
    decimals: int | None = Field(default=None, ge=0, le=8)

    def reads(self) -> list[str]:
        """The columns that it reads; some may be named twice."""
        named = (getattr(self, field, "") for field in ("column", "by"))
        conditions = [*self.where, *getattr(self, "meet", ())]
        return [*filter(None, named), *(one.column for one in conditions)]

    @field_validator("name")
    @classmethod
    def _writable(cls, value: str) -> str:
        name = " ".join(value.split())
        if not name or any(one in name for one in "{}:\\"):
            raise ValueError("the name of a figure has no braces, colons or backslashes")
        if name.casefold() in RESERVED or name.casefold().startswith("when "):
            raise ValueError(f"“{name}” means something else in a text")
        return name


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportFigureKind(Choice[ReportFigure]):
    """A kind of figure.

    Attributes:
        told: reads it.
        parts: what a text can say of it, beside the value itself.
    """

    told: Callable[[Any, FigureRows], Told]
    parts: tuple[Literal["change", "moved", "then", "percent", "amount"], ...] = ("change", "moved", "percent", "then")


def column_of(rows: FigureRows, name: str, where: Where) -> tuple[TableColumn, Sequence[Any]]:
    """A column that a figure reads.

    Raises:
        ProblemError: ``column-unknown``.
    """
    found = rows.column(name, where) if name else None
    if found is None:
        raise fail(
            "column-unknown",
            f"There is no column “{name[:80]}”." if name else "No column is chosen.",
            where="figure",
            do="Choose another column for the figure.",
        )
    return found


def odd_cells(count: int, column: str) -> list[str]:
    """What is said of cells that are no numbers."""
    if not count:
        return []
    return [
        f"{count:,} value{'' if count == 1 else 's'} of {column} {'is no number' if count == 1 else 'are no numbers'}."
    ]
