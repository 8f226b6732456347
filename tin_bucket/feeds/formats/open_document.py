"""Tables → spreadsheets of OpenDocument (ISO/IEC 26300, part 3), written as a stream."""

from __future__ import annotations

import math
import re
import tempfile
from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from itertools import chain, groupby, islice
from typing import Any, BinaryIO
from xml.sax.saxutils import escape, quoteattr
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions
from tin_bucket.feeds.workbook.cells import EXACT
from tin_bucket.feeds.workbook.references import SHEET_COLUMNS, SHEET_ROWS

from .format import Format, handed_on
from .moments import ZonedColumn

_TYPE = "application/vnd.oasis.opendocument.spreadsheet"
_NAMES = "urn:oasis:names:tc:opendocument:xmlns:"
_SPACES = {
    "office": f"{_NAMES}office:1.0", "table": f"{_NAMES}table:1.0", "text": f"{_NAMES}text:1.0",
    "style": f"{_NAMES}style:1.0", "number": f"{_NAMES}datastyle:1.0", "manifest": f"{_NAMES}manifest:1.0",
    "fo": f"{_NAMES}xsl-fo-compatible:1.0",
}  # fmt: skip
_HELD = 2**20  # Bytes of rows that are held in memory.
# Characters that XML 1.0 has no place for (§2.2).
_NO_XML = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
# Spaces that are dropped where they stand plain (part 3, §6.1.2), and tabs.
_RUN = re.compile(r"\t| {2,}|^ | $")
_DAY = (
    '<number:year number:style="long"/><number:text>-</number:text><number:month number:style="long"/>'
    '<number:text>-</number:text><number:day number:style="long"/>'
)
_TIME = (
    '<number:text> </number:text><number:hours number:style="long"/><number:text>:</number:text>'
    '<number:minutes number:style="long"/><number:text>:</number:text><number:seconds number:style="long"/>'
)
_STYLES = (
    '<office:automatic-styles>'
    f'<number:date-style style:name="N1">{_DAY}</number:date-style>'
    f'<number:date-style style:name="N2">{_DAY}{_TIME}</number:date-style>'
    '<style:style style:name="day" style:family="table-cell" style:data-style-name="N1"/>'
    '<style:style style:name="moment" style:family="table-cell" style:data-style-name="N2"/>'
    '<style:style style:name="head" style:family="table-cell">'
    '<style:text-properties fo:font-weight="bold"/></style:style>'
    '</office:automatic-styles>'
)  # fmt: skip


def write_open_document(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
    sheet_rows: int = SHEET_ROWS,
) -> FormulaCells:
    """Write a spreadsheet with one table. Codes and long ids stay text, dates are dates, and no text is a formula.
    A table that is longer than a sheet continues in further ones."""
    columns, rows = handed_on(columns, rows)
    columns = columns[:SHEET_COLUMNS]
    with ZipFile(out, "w", ZIP_DEFLATED) as book:
        # The first part says what the file is, and is not compressed (part 2, §3.3).
        book.writestr(ZipInfo("mimetype"), _TYPE, ZIP_STORED)
        manifest = "".join(
            f'<manifest:file-entry manifest:full-path="{path}" manifest:media-type="{kind}"/>'
            for path, kind in (("/", _TYPE), ("content.xml", "text/xml"))
        )
        book.writestr("META-INF/manifest.xml", _document("manifest:manifest", manifest, ("manifest",)))
        with book.open("content.xml", "w", force_zip64=True) as part:
            head, foot = _document("office:document-content", "\0").split("\0")
            part.write(f"{head}{_STYLES}<office:body><office:spreadsheet>".encode())
            for piece in _tables(columns, iter(rows), title, options, sheet_rows):
                part.write(piece)
            part.write(f"</office:spreadsheet></office:body>{foot}".encode())
    return FormulaCells()


def _document(root: str, inside: str, spaces: Iterable[str] = _SPACES) -> str:
    names = " ".join(f'xmlns:{name}="{_SPACES[name]}"' for name in spaces)
    version = f'{root.partition(":")[0]}:version="1.3"'
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<{root} {names} {version}>{inside}</{root}>'


def _tables(
    columns: Sequence[TableColumn], rows: Iterator[Sequence[Any]], title: str, options: ExportOptions, most: int
) -> Iterator[bytes]:
    as_text = {"date and time"} if options.moments == "text" else set()
    temporal = [kind_of(column.kind).temporal and column.kind not in as_text for column in columns]
    zones = {at: ZonedColumn() for at, column in enumerate(columns) if column.kind == "date and time" and temporal[at]}
    number, first = 1, next(rows, None)
    while number == 1 or first is not None:
        name = title if number == 1 else f"{title} ({number})"
        yield f"<table:table table:name={quoteattr(_clean(name) or 'Table')}>".encode()
        yield f'<table:table-column table:number-columns-repeated="{max(1, len(columns))}"/>'.encode()
        # What zones the times are in is known when the rows are written; and that stands above them.
        with tempfile.SpooledTemporaryFile(_HELD) as written:
            left = most - int(options.headings)
            if first is not None:
                for row in chain([first], islice(rows, left - 1)):
                    written.write(_row(_local(row, zones), temporal).encode())
            if options.headings:
                yield _headings(columns, zones).encode()
            written.seek(0)
            while piece := written.read(_HELD):
                yield piece
        yield b"</table:table>"
        number, first = number + 1, next(rows, None)


def _headings(columns: Sequence[TableColumn], zones: dict[int, ZonedColumn]) -> str:
    names = (
        ", ".join(filter(None, (column.name, column.unit, zones[at].words() if at in zones else "")))
        for at, column in enumerate(columns)
    )
    cells = "".join(_text_cell(one, ' table:style-name="head"') for one in names) or "<table:table-cell/>"
    return f"<table:table-header-rows><table:table-row>{cells}</table:table-row></table:table-header-rows>"


def _local(row: Sequence[Any], zones: dict[int, ZonedColumn]) -> Sequence[Any]:
    """The row with its times in the zones of their columns."""
    if not zones:
        return row
    out = list(row)
    for at, zoned in zones.items():
        if at < len(out):
            (out[at],) = zoned.local((out[at],))
    return out


def _row(row: Sequence[Any], temporal: Sequence[bool]) -> str:
    cells = (_cell(value, dated) for value, dated in zip(row, temporal, strict=False))
    out = []
    for cell, alike in groupby(cells):
        count = sum(1 for _ in alike)
        if cell or count < 2:
            out.append((cell or "<table:table-cell/>") * count)
        else:
            out.append(f'<table:table-cell table:number-columns-repeated="{count}"/>')
    return f"<table:table-row>{''.join(out) or '<table:table-cell/>'}</table:table-row>"


def _cell(value: Any, dated: bool) -> str:
    """A cell with its value and its type; an empty text for an empty one."""
    if value is None or isinstance(value, Miss):
        return ""
    if isinstance(value, bool):
        told = "true" if value else "false"
        return f'<table:table-cell office:value-type="boolean" office:boolean-value="{told}"/>'
    if isinstance(value, int | float) and math.isfinite(value) and abs(value) < EXACT:
        return f'<table:table-cell office:value-type="float" office:value="{value!r}"/>'
    text = str(value)
    if dated and (moment := _moment(text)) is not None:
        style = "day" if len(text) == 10 else "moment"
        kind = f'table:style-name="{style}" office:value-type="date" office:date-value="{moment}"'
        return f"<table:table-cell {kind}/>"
    return _text_cell(text)


def _text_cell(text: str, style: str = "") -> str:
    paragraphs = "".join(f"<text:p>{_spaced(line)}</text:p>" for line in re.split(r"\r\n?|\n", _clean(text)))
    return f'<table:table-cell{style} office:value-type="string">{paragraphs}</table:table-cell>'


def _spaced(text: str) -> str:
    """Text whose spaces and tabs are kept."""

    def kept(found: re.Match[str]) -> str:
        run = found[0]
        return "<text:tab/>" if run == "\t" else f'<text:s text:c="{len(run)}"/>'

    return _RUN.sub(kept, escape(text))


def _clean(text: str) -> str:
    return _NO_XML.sub("\ufffd", text)


def _moment(text: str) -> str | None:
    """A day or a moment as the format writes it, without its offset."""
    try:
        moment = datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        return None
    return moment.date().isoformat() if len(text) == 10 else moment.isoformat()


FORMAT = Format(
    ending="ods",
    label="OpenDocument",
    media_type=_TYPE,
    write=write_open_document,
    streams=False,
    takes=("headings", "moments"),
)
