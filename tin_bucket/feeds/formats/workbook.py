"""Tables → new workbooks (Office Open XML, ISO/IEC 29500)."""

from __future__ import annotations

import io
import re
import shutil
import tempfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from typing import IO, Any, BinaryIO
from zipfile import ZIP_DEFLATED, ZipFile, ZipInfo

from tin_bucket.core.columns.kind_registry import KINDS
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions
from tin_bucket.feeds.workbook.references import SHEET_COLUMNS, SHEET_ROWS

from .format import Format, handed_on
from .workbook_rows import SheetRows

_CELL_CHARACTERS = 32_767
_LEVEL = 3  # Of compression: a good part of the size at a good part of the speed.
_SMALL = 2**31  # Bytes; a longer part needs the long form of a ZIP file's sizes.


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
    """A table that becomes a sheet: its title, its columns, its rows.

    Attributes:
        marks: names of columns; a cell of the first one is marked where its row has a value in the second one.
    """

    title: str
    columns: Sequence[TableColumn]
    rows: Iterable[Sequence[Any]]
    marks: Sequence[tuple[str, str]] = ()


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
    with ExitStack() as held:
        parts = [part for one in sheets for part in _parts_of(one, options, sheet_rows, held)]
        skeleton = io.BytesIO()
        _write_skeleton(parts, skeleton, options, about)
        _fill(skeleton, parts, out)


# Its cells are of these kinds, in this order, in a sheet that is written first: so their styles have these numbers.
_STYLED = [kind for kind in KINDS if kind.sheet_format and kind.temporal]
_STYLES = {kind.name: at for at, kind in enumerate(_STYLED, 1)}


@dataclass(frozen=True, slots=True)
class _Part:
    """A sheet of the new workbook.

    Attributes:
        rows: its rows as XML.
        last: the number of the last one.
    """

    title: str
    columns: Sequence[TableColumn]
    headings: Sequence[str]
    rows: IO[bytes]
    last: int
    marks: Sequence[tuple[int, int]] = ()


def _parts_of(one: SheetOf, options: ExportOptions, sheet_rows: int, held: ExitStack) -> Iterator[_Part]:
    """The sheets that a table takes, with their rows in files of their own."""
    columns, rows = handed_on(one.columns, one.rows)
    columns = columns[:SHEET_COLUMNS]
    writer = SheetRows(columns, _STYLES, options.moments == "text")
    following = iter(rows)
    first = 1 + int(options.headings)
    number = 1
    found: list[tuple[str, IO[bytes], int]] = []
    while True:
        file: IO[bytes] = held.enter_context(tempfile.TemporaryFile())  # noqa: SIM115 held until all is written
        done = writer.write(following, file, first, sheet_rows - first + 1)
        if not done and number > 1:
            break
        found.append((sheet_name(one.title, number), file, first + done - 1))
        if done < sheet_rows - first + 1:
            break
        number += 1
    headings = []
    for at, column in enumerate(columns):
        zone = writer.zones[at].words() if at in writer.zones else ""
        headings.append(", ".join(filter(None, (column.name, column.unit, zone)))[:_CELL_CHARACTERS])
    places = {column.name: at for at, column in enumerate(columns)}
    marks = [(places[own], places[by]) for own, by in one.marks if own in places and by in places]
    for title, file, last in found:
        yield _Part(title, columns, headings, file, last, marks)


def _write_skeleton(
    parts: Sequence[_Part], out: BinaryIO, options: ExportOptions, about: Sequence[tuple[str, str]]
) -> None:
    """Write the workbook without its rows."""
    import xlsxwriter  # It takes a while, and few tables need it.
    from xlsxwriter.utility import xl_rowcol_to_cell

    book = xlsxwriter.Workbook(out, {"strings_to_formulas": False, "strings_to_urls": False})
    for kind in _STYLED:
        book.add_format({"num_format": kind.sheet_format})._get_xf_index()
    head = book.add_format({"bold": True, "bg_color": "#F4EBF2", "bottom": 1})
    mark = book.add_format({"bg_color": "#F3DF8C"})
    taken: set[str] = set()
    for part in parts:
        sheet = book.add_worksheet(_distinct(part.title, taken))
        if options.headings:
            sheet.freeze_panes(1, 0)
        for at, heading in enumerate(part.headings):
            sheet.set_column(at, at, max(9, min(40, len(heading) + 3, 60)))
            if options.headings:
                sheet.write_string(0, at, heading, head)
        first = int(options.headings)
        for at, by in part.marks:
            # A value that was there before says that the cell changed (§18.3.1.18).
            where = xl_rowcol_to_cell(first, by, col_abs=True)
            rule = {"type": "formula", "criteria": f"=NOT(ISBLANK({where}))", "format": mark}
            sheet.conditional_format(first, at, max(part.last - 1, first), at, rule)
        if part.headings and options.headings:
            sheet.autofilter(0, 0, max(part.last - 1, 1), len(part.headings) - 1)
    if about:
        sheet = book.add_worksheet(_distinct(sheet_name("Where from", 1), taken))
        sheet.set_column(0, 0, 24)
        sheet.set_column(1, 1, 90)
        for line, (name, value) in enumerate(about):
            sheet.write_string(line, 0, name, head)
            sheet.write_string(line, 1, value[:_CELL_CHARACTERS])
    book.close()


_DIMENSION = re.compile(rb"<dimension [^>]*/>")
_NO_ROWS = b"<sheetData/>"


def _fill(skeleton: BinaryIO, parts: Sequence[_Part], out: BinaryIO) -> None:
    """Put the rows into the sheets of a skeleton; all else is as it was written."""
    by_name = {f"xl/worksheets/sheet{number}.xml": part for number, part in enumerate(parts, 1)}
    with ZipFile(skeleton) as old, ZipFile(out, "w", ZIP_DEFLATED, compresslevel=_LEVEL) as new:
        for entry in old.infolist():
            data = old.read(entry)
            part = by_name.get(entry.filename)
            if part is None:
                new.writestr(entry, data, ZIP_DEFLATED, _LEVEL)
                continue
            data = _DIMENSION.sub(b"", data, count=1)  # Optional, and wrong now (§18.3.1.35).
            head, end, tail = data.partition(b"</sheetData>")
            if not end:
                head, _, tail = data.partition(_NO_ROWS)
                head += b"<sheetData>"
            size = part.rows.tell()
            part.rows.seek(0)
            fresh = ZipInfo(entry.filename, entry.date_time)
            fresh.compress_type, fresh._compresslevel = ZIP_DEFLATED, _LEVEL  # type: ignore[attr-defined]
            with new.open(fresh, "w", force_zip64=size > _SMALL) as sheet:
                sheet.write(head)
                shutil.copyfileobj(part.rows, sheet, 1 << 20)
                sheet.write(b"</sheetData>" + tail)


def _distinct(name: str, taken: set[str]) -> str:
    made, number = name, 2
    while made.casefold() in taken:
        made, number = f"{_cut(name, 26)} ({number})", number + 1
    taken.add(made.casefold())
    return made


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
    takes=("headings", "moments"),
)
