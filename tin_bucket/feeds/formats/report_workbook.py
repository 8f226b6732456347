"""A report → a new workbook (Office Open XML, ISO/IEC 29500): its text, and a sheet for each exhibit, charts among them
as the workbook's own."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from datetime import datetime
from typing import Any, BinaryIO

from tin_bucket.core.report.seen import BlockSeen, CellSeen, ReportSeen, SourceSeen, TableSeen

from .chart_workbook import add_chart, new_book, own_sheet

_WIDE = 100
_MOST_TEXT = 32_767  # Characters of a cell (ISO/IEC 29500-1, annex of limits as workbooks keep them).


def write_report(seen: ReportSeen, when: Callable[[str], str], out: BinaryIO) -> None:
    """Write a workbook.

    Args:
        when: a moment, ISO 8601, in words.
    """
    book = new_book(out)
    taken: set[str] = set()
    looks = _Looks(book)
    first, _ = own_sheet(book, "Report", taken)
    first.set_column(0, 0, _WIDE)
    first.set_column(1, 1, 60)
    first.write_string(0, 0, seen.title[:_MOST_TEXT], looks.title)
    dates = f"As of {when(seen.as_of)}" + (f", against {when(seen.against)}" if seen.against else "")
    first.write_string(1, 0, dates, looks.soft)
    row = 3
    for block in seen.blocks:
        words = block.text if block.block == "text" else f"{block.number} · {block.title}\n{block.text}".strip()
        for paragraph in words.split("\n\n"):
            first.write_string(row, 0, paragraph[:_MOST_TEXT], looks.text)
            first.write_string(row, 1, "\n".join(_source(one, when) for one in block.sources)[:_MOST_TEXT], looks.soft)
            row += 1
        for odd in block.odd:
            first.write_string(row, 0, odd[:_MOST_TEXT], looks.soft)
            row += 1
        _exhibit(book, block, taken, looks, when)
    book.close()


class _Looks:
    def __init__(self, book: Any) -> None:
        self.title = book.add_format({"bold": True, "font_size": 15})
        self.bold = book.add_format({"bold": True, "bottom": 1})
        self.soft = book.add_format({"font_color": "#5F6975", "text_wrap": True, "valign": "top"})
        self.text = book.add_format({"text_wrap": True, "valign": "top"})
        self.day = book.add_format({"num_format": "yyyy-mm-dd", "align": "left"})
        self.moment = book.add_format({"num_format": "yyyy-mm-dd hh:mm", "align": "left"})
        self.changed = book.add_format({"bg_color": "#FFF8D9"})
        self.noted = book.add_format({"bold": True, "bottom": 2, "bottom_color": "#6B2A5F"})


def _exhibit(book: Any, block: BlockSeen, taken: set[str], looks: _Looks, when: Callable[[str], str]) -> None:
    words = f"{block.number} {block.title}"
    if block.drawing is not None:
        add_chart(book, block.drawing, block.title, words, taken)
    if block.table is not None:
        sheet, _ = own_sheet(book, words, taken)
        _table(sheet, block, block.table, looks, when)


def _table(sheet: Any, block: BlockSeen, table: TableSeen, looks: _Looks, when: Callable[[str], str]) -> None:
    sheet.write_string(0, 0, f"{block.number} · {block.title}", looks.title)
    sheet.write_string(1, 0, "; ".join(_source(one, when) for one in block.sources)[:_MOST_TEXT])
    marks = any(row.state for row in table.rows)
    left = 1 if marks else 0
    if marks:
        sheet.write_string(3, 0, "since then", looks.bold)
    for at, (name, unit, _) in enumerate(table.headings):
        sheet.write_string(3, left + at, f"{name}, {unit}" if unit else name, looks.bold)
        sheet.set_column(left + at, left + at, max(11, min(40, 2 + len(name))))
    for number, row in enumerate(table.rows, 4):
        if marks:
            sheet.write_string(number, 0, row.state)
        for at, (cell, (_, _, numeric)) in enumerate(zip(row.cells, table.headings, strict=True)):
            _cell(sheet, number, left + at, cell, numeric, looks)
            if cell.was is not None:
                sheet.write_comment(number, left + at, f"was {cell.was or 'empty'}"[:_MOST_TEXT])
    for at, text in enumerate(table.totals if any(table.totals) else ()):
        sheet.write_string(4 + len(table.rows), left + at, text, looks.bold)
    sheet.freeze_panes(4, 0)


def _cell(sheet: Any, row: int, column: int, cell: CellSeen, numeric: bool, looks: _Looks) -> None:
    look = looks.noted if cell.marked else looks.changed if cell.was is not None else None
    value = cell.value
    if isinstance(value, int | float) and not isinstance(value, bool) and numeric and abs(value) < 10**15:
        sheet.write_number(row, column, value, look)
        return
    if isinstance(value, str) and cell.text and cell.text != value:
        with suppress(ValueError, OverflowError):
            # With the clock that it is written with: a workbook knows no zones.
            moment = datetime.fromisoformat(value).replace(tzinfo=None)
            sheet.write_datetime(row, column, moment, look or (looks.day if len(value) == 10 else looks.moment))
            return
    if cell.text:
        sheet.write_string(row, column, cell.text[:_MOST_TEXT], look)


def _source(one: SourceSeen, when: Callable[[str], str]) -> str:
    parts = [one.name + (f", as of {when(one.taken)}" if one.taken else "")]
    parts.append(f"{one.state}, {one.rows:,} rows" if one.state != "missing" else "no table")
    return "; ".join([*parts, *filter(None, (one.evidence, one.old)), *one.notes])
