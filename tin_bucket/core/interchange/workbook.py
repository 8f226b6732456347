"""A file's bytes → the rows of a sheet, by the ending of its name."""

from __future__ import annotations

import io
from datetime import date, datetime, time, timedelta
from typing import Any

from python_calamine import CalamineError, CalamineWorkbook

from tin_bucket.core.problem import fail

from .spreadsheet import SheetSettings, SheetTable, make_sheet, read_cells, read_json_sheet
from .used_range import check_used_range

TEXT_ENDINGS = ("csv", "tsv", "txt", "tab")
JSON_ENDINGS = ("json", "jsonl", "ndjson", "geojson")
BOOK_ENDINGS = ("xlsx", "ods", "xlsm", "xlsb")
ENDINGS = (*TEXT_ENDINGS, *JSON_ENDINGS, *BOOK_ENDINGS)


def read_sheet(name: str, data: bytes, settings: SheetSettings) -> SheetTable:
    """Read a file.

    Args:
        name: the file's name, or ``pasted`` for cells from the clipboard.
        settings: how to read it; a workbook's sheet is its first when none is named.

    Raises:
        ProblemError: ``sheet-unreadable``, with the line where there is one, or ``format-unknown``.
    """
    ending = name.lower().rsplit(".", 1)[-1]
    if ending in JSON_ENDINGS:
        return read_json_sheet(data)
    if ending in BOOK_ENDINGS:
        return _read_book(data, settings)
    if ending in TEXT_ENDINGS or "." not in name:
        if "." not in name and data.lstrip()[:1] in (b"{", b"["):
            return read_json_sheet(data)
        return read_cells(data, settings)
    raise fail(
        "format-unknown",
        f"A file that ends in .{ending} is not read as a sheet.",
        where=name,
        do=f"These are: {', '.join(ENDINGS)}.",
    )


def _read_book(data: bytes, settings: SheetSettings) -> SheetTable:
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        tabs = list(book.sheet_names)
        tab = settings.tab or (tabs[0] if tabs else "")
        if tab not in tabs:
            raise fail(
                "sheet-unreadable",
                f"The workbook has no sheet “{tab}”.",
                where="the workbook",
                do=f"Its sheets: {', '.join(tabs) or 'none'}.",
            )
        check_used_range(data, tab)
        rows = [[_cell(cell) for cell in row] for row in book.get_sheet_by_name(tab).to_python()]
    except (CalamineError, ValueError, OSError, RuntimeError) as error:
        raise fail(
            "sheet-unreadable",
            "This is not a workbook that can be read; it may be damaged or locked with a password.",
            where="the workbook",
            do="Save it again as .xlsx or .ods, then try again.",
        ) from error
    kept = [(at, row) for at, row in enumerate(rows, 1) if at > settings.skip and any(c not in (None, "") for c in row)]
    sheet = make_sheet([row for _, row in kept], settings.header, {"tab": tab}, [at for at, _ in kept])
    sheet.tabs = tabs
    return sheet


def _cell(value: Any) -> Any:
    """A workbook's cell as JSON has it: whole numbers whole, dates as ISO 8601."""
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return int(value)
    if isinstance(value, datetime):
        return value.date().isoformat() if value.time() == time() else value.isoformat()
    if isinstance(value, date | time):
        return value.isoformat()
    return str(value) if isinstance(value, timedelta) else value
