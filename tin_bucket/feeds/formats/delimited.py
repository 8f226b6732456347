"""Tables → CSV (RFC 4180), and text with tabs between the fields (IANA ``text/tab-separated-values``)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Any, BinaryIO

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells, quote_cells, quote_headings
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
    columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]], options: ExportOptions = USUAL
) -> Iterator[str]:
    """The table as CSV, a stretch of lines at a time: CRLF, quotes where they are needed, headings first."""
    buffer = io.StringIO()
    writer = csv.writer(
        buffer,
        delimiter=SEPARATORS[options.separator],
        lineterminator=LINE_ENDS[options.line_ends],
        quoting=QUOTES[options.quotes],
    )
    decimal = DECIMALS[options.decimal]
    if options.headings:
        writer.writerow([column.name for column in columns])
    for number, row in enumerate(rows, 1):
        writer.writerow([_plain(value, decimal) for value in row])
        if number % 1000 == 0:
            yield buffer.getvalue()
            buffer.seek(0)
            buffer.truncate()
    yield buffer.getvalue()


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
    headings = quote_headings(columns, found, options.formulas_as_text)
    for lines in csv_lines(headings, quote_cells(columns, rows, found, options.formulas_as_text), options):
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
