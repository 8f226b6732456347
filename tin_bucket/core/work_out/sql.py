"""Pieces of SQL in which columns are not written yet.

A piece of SQL is written twice: for the statement that people copy, with the names of the columns in double quotes,
and for the engine, which numbers its columns, because SQLite takes names that differ in case for the same one.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

ROW = "#row"
"""The column that numbers the rows of a table from 1, so that there is a row before and a first one."""


@dataclass(frozen=True, slots=True)
class Col:
    """A column by its name."""

    name: str


@dataclass(frozen=True, slots=True)
class Sql:
    """A piece of SQL: texts, and the columns between them."""

    parts: tuple[str | Col, ...]

    def render(self, naming: Callable[[str], str]) -> str:
        """The text, with each column as `naming` writes it."""
        return "".join(part if isinstance(part, str) else naming(part.name) for part in self.parts)

    @property
    def reads(self) -> frozenset[str]:
        """The names of the columns in it."""
        return frozenset(part.name for part in self.parts if isinstance(part, Col))

    def __str__(self) -> str:
        return self.render(quoted)


def sql(*parts: str | Col | Sql) -> Sql:
    """Pieces one after the other."""
    out: list[str | Col] = []
    for part in parts:
        out += part.parts if isinstance(part, Sql) else [part]
    return Sql(tuple(out))


def joined(separator: str, pieces: Iterable[Sql]) -> Sql:
    """Pieces with a text between each two."""
    out: list[str | Sql] = []
    for piece in pieces:
        out += [separator, piece] if out else [piece]
    return sql(*out)


def quoted(name: str) -> str:
    """A name in double quotes (ISO/IEC 9075-2 §5.2, delimited identifier)."""
    return '"' + name.replace('"', '""') + '"'


def literal(value: Any) -> str:
    """A value as SQL text: a text in single quotes, a number as digits."""
    if value is None:
        return "NULL"
    if isinstance(value, bool):
        return str(int(value))
    if isinstance(value, int | float):
        return repr(value)
    # A NUL ends the text of a statement.
    return "'" + str(value).replace("\0", "").replace("'", "''") + "'"
