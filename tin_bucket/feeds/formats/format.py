"""A file format: how a table is written, and what a person can choose of it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, BinaryIO

from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import ExportOptions

Write = Callable[[Sequence[TableColumn], Iterable[Sequence[Any]], BinaryIO, str, ExportOptions], FormulaCells]


@dataclass(frozen=True, slots=True, kw_only=True)
class Format:
    """An entry of the registry of file formats.

    Attributes:
        ending: of the file's name, without the full stop.
        label: what it is called where one is chosen.
        media_type: as IANA lists it.
        write: takes columns, rows, the open file, a title and how it is written. It gives the texts that read as
            formulas where the format has no types that keep them texts.
        streams: whether it is written from the beginning to the end, without going back.
        takes: the members of :class:`ExportOptions` that matter to it.
    """

    ending: str
    label: str
    media_type: str
    write: Write
    streams: bool = True
    takes: tuple[str, ...] = ()


def handed_on(
    columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]]
) -> tuple[Sequence[TableColumn], Iterable[Sequence[Any]]]:
    """The columns that are handed on, which the hidden ones are not, with their part of the rows."""
    shown = [at for at, column in enumerate(columns) if not column.hidden]
    if len(shown) == len(columns):
        return columns, rows
    return [columns[at] for at in shown], ([row[at] for at in shown] for row in rows)


def utf8_text(value: str) -> str:
    """A text that can be written as UTF-8: lone surrogates, which it has no place for, are question marks."""
    return value if value.isascii() else value.encode("utf-8", "replace").decode()
