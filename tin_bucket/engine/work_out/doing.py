"""What the steps work with: the sandbox, the other tables, and what they have in common."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from math import isfinite
from threading import Event
from typing import Any

from tin_bucket.core.columns.compressed import USUAL, Packed
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.sql import ROW, Sql
from tin_bucket.core.work_out.steps import Source

from .sandbox import Sandbox
from .source import TableSource
from .stage import Stage

WORKED_OUT = "worked out"
"""The origin of columns that a line made."""
BROUGHT_IN = "brought in"
"""The origin of columns of another table."""


@dataclass(frozen=True, slots=True)
class Doing:
    """What a step may use.

    Attributes:
        other: gives another table, as of the date of the one at hand.
        stop: set when nobody waits any more.
    """

    other: Callable[[Source], TableSource]
    stop: Event | None = None

    def sandbox(self) -> Sandbox:
        """A fresh connection."""
        return Sandbox(self.stop)


def columns_read(pieces: Iterable[Sql]) -> list[str]:
    """The columns that some SQL reads, but for the numbers of rows."""
    return sorted({name for piece in pieces for name in piece.reads if name != ROW})


def load(sandbox: Sandbox, stage: Stage, pieces: Iterable[Sql], name: str = "t") -> None:
    """Put the columns that some SQL reads into the sandbox, and no others."""
    sandbox.load(name, [(one, stage.values(one)) for one in columns_read(pieces)], stage.height)


def heading(name: str, kind: str | None, unit: str, values: Sequence[Any], origin: str = WORKED_OUT) -> TableColumn:
    """The heading of a new column; its kind is guessed of its values where it is not known."""
    guessed = values if isinstance(values, list | Packed) else list(values)
    return TableColumn(name, kind or guess_kind(guessed), origin, unit=unit)


def as_kind(values: list[Any], kind: str | None) -> list[Any]:
    """SQLite's values as values of a kind: it says 1 and 0 for yes and no."""
    if kind != "yes/no":
        return rounded(values)
    return [bool(value) if type(value) is int and value in (0, 1) else value for value in values]


def rounded(values: list[Any]) -> list[Any]:
    """Decimals with the fifteen digits that they hold for sure: 0.1 + 0.2 is 0.3. What is too large for a number is
    nothing."""
    if not any(type(value) is float for value in values):
        return values
    return [
        (float(f"{value:.15g}") if isfinite(value) else None) if type(value) is float else value for value in values
    ]


def long_list(height: int) -> list[Any] | Packed:
    """A list that is kept small where it will be long."""
    return Packed() if height >= USUAL.packed_from else []


def counted(number: int, one: str, many: str = "") -> str:
    """A number with what it counts: 1 row, 2 rows."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def shown(value: Any) -> str:
    """A value as a note shows it, in short."""
    text = (
        "blank" if value is None or value == "" else "yes" if value is True else "no" if value is False else str(value)
    )
    return text if len(text) <= 24 else f"{text[:23]}…"
