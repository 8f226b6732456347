"""Tables → CSV (RFC 4180), and text with tabs between the fields (IANA ``text/tab-separated-values``)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import islice
from typing import Any, BinaryIO

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells, may_read_as_formulas, quote_cells, quote_headings
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import (
    DECIMALS,
    ENCODINGS,
    LINE_ENDS,
    QUOTES,
    SEPARATORS,
    USUAL,
    ExportOptions,
)

from .format import Format, handed_on

_TOGETHER = 1_000  # Rows that are written at once.
_KNOWN = {str, int, type(None)}
_KNOWN_NUMBERS = {*_KNOWN, float}


def _plain(value: Any, decimal: str = ".") -> Any:
    if isinstance(value, float) and decimal != ".":
        return repr(value).replace(".", decimal)
    if value is None or isinstance(value, Miss):
        return ""
    if value is True:
        return "true"
    if value is False:
        return "false"
    return value


def csv_lines(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    options: ExportOptions = USUAL,
    found: FormulaCells | None = None,
) -> Iterator[str]:
    """The table as CSV, a stretch of lines at a time: CRLF, quotes where they are needed, headings first.

    Args:
        found: takes the cells that read as formulas.
    """
    buffer = io.StringIO()
    writer = csv.writer(
        buffer,
        delimiter=SEPARATORS[options.separator],
        lineterminator=LINE_ENDS[options.line_ends],
        quoting=QUOTES[options.quotes],
    )
    found = FormulaCells() if found is None else found
    headings = quote_headings(columns, found, options.formulas_as_text)
    if options.headings:
        writer.writerow([column.name for column in headings])
    following = iter(rows)
    while some := list(islice(following, _TOGETHER)):
        writer.writerows(_plain_rows(columns, some, options, found))
        yield buffer.getvalue()
        buffer.seek(0)
        buffer.truncate()
    if rest := buffer.getvalue():
        yield rest


def _plain_rows(
    columns: Sequence[TableColumn], rows: list[Sequence[Any]], options: ExportOptions, found: FormulaCells
) -> Iterable[Sequence[Any]]:
    """Rows as the writer takes them, looked at column by column. It knows texts, numbers and nothing itself, so most
    go to it as they are."""
    known = _KNOWN_NUMBERS if options.decimal == "point" else _KNOWN
    cells = list(zip(*rows, strict=True))
    types = [set(map(type, one)) for one in cells]
    if any(map(may_read_as_formulas, cells, types)):
        rows = list(quote_cells(columns, rows, found, options.formulas_as_text))
        cells = list(zip(*rows, strict=True))
    if all(one <= known for one in types):
        return rows
    decimal = DECIMALS[options.decimal]
    plain = [
        one if kinds <= known else [_plain(value, decimal) for value in one]
        for one, kinds in zip(cells, types, strict=True)
    ]
    return zip(*plain, strict=True)


def write_csv(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write CSV (RFC 4180), by default with commas and as UTF-8 without a byte order mark."""
    columns, rows = handed_on(columns, rows)
    found = FormulaCells()
    codec, mark = ENCODINGS[options.encoding]
    out.write(mark)
    for lines in csv_lines(columns, rows, options, found):
        out.write(lines.encode(codec, "replace"))
    return found


def write_tabs(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write CSV with a tab between the fields; a text with a tab or a line break stands in quotes."""
    return write_csv(columns, rows, out, title, replace(options, separator="tab"))


CSV = Format(
    ending="csv",
    label="CSV",
    media_type="text/csv; charset=utf-8",
    write=write_csv,
    takes=("formulas_as_text", "headings", "separator", "decimal", "encoding", "line_ends", "quotes"),
)
TSV = Format(
    ending="tsv",
    label="text with tabs",
    media_type="text/tab-separated-values; charset=utf-8",
    write=write_tabs,
    takes=("formulas_as_text", "headings", "decimal", "encoding", "line_ends", "quotes"),
)
