"""What all kinds of work-out lines have in common."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice

from .shape import Shape
from .steps import Source, Step

ColumnName = Annotated[str, Field(min_length=1, max_length=10_000)]
NewName = Annotated[str, Field(min_length=1, max_length=500)]
Value = Annotated[str | int | float | bool | None, Field(union_mode="left_to_right")]


@dataclass(frozen=True, slots=True)
class Chip:
    """A word of a sentence that can be changed: what it says, and the field of the form that it is of."""

    text: str
    field: str


Word = str | Chip


class LineModel(Part):
    """A work-out line. Each kind has a subclass with its own ``do``."""

    do: str
    off: bool = Field(default=False, description="whether the line is switched off")

    def words(self) -> list[Word]:
        """The line as a sentence."""
        raise NotImplementedError

    def plan(self, shape: Shape) -> Step:
        """What the line does to a table.

        Raises:
            ProblemError: what does not fit the table, with the place.
        """
        raise NotImplementedError

    def sources(self) -> list[Source]:
        """The other tables that it reads."""
        return []

    def with_names(self, names: dict[str, str]) -> LineModel:
        """The line with new names for queries that it reads."""
        return self


L = TypeVar("L", bound=LineModel)


@dataclass(frozen=True, slots=True, kw_only=True)
class LineKind(Choice[L]):
    """An entry of the registry of lines.

    Attributes:
        hint: what it is good for, in a few words.
        finds: words under which people look for it.
        heading: what it is called at a column's heading; empty where it is not offered there.
        of: for which columns it is offered there.
        starts: the member that takes the column it is begun from.
    """

    hint: str
    finds: tuple[str, ...] = ()
    heading: str = ""
    of: Literal["any", "numbers", "texts", "dates"] = "any"
    starts: str = ""


def chips(names: list[str], field: str, most: int = 4) -> list[Word]:
    """Some names as words: a, b and c."""
    shown = names[:most] if len(names) > most else names
    out: list[Word] = []
    for at, name in enumerate(shown):
        if at:
            out.append(" and " if at == len(shown) - 1 and len(names) <= most else ", ")
        out.append(Chip(name, field))
    if len(names) > most:
        out += [" and ", Chip(f"{len(names) - most} more", field)]
    return out


def maybe(holds: object, *words: Word) -> list[Word]:
    """Some words, where something holds."""
    return list(words) if holds else []


def said(value: Any) -> str:
    """A value as a sentence says it."""
    if value is None:
        return "blank"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"“{value}”" if isinstance(value, str) else f"{value:,}" if isinstance(value, int) else f"{value:g}"
