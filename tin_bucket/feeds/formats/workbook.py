"""Tables → new workbooks (Office Open XML, ISO/IEC 29500)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, BinaryIO

import xlsxwriter

from tin_bucket.core.columns.kind_registry import KINDS, kind_of
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions
from tin_bucket.feeds.workbook.cells import EXACT
from tin_bucket.feeds.workbook.references import SHEET_COLUMNS, SHEET_ROWS

from .format import Format, handed_on

_CELL_CHARACTERS = 32_767
_FIRST_DAY = date(1900, 3, 1)  # Before this, the day numbers of sheets are off by one.


def write_workbook(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
    sheet_rows: int = SHEET_ROWS,
) -> FormulaCells:
    """Write a new workbook with one sheet.

    Codes and long ids stay text, dates become dates of the sheet, headings are frozen and can be filtered by.
    A table that is larger than a sheet continues in further sheets. Texts stay texts here: no cell is a formula.
    """
    write_sheets([SheetOf(title, columns, rows)], out, options, sheet_rows=sheet_rows)
    return FormulaCells()


@dataclass(frozen=True, slots=True)
class SheetOf:
    """A table that becomes a sheet: its title, its columns, its rows."""

    title: str
    columns: Sequence[TableColumn]
    rows: Iterable[Sequence[Any]]


def write_sheets(
    sheets: Sequence[SheetOf],
    out: BinaryIO,
    options: ExportOptions = USUAL,
    about: Sequence[tuple[str, str]] = (),
    sheet_rows: int = SHEET_ROWS,
) -> None:
    """Write a new workbook with a sheet for each table.

    Args:
        about: names and values of a last sheet that says where the tables are from.
    """
    book = xlsxwriter.Workbook(
        out,
        {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False},
    )
    formats = {
        "head": book.add_format({"bold": True, "bg_color": "#F4EBF2", "bottom": 1}),
        **{kind.name: book.add_format({"num_format": kind.sheet_format}) for kind in KINDS if kind.sheet_format},
    }
    taken: set[str] = set()
    for one in sheets:
        _write_sheet(book, formats, one, taken, options, sheet_rows)
    if about:
        sheet = book.add_worksheet(_distinct(sheet_name("Where from", 1), taken))
        sheet.set_column(0, 0, 24)
        sheet.set_column(1, 1, 90)
        for line, (name, value) in enumerate(about):
            sheet.write_string(line, 0, name, formats["head"])
            sheet.write_string(line, 1, value[:_CELL_CHARACTERS])
    book.close()


def _write_sheet(
    book: Any, formats: dict[str, Any], one: SheetOf, taken: set[str], options: ExportOptions, sheet_rows: int
) -> None:
    columns, rows = handed_on(one.columns, one.rows)
    columns = columns[:SHEET_COLUMNS]
    following = iter(rows)
    number, more = 1, True
    while more:
        sheet = book.add_worksheet(_distinct(sheet_name(one.title, number), taken))
        first = int(options.headings)
        if options.headings:
            sheet.freeze_panes(1, 0)
        for at, column in enumerate(columns):
            heading = f"{column.name}, {column.unit}" if column.unit else column.name
            sheet.set_column(at, at, max(9, min(40, len(heading) + 3, 60)))
            if options.headings:
                sheet.write_string(0, at, heading[:_CELL_CHARACTERS], formats["head"])
        line = first - 1
        more = False
        for row in following:
            line += 1
            for at, (column, value) in enumerate(zip(columns, row, strict=False)):
                _write_cell(sheet, line, at, value, column.kind, formats)
            if line == sheet_rows - 1:
                more = True
                break
        if columns and options.headings:
            sheet.autofilter(0, 0, max(line, 1), len(columns) - 1)
        number += 1


def _distinct(name: str, taken: set[str]) -> str:
    made, number = name, 2
    while made.casefold() in taken:
        made, number = f"{_cut(name, 26)} ({number})", number + 1
    taken.add(made.casefold())
    return made


def _write_cell(sheet: Any, line: int, at: int, value: Any, kind: str, formats: dict[str, Any]) -> None:
    if value is None or isinstance(value, Miss):
        return
    if isinstance(value, bool):
        sheet.write_boolean(line, at, value)
    elif isinstance(value, int | float) and abs(value) < EXACT:
        sheet.write_number(line, at, value)
    elif (
        kind in formats and kind_of(kind).temporal and isinstance(value, str) and (moment := _moment(value)) is not None
    ):
        sheet.write_datetime(line, at, moment, formats[kind])
    else:
        sheet.write_string(line, at, str(value)[:_CELL_CHARACTERS])


def _moment(text: str) -> datetime | None:
    try:
        moment = datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        return None
    return moment if moment.date() >= _FIRST_DAY else None


def sheet_name(title: str, number: int = 1) -> str:
    """What a sheet can be called, of a title: the first one, or a further one of a long table."""
    clean = "".join("_" if char in "[]:*?/\\" else char for char in title).strip("' ") or "Table"
    return _cut(clean, 31) if number == 1 else f"{_cut(clean, 26)} ({number})"


def _cut(text: str, most: int) -> str:
    """The beginning of a text that takes so many units of UTF-16, which is how a workbook counts."""
    while len(text.encode("utf-16-le", "surrogatepass")) > 2 * most:
        text = text[:-1]
    return text.rstrip("' ")  # Neither may be at the end of a name.


FORMAT = Format(
    ending="xlsx",
    label="a workbook",
    media_type="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    write=write_workbook,
    streams=False,
    takes=("headings",),
)
