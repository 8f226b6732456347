"""Tables → a plain page with one table (HTML Living Standard, §4.9), which import functions of sheets read."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from html import escape
from typing import Any, BinaryIO

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions

from .format import Format, handed_on, utf8_text


def html_parts(columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]], title: str) -> Iterator[str]:
    """The page, a stretch of rows at a time."""
    head = "".join(f"<th>{_shown(column.name)}</th>" for column in columns)
    yield (
        f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>{_shown(title)}</title></head>\n'
        f"<body><table><thead><tr>{head}</tr></thead><tbody>\n"
    )
    some: list[str] = []
    for row in rows:
        some.append("<tr>" + "".join([f"<td>{_shown(value)}</td>" for value in row]) + "</tr>\n")
        if len(some) == 1000:
            yield "".join(some)
            some = []
    yield "".join(some) + "</tbody></table></body></html>\n"


def _shown(value: Any) -> str:
    if value is None or isinstance(value, Miss):
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return escape(utf8_text(value)) if isinstance(value, str) else str(value)


def write_html(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write a page with one table."""
    columns, rows = handed_on(columns, rows)
    for part in html_parts(columns, rows, title):
        out.write(part.encode())
    return FormulaCells()


FORMAT = Format(ending="html", label="a page", media_type="text/html; charset=utf-8", write=write_html)
