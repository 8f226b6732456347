"""How far a workbook's sheet reaches, found before it is read: a reader makes room for every cell up to there."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import dataclass
from xml.etree import ElementTree

from tin_bucket.core.problem import fail

_MOST_SCANNED = 32 * 2**20  # Bytes of XML; a longer sheet has many cells, and its reader is bounded by memory.
_MOST_DIRECTORY = 4 * 2**20
_MUCH_ROOM, _SPARSE = 2_000_000, 50  # Cells there is room for, and how many of them stand for one value.
_CELL = re.compile(rb'<(?:\w+:)?c\s[^>]*?\br="([A-Za-z]{1,3})(\d{1,7})"')


@dataclass(frozen=True, slots=True)
class UsedRange:
    """How far a sheet reaches.

    Attributes:
        column: letters of the last column.
        columns: how many columns there are up to it.
        rows: the number of the last row.
        cells: how many cells are written.
    """

    column: str
    columns: int
    rows: int
    cells: int


def check_used_range(data: bytes, tab: str) -> None:
    """Refuse a workbook whose sheet reaches far beyond its values.

    Args:
        data: an Office Open XML workbook (ISO/IEC 29500-1 §18.3.1).
        tab: the name of the sheet.

    Raises:
        ProblemError: ``sheet-too-large``, with the furthest cell.
    """
    found = used_range(data, tab)
    if found is None:
        return
    room = found.columns * found.rows
    if room > _MUCH_ROOM and room > _SPARSE * found.cells:
        raise fail(
            "sheet-too-large",
            f"The sheet “{tab}” reaches to cell {found.column}{found.rows}, though only {found.cells:,} cells have a"
            " value or a format.",
            where="the workbook",
            do="Delete the empty rows and columns behind the table, save the workbook, then try again.",
        )


def used_range(data: bytes, tab: str) -> UsedRange | None:
    """How far a sheet reaches; ``None`` where it is not in this form, or too long to be looked through."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as book:
            member = _member(book, tab)
            if member is None or book.getinfo(member).file_size > _MOST_SCANNED:
                return None
            with book.open(member) as file:
                text = file.read(_MOST_SCANNED + 1)
    except (zipfile.BadZipFile, ElementTree.ParseError, KeyError, OSError, RuntimeError, ValueError, EOFError):
        return None  # The reader says what is wrong with it.
    if len(text) > _MOST_SCANNED:
        return None
    cells, last_column, last_row = 0, b"A", 1
    for column, row in _CELL.findall(text):
        cells += 1
        last_column = max(last_column, column.upper(), key=lambda name: (len(name), name))
        last_row = max(last_row, int(row))
    number = 0
    for letter in last_column.decode():
        number = number * 26 + ord(letter) - 64
    return UsedRange(last_column.decode(), number, last_row, cells)


def _member(book: zipfile.ZipFile, tab: str) -> str | None:
    """The part that holds a sheet (ISO/IEC 29500-2, relationships)."""
    sheets = _small(book, "xl/workbook.xml")
    links = _small(book, "xl/_rels/workbook.xml.rels")
    key = next(
        (
            next((value for name, value in one.attrib.items() if name.endswith("}id")), None)
            for one in sheets.iter()
            if one.tag.endswith("}sheet") and one.get("name") == tab
        ),
        None,
    )
    target = next((one.get("Target", "") for one in links.iter() if key is not None and one.get("Id") == key), None)
    if not target:
        return None
    return target.lstrip("/") if target.startswith("/") else f"xl/{target}"


def _small(book: zipfile.ZipFile, name: str) -> ElementTree.Element:
    with book.open(name) as file:
        return ElementTree.fromstring(file.read(_MOST_DIRECTORY))
