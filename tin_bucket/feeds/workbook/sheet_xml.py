"""A sheet's part in three: what stands before its rows, the rows, and what stands behind them (ISO/IEC 29500-1, §18.3).

    <worksheet> … <sheetData>      head, read as a tree
      <row r="1"> <c r="A1"/> …    rows, read one by one as bytes: a cell that is not fed keeps its own
    </sheetData> … </worksheet>    tail, read as a tree

Head and tail are a few kilobytes, so they are one tree without the rows. Rows are most of a part, and are read by a
pattern. It knows one spelling alone: that which programs write. Where a part is spelled otherwise, with prefixes,
comments or without places, it is spelled anew first.
"""

from __future__ import annotations

import re
from array import array
from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from functools import cached_property
from typing import Any

from lxml import etree

from .package import damaged, parse, serialise
from .references import SHEET_ROWS, cell_place, letters

# The transitional and the strict form.
MAIN = (
    "http://schemas.openxmlformats.org/spreadsheetml/2006/main",
    "http://purl.oclc.org/ooxml/spreadsheetml/main",
)
CELL = re.compile(rb"<c\b([^>]*?)(?:/>|>(.*?)</c>)", re.DOTALL)
_PLACE = re.compile(rb'\br="([A-Z]{1,3})([0-9]{1,7})"')
_NUMBER = re.compile(rb'\br="([0-9]{1,7})"')
_STYLE_LATER = re.compile(rb'<c r="[A-Z]+[0-9]+" (?!s=)[^>]* s="')
_START = re.compile(rb"<sheetData\s*(/?)>")
_END = b"</sheetData>"
_DECLARED = re.compile(rb"(?:\xef\xbb\xbf)?<\?xml[^>]*?encoding=[\"']([A-Za-z0-9_.-]+)[\"']")
_SINGLE = re.compile(rb"<(?:c|row|f)\b[^>]*='")
_PREFIXED = re.compile(rb"<[A-Za-z_]\w*:(?:row|c|v|f|is|t)\b")
_ROW_PLACED = re.compile(rb'<row\b[^>]*?\br="[0-9]')
_CELL_PLACED = re.compile(rb'<c [^>]*?\br="[A-Z]+[0-9]')


class Row:
    """A row as it stands in the part.

    Attributes:
        number: counted from 1.
        attributes: its attributes as bytes, without its number.
        inside: its cells as bytes.
    """

    __slots__ = ("attributes", "inside", "number")

    def __init__(self, number: int, attributes: bytes, inside: bytes) -> None:
        self.number = number
        self.attributes = attributes
        self.inside = inside

    def cells(self) -> Iterator[tuple[int, bytes, bytes | None, bytes]]:
        """Its cells: the column, counted from 1; the attributes without the place; what is inside; and all of it."""
        data = self.inside
        at = data.find(b"<c ")
        while at >= 0:
            close = data.find(b">", at)
            place = _PLACE.search(data, at, close)
            assert place is not None  # Part of the one spelling.
            if data[close - 1] == 47:  # A slash: the cell is empty.
                end, inside = close + 1, None
                attributes = data[at + 2 : place.start()] + data[place.end() : close - 1]
            else:
                end = data.find(b"</c>", close)
                inside = data[close + 1 : end]
                attributes = data[at + 2 : place.start()] + data[place.end() : close]
                end += 4
            yield _COLUMNS[place[1]], attributes, inside, data[at:end]
            at = data.find(b"<c ", end)


_COLUMNS: dict[bytes, int] = {letters(at).encode(): at for at in range(1, 16_385)}


def column_of(name: bytes) -> int:
    """A column's number by its letters; 0 for one that a sheet has not."""
    return _COLUMNS.get(name, 0)


class SheetXml:
    """A sheet's part.

    Attributes:
        tree: all but the rows, with an empty ``sheetData``.
        ns: the namespace of its elements.
        numbers: the numbers of its rows, from the top. Shape (rows,).
    """

    def __init__(self, data: bytes, where: str) -> None:
        """
        Raises:
            ProblemError: ``workbook-damaged``.
        """
        self.where = where
        parts = _split(data)
        if parts is None:
            data = _spelled_anew(data, where)
            parts = _split(data)
        if parts is None:
            raise damaged(where)
        start, self._from, self._to, end = parts
        self._data = data
        self.tree = parse(data[:start] + b"<sheetData/>" + data[end:], where)
        self.ns = etree.QName(self.tree).namespace or ""
        self.numbers, self._bounds = self._index()

    def _index(self) -> tuple[array[int], array[int]]:
        """The numbers of the rows, and four places of each: of its attributes, and of its cells."""
        numbers, bounds = array("l"), array("q")
        data, end, before = self._data, self._to, 0
        at = data.find(b"<row", self._from, end)
        while at >= 0:
            close = data.find(b">", at, end)
            empty = data[close - 1 : close] == b"/"
            stop = close if empty else data.find(b"</row>", close, end)
            place = _NUMBER.search(data, at, close)
            number = int(place[1]) if place is not None else 0
            if number <= before or stop < 0:
                raise damaged(self.where)
            numbers.append(number)
            bounds.extend((at + 4, close - empty, close + 1, max(stop, close + 1)))
            before, at = number, data.find(b"<row", stop, end)
        return numbers, bounds

    def tag(self, name: str) -> str:
        """The full name of one of its elements."""
        return f"{{{self.ns}}}{name}"

    def find(self, name: str) -> Any:
        """An element of the sheet, or ``None``."""
        return self.tree.find(self.tag(name))

    def row(self, number: int) -> Row | None:
        """A row by its number; ``None`` where the part has none."""
        at = bisect_left(self.numbers, number)
        if at == len(self.numbers) or self.numbers[at] != number:
            return None
        start, end, inside, inside_end = self._bounds[4 * at : 4 * at + 4]
        attributes = self._data[start:end]
        if attributes.count(b'"') > 2:  # It has more than its number.
            attributes = _SPANS.sub(b"", _NUMBER.sub(b"", attributes, count=1)).strip()
        else:
            attributes = b""
        return Row(number, attributes, self._data[inside:inside_end])

    def rows(self, first: int = 1, last: int = SHEET_ROWS) -> Iterator[Row]:
        """The rows from one number to another, from the top."""
        for at in range(bisect_left(self.numbers, first), bisect_right(self.numbers, last)):
            row = self.row(self.numbers[at])
            if row is not None:
                yield row

    def mentions(self, what: bytes) -> bool:
        """Whether bytes stand anywhere in its rows."""
        return self._data.find(what, self._from, self._to) >= 0

    @cached_property
    def regular(self) -> bool:
        """Whether every cell says its place first and its style second, as nearly all programs write."""
        cells = self._data.count(b"<c ", self._from, self._to)
        if self._data.count(b'<c r="', self._from, self._to) != cells:
            return False
        return _STYLE_LATER.search(self._data, self._from, self._to) is None

    def frame(self) -> tuple[bytes, bytes]:
        """What stands before the rows, and behind them, as it is now."""
        data = serialise(self.tree)
        found = _START.search(data)
        if found is None or not found[1]:  # An empty element is written as one.
            raise damaged(self.where)
        return data[: found.start()] + b"<sheetData>", _END + data[found.end() :]


_SPANS = re.compile(rb'\s*\bspans="[^"]*"')  # An optimisation for readers (§18.3.1.73), which would be wrong now.


def _split(data: bytes) -> tuple[int, int, int, int] | None:
    """Where ``sheetData`` begins, where the rows begin and end, and where it ends; ``None`` where the part is spelled
    in another way than this reading knows."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return None
    declared = _DECLARED.match(data)
    if declared is not None and declared[1].lower() not in (b"utf-8", b"us-ascii", b"ascii"):
        return None
    start = _START.search(data)
    if start is None or data.find(b"<!--", 0, start.start()) >= 0:
        return None
    if start[1]:
        return start.start(), start.end(), start.end(), start.end()
    end = data.rfind(_END)
    if end < 0 or not _known_spelling(data, start.end(), end):
        return None
    return start.start(), start.end(), end, end + len(_END)


def _known_spelling(data: bytes, start: int, end: int) -> bool:
    """Whether rows have no comments, marked sections or prefixes, have double quotes, and say the place of each row and
    cell.
    Counting is a hundred times as fast as a pattern, which is asked only where counts leave a doubt."""

    def count(*what: bytes) -> int:
        return sum(data.count(one, start, end) for one in what)

    def has(rare: bytes, what: bytes) -> bool:
        # One byte is found much faster than several, and most sheets do not have it.
        return data.find(rare, start, end) >= 0 and data.find(what, start, end) >= 0

    if has(b"!", b"<!") or has(b"?", b"<?"):
        return False
    if has(b"'", b"='") and _SINGLE.search(data, start, end) is not None:
        return False
    if (has(b":", b":row") or has(b":", b":c")) and _PREFIXED.search(data, start, end) is not None:
        return False
    if count(b'<row r="') != count(b"<row"):
        rows = count(b"<row ", b"<row>", b"<row/>")
        if len(_ROW_PLACED.findall(data, start, end)) != rows:
            return False
    placed = count(b'<c r="')
    if placed == count(b"<c"):
        return True
    cells = count(b"<c ")
    if count(b"<c>", b"<c/>"):
        return False
    return placed == cells or len(_CELL_PLACED.findall(data, start, end)) == cells


def _spelled_anew(data: bytes, where: str) -> bytes:
    """A part as programs write it: without prefixes for its own elements, with the place of each row and cell."""
    tree = parse(data, where)
    ns = etree.QName(tree).namespace
    if ns not in MAIN:
        raise damaged(where)
    etree.strip_tags(tree, etree.Comment, etree.PI)
    at_row = 0
    for row in tree.iter(f"{{{ns}}}row"):
        at_row = int(row.get("r") or at_row + 1)
        row.set("r", str(at_row))
        column = 0
        for cell in row.iter(f"{{{ns}}}c"):
            try:
                column = cell_place(cell.get("r"))[0] if cell.get("r") else column + 1
            except ValueError as error:
                raise damaged(where) from error
            cell.set("r", f"{letters(column)}{at_row}")
    spaces = {name: uri for name, uri in tree.nsmap.items() if uri != ns and name is not None}
    made = etree.Element(tree.tag, nsmap={None: ns, **spaces}, attrib=dict(tree.attrib))
    made.text = tree.text
    for child in list(tree):
        made.append(child)
    etree.cleanup_namespaces(made, top_nsmap={None: ns}, keep_ns_prefixes=[name for name in spaces if name])
    return _without_prefix(serialise(made), ns)


def _without_prefix(data: bytes, ns: str) -> bytes:
    """The same, where elements kept a prefix of the sheet's own namespace."""
    found = re.search(rb'xmlns:([A-Za-z_][\w.-]*)="' + re.escape(ns.encode()) + rb'"', data)
    if found is None:
        return data
    return re.sub(rb"(</?)" + re.escape(found[1]) + rb":", rb"\1", data)
