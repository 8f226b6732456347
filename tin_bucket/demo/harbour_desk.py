"""The workbook of the demo's harbour desk, as people keep one: a formatted table with formulas and notes beside it, a
board with sums and a chart, a picture. Its table is fed each day."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
import xlsxwriter

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import Brief
from tin_bucket.core.hand_over.kinds.address import AddressFeed
from tin_bucket.core.hand_over.kinds.history import HistoryFeed
from tin_bucket.core.hand_over.kinds.sheet import SheetFeed
from tin_bucket.store.workspace import Workspace

NAME = "Harbour desk.xlsx"
HISTORY = "sailings-history"
_HEADINGS = ("sailing_id", "departs", "route", "port", "vessel", "status", "delay", "car fare")
_HEAD = 4  # The row of the headings.
_NOTES = ("Coach party of 40 expected", "Ask for the spare ramp", "Captain on leave, relief crew")


def with_feeds(brief: Brief) -> Brief:
    """The brief of the sailings, which hands its table over to the desk's workbook, a live address and a history."""
    sheet = SheetFeed(
        id="harbourdesk",
        path=NAME,
        sheet="Sailings",
        cell=f"A{_HEAD}",
        way="update",
        gone="remove",
        notes="let go",
        new_columns="leave out",
        stamp="A2",
    )
    address = AddressFeed(id="address", name="sailings")
    return brief.model_copy(update={"hand_over": [sheet, address, HistoryFeed(id="history", path=HISTORY)]})


def make_desk(workspace: Workspace, query_id: int) -> Path:
    """Make the workbook with the newest table of the sailings, in the folder for what is handed over."""
    path = workspace.settings.own_folder / NAME
    path.parent.mkdir(parents=True, exist_ok=True)
    snapshot = workspace.snapshots.latest(query_id)
    rows: list[list[Any]] = []
    if snapshot is not None:
        names = [column.name for column in snapshot.columns]
        places = [names.index(heading) for heading in _HEADINGS]
        rows = [[row[at] for at in places] for row in workspace.snapshots.all_rows(snapshot.id)]
    book = xlsxwriter.Workbook(path)
    board = book.add_worksheet("Board")
    last = _write_sailings(book, rows)
    _write_board(book, board, sorted({str(row[2]) for row in rows}), last)
    book.close()
    return path


def _write_sailings(book: Any, rows: Sequence[Sequence[Any]]) -> int:
    """The table with its formulas and notes; returns its last row."""
    title = book.add_format({"bold": True, "font_size": 15, "font_color": "#2F5878"})
    soft = book.add_format({"italic": True, "font_color": "#5B6470"})
    head = book.add_format({"bold": True, "bg_color": "#DCE6EE", "bottom": 2, "text_wrap": True})
    moment = book.add_format({"num_format": "ddd d mmm, hh:mm", "align": "left"})
    money = book.add_format({"num_format": "#,##0.00"})
    warn = book.add_format({"bg_color": "#F3DF8C"})
    note = book.add_format({"bg_color": "#FFF8D9", "italic": True})
    sheet = book.add_worksheet("Sailings")
    sheet.write(0, 0, "Sailings, a week behind and a week ahead", title)
    sheet.write(1, 0, "", soft)
    sheet.write_row(_HEAD - 1, 0, [*_HEADINGS, "late?", "note"], head)
    planned = [at for at, row in enumerate(rows) if row[5] == "planned"]
    noted = dict(zip(planned[40 :: max(1, len(planned) // 4)], _NOTES, strict=False))
    for at, row in enumerate(rows):
        line = _HEAD + at
        for column, value in enumerate(row):
            if value is None or isinstance(value, Miss):
                continue
            if column == 1:
                sheet.write_datetime(line, column, datetime.fromisoformat(value).replace(tzinfo=None), moment)
            elif isinstance(value, int | float):
                sheet.write_number(line, column, value, money if column == 7 else None)
            else:
                sheet.write_string(line, column, str(value))
        sheet.write_formula(line, 8, f'=IF(G{line + 1}>10,"late","")')
        sheet.write(line, 9, noted.get(at, ""), note)
    last = max(_HEAD + len(rows), _HEAD + 1)
    for column, width in enumerate((12, 19, 28, 17, 15, 11, 8, 10, 8, 34)):
        sheet.set_column(column, column, width)
    sheet.freeze_panes(_HEAD, 1)
    sheet.autofilter(_HEAD - 1, 0, last - 1, 9)
    sheet.conditional_format(_HEAD, 6, last - 1, 6, {"type": "data_bar", "bar_color": "#6B2A5F", "bar_solid": True})
    late = {"type": "cell", "criteria": "==", "value": '"late"', "format": warn}
    sheet.conditional_format(_HEAD, 8, last - 1, 8, late)
    sheet.data_validation(_HEAD, 5, last - 1, 5, {"validate": "list", "source": ["planned", "arrived", "cancelled"]})
    sheet.write_comment(_HEAD - 1, 9, "Notes stay with their sailing, also when the table is fed.")
    return last


def _write_board(book: Any, sheet: Any, routes: Sequence[str], last: int) -> None:
    """Sums by route, worked out by formulas, with a chart and a picture."""
    title = book.add_format({"bold": True, "font_size": 15, "font_color": "#2F5878"})
    head = book.add_format({"bold": True, "bg_color": "#DCE6EE", "bottom": 2})
    total = book.add_format({"bold": True, "top": 1})
    mean = book.add_format({"num_format": "0.0"})
    share = book.add_format({"num_format": "0 %"})

    def cells(column: str) -> str:
        return f"Sailings!${column}${_HEAD + 1}:${column}${last}"

    sheet.write(0, 0, "Harbour desk", title)
    sheet.write_formula(1, 0, "=Sailings!A2")
    sheet.write_row(3, 0, ["Route", "Sailings", "Late", "Late, share", "Mean delay"], head)
    for at, route in enumerate(routes):
        line = 4 + at
        sheet.write_string(line, 0, route)
        sheet.write_formula(line, 1, f"=COUNTIF({cells('C')},A{line + 1})")
        sheet.write_formula(line, 2, f'=COUNTIFS({cells("C")},A{line + 1},{cells("I")},"late")')
        sheet.write_formula(line, 3, f"=IF(B{line + 1}=0,0,C{line + 1}/B{line + 1})", share)
        sheet.write_formula(line, 4, f"=IFERROR(AVERAGEIF({cells('C')},A{line + 1},{cells('G')}),0)", mean)
    end = 4 + len(routes)
    sheet.write(end, 0, "All", total)
    sheet.write_formula(end, 1, f"=SUM(B5:B{end})", total)
    sheet.write_formula(end, 2, f"=SUM(C5:C{end})", total)
    chart = book.add_chart({"type": "bar"})
    chart.add_series(
        {
            "name": "Late sailings",
            "categories": f"=Board!$A$5:$A${end}",
            "values": f"=Board!$C$5:$C${end}",
            "fill": {"color": "#6B2A5F"},
        }
    )
    chart.set_legend({"none": True})
    chart.set_title({"name": "Late sailings by route"})
    sheet.insert_chart("G4", chart)
    delays = book.add_chart({"type": "line"})
    delays.add_series({"name": "Delay", "values": f"={cells('G')}", "line": {"color": "#2F5878", "width": 1}})
    delays.set_legend({"none": True})
    delays.set_title({"name": "Delays of the two weeks, in minutes"})
    sheet.insert_chart("G20", delays)
    sheet.insert_image("D1", "waves.png", {"image_data": io.BytesIO(_waves()), "object_position": 3})
    sheet.set_column(0, 0, 30)
    sheet.set_column(1, 4, 12)
    sheet.hide_gridlines(2)


def _waves(width: int = 220, height: int = 34) -> bytes:
    """A picture of waves, as PNG (W3C PNG, third edition)."""
    x, y = np.meshgrid(np.arange(width), np.arange(height))
    crest = height * 0.45 + 5 * np.sin(x / 11) + 2 * np.sin(x / 5)
    pixels = np.where((y > crest)[..., None], [47, 88, 120], [251, 251, 252]).astype(np.uint8)
    raw = b"".join(b"\0" + line.tobytes() for line in pixels)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    parts = chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(raw)) + chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + parts
