"""The registry of file formats. A further one is a file here and a line below."""

from __future__ import annotations

from . import delimited, html, json_rows, open_document, parquet, workbook
from .format import Format

# In the order in which they are offered.
ALL: tuple[Format, ...] = (
    workbook.FORMAT,
    delimited.CSV,
    delimited.TSV,
    open_document.FORMAT,
    json_rows.JSON,
    json_rows.JSON_LINES,
    parquet.FORMAT,
    html.FORMAT,
)
FORMATS: dict[str, Format] = {one.ending: one for one in ALL}


def endings(before: str = "") -> str:
    """The endings that there are, in words: xlsx, csv or json.

    Args:
        before: what stands before each of them, such as a full stop.
    """
    names = [f"{before}{one.ending}" for one in ALL]
    return f"{', '.join(names[:-1])} or {names[-1]}"
