"""Tables → CSV (RFC 4180), and text with tabs between the fields (IANA ``text/tab-separated-values``)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from itertools import islice
from typing import Any, BinaryIO

from tin_bucket.core.interchange.formulas import FormulaCells, may_read_as_formulas, quote_cells, quote_headings
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import ENCODINGS, LINE_ENDS, SEPARATORS, USUAL, ExportOptions

from .csv_fields import fields_of
from .format import Format, handed_on

_TOGETHER = 1_000  # Rows that are written at once.
_BLANK = '""'  # The only field of a line, so that the line is not an empty one.


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
    end = LINE_ENDS[options.line_ends]
    separator = SEPARATORS[options.separator]
    found = FormulaCells() if found is None else found
    headings = quote_headings(columns, found, options.formulas_as_text)
    first = ""
    if options.headings:
        first = _joined([fields_of((column.name,), {str}, options) for column in headings], 1, separator, end)
    following = iter(rows)
    while some := list(islice(following, _TOGETHER)):
        fields = _columns_of_fields(columns, some, options, found)
        yield first + _joined(fields, len(some), separator, end)
        first = ""
    if first:
        yield first


def _joined(fields: list[Sequence[str]], height: int, separator: str, end: str) -> str:
    """Lines of fields, each with its end.

    Args:
        fields: of each column, `height` of them.
    """
    if not fields:
        return end * height
    if len(fields) == 1:
        return end.join([field or _BLANK for field in fields[0]]) + end
    return end.join(map(separator.join, zip(*fields, strict=True))) + end


def _columns_of_fields(
    columns: Sequence[TableColumn], rows: list[Sequence[Any]], options: ExportOptions, found: FormulaCells
) -> list[Sequence[str]]:
    cells = list(zip(*rows, strict=True))
    types = [set(map(type, one)) for one in cells]
    if any(map(may_read_as_formulas, cells, types)):
        cells = list(zip(*quote_cells(columns, rows, found, options.formulas_as_text), strict=True))
    return [fields_of(one, kinds, options) for one, kinds in zip(cells, types, strict=True)]


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
