"""What must follow a table that grew, shrank or moved: ranges of its sheet, its named table, names, charts, formulas of
other sheets, pivot tables, comments and pictures. A part in which nothing changes stays byte for byte as it is."""

from __future__ import annotations

import re
from typing import Any

from lxml import etree

from .book import Book
from .cells import escape
from .fed_sheet import FedSheet
from .formulas import move_in_part, without_figures
from .moves import RowMoves
from .package import TYPES, Package, serialise
from .place import TablePart
from .references import Cells, cells_of, letters, move_references

# Elements of a sheet and the attribute that names cells (ISO/IEC 29500-1, §18.3).
_RANGES = {
    "conditionalFormatting": "sqref", "dataValidation": "sqref", "hyperlink": "ref", "mergeCell": "ref",
    "autoFilter": "ref", "sortState": "ref", "sortCondition": "ref", "protectedRange": "sqref",
    "ignoredError": "sqref", "cellWatch": "r", "inputCells": "r",
}  # fmt: skip
_COUNTED = {"mergeCells", "dataValidations"}
_FORMULAS = {"formula", "formula1", "formula2", "f"}
_CHARTS = ("drawingml.chart+xml", "chartex+xml")


def follow(book: Book, fed: FedSheet) -> list[str]:
    """Let everything follow; says what, in words."""
    package, moves, sheet = book.package, fed.moves, fed.entry.name
    told: list[str] = []
    _sheet_ranges(fed)
    for table in fed.tables:
        _table(package, table, fed, fed.place.table is not None and table.part == fed.place.table.part)
    if not moves.nothing:
        book.move_names(sheet, moves.absolute)
        told += _charts(package, sheet, moves)
        told += _other_sheets(book, fed)
        told += _pivots(package, fed)
        if moves.below or moves.rows:
            _comments(package, fed)
            _drawings(package, fed)
    told += [one for one in _figures(book, fed) if one.replace("figures", "formulas", 1) not in told]
    if fed.sheet.mentions(b"<f"):
        # The order of working out names cells that may hold no formula now; programs make it anew.
        for chain in package.related(book.part, "calcChain"):
            package.remove(chain, book.part)
    return told


# The sheet itself ----------------------------------------------------------------------------------------------


def _sheet_ranges(fed: FedSheet) -> None:
    tree, moves, name = fed.sheet.tree, fed.moves, fed.entry.name
    _dimension(fed)
    if moves.nothing:
        return
    for element in list(tree.iter()):
        if not isinstance(element.tag, str):
            continue
        kind = etree.QName(element).localname
        attribute = _RANGES.get(kind)
        if attribute is not None and element.get(attribute):
            ranges = moves.ranges(element.get(attribute))
            if ranges:
                element.set(attribute, ranges)
            else:
                _take_out(element)
        elif kind == "sqref" and element.text:
            ranges = moves.ranges(element.text)
            if ranges:
                element.text = ranges
        elif kind in _FORMULAS and element.text:
            element.text = move_references(element.text, name, name, moves.reference)
        elif kind == "brk" and etree.QName(element.getparent()).localname == "rowBreaks":
            element.set("id", str(moves.row(int(element.get("id") or 0)) or element.get("id")))


def _take_out(element: Any) -> None:
    parent = element.getparent()
    parent.remove(element)
    if etree.QName(parent).localname in _COUNTED:
        if len(parent):
            parent.set("count", str(len(parent)))
        else:
            parent.getparent().remove(parent)


def _dimension(fed: FedSheet) -> None:
    element = fed.sheet.find("dimension")
    if element is None:
        return
    try:
        old = cells_of(element.get("ref"))
    except ValueError:
        return
    new = fed.new_cells
    last = (fed.moves.row(old.last_row) or old.last_row) if old.last_row > fed.place.last else new.last_row
    element.set(
        "ref",
        str(
            Cells(
                min(old.first_column, new.first_column),
                min(old.first_row, new.first_row),
                max(old.last_column, new.last_column),
                max(last, new.last_row),
            )
        ),
    )


# Named tables --------------------------------------------------------------------------------------------------


def _table(package: Package, table: TablePart, fed: FedSheet, own: bool) -> None:
    moves = fed.moves
    if own:
        cells = fed.new_cells._replace(last_row=fed.new_cells.last_row + table.totals)
    else:
        cells = moves.cells(table.cells, grows=False)
    if cells == table.cells and not (own and fed.columns.new):
        return
    tree = package.tree(table.part)
    ns = etree.QName(tree).namespace
    tree.set("ref", str(cells))
    for kind in ("autoFilter", "sortState"):
        for element in tree.iter(f"{{{ns}}}{kind}"):
            if element.getparent().tag == f"{{{ns}}}sortState":
                continue
            inner = cells._replace(last_row=cells.last_row - table.totals) if own else cells
            if kind == "sortState" and own:
                inner = inner._replace(first_row=min(inner.first_row + 1, inner.last_row))
            element.set("ref", str(inner) if own or kind == "autoFilter" else moves.ranges(element.get("ref")))
    for element in tree.iter(f"{{{ns}}}sortCondition"):
        element.set("ref", moves.ranges(element.get("ref") or ""))
    if own:
        columns = tree.find(f"{{{ns}}}tableColumns")
        ids = [int(one.get("id") or 0) for one in columns]
        for number, at in enumerate(fed.columns.new, max([0, *ids]) + 1):
            made = etree.SubElement(columns, f"{{{ns}}}tableColumn")
            made.set("id", str(number))
            made.set("name", fed.columns.headings[at])
        columns.set("count", str(len(columns)))
    package.put(table.part, serialise(tree))


# Other parts ---------------------------------------------------------------------------------------------------


def _parts_of_type(package: Package, *endings: str) -> list[str]:
    types = package.tree(TYPES)
    return [
        str(one.get("PartName")).lstrip("/")
        for one in types
        if isinstance(one.tag, str)
        and str(one.get("ContentType", "")).endswith(endings)
        and one.get("PartName")
        and package.has(str(one.get("PartName")).lstrip("/"))
    ]


def _mentions(data: bytes, sheet: str) -> bool:
    """Whether a part may speak of a sheet: its name stands there, in any case of letters."""
    return escape(sheet).replace("'", "''").casefold() in data.decode("utf-8", "replace").casefold()


def _charts(package: Package, sheet: str, moves: RowMoves) -> list[str]:
    changed = 0
    for part in _parts_of_type(package, *_CHARTS):
        data = package.read(part)
        if not _mentions(data, sheet):
            continue
        new = move_in_part(data, "", sheet, moves.absolute)
        if new != data:
            package.put(part, new)
            changed += 1
    return [f"{changed} chart{'s' if changed > 1 else ''}"] if changed else []


def _other_sheets(book: Book, fed: FedSheet) -> list[str]:
    changed = []
    for entry in book.sheets:
        if entry.part == fed.entry.part:
            continue
        data = book.package.read(entry.part)
        if not _mentions(data, fed.entry.name):
            continue
        new = move_in_part(data, entry.name, fed.entry.name, fed.moves.reference, cells=True)
        if new != data:
            book.package.put(entry.part, new)
            changed.append(entry.name)
    return [f"formulas in “{name}”" for name in changed]


def _figures(book: Book, fed: FedSheet) -> list[str]:
    """Take out what formulas in other sheets showed, where they hang on the fed one, also by way of others: programs
    that trust such figures would show those of before."""
    names = {fed.entry.name, *(table.name for table in fed.tables), *book.names_of(fed.entry.name)}
    parts = {entry.name: book.package.read(entry.part) for entry in book.sheets if entry.part != fed.entry.part}
    waiting = {name for name, data in parts.items() if b"<f" in data}
    hanging: set[str] = set()
    while found := {name for name in waiting - hanging if any(_mentions(parts[name], one) for one in names)}:
        hanging |= found
        names |= found
        names.update(named for name in found for named in book.names_of(name))
    changed = []
    for entry in book.sheets:
        if entry.name in hanging:
            new = without_figures(parts[entry.name])
            if new != parts[entry.name]:
                book.package.put(entry.part, new)
                changed.append(entry.name)
    return [f"figures in “{name}”" for name in changed]


def _pivots(package: Package, fed: FedSheet) -> list[str]:
    """Let pivot tables read the whole table, and again when the workbook is opened (§18.10.1.67)."""
    changed = 0
    for part in _parts_of_type(package, "pivotCacheDefinition+xml"):
        tree = package.tree(part)
        ns = etree.QName(tree).namespace
        source = tree.find(f"{{{ns}}}cacheSource/{{{ns}}}worksheetSource")
        if source is None:
            continue
        table = fed.place.table
        by_name = table is not None and source.get("name") == table.name
        here = str(source.get("sheet") or "").casefold() == fed.entry.name.casefold()
        if not by_name and not (here and source.get("ref")):
            continue
        if not by_name:
            try:
                old = cells_of(source.get("ref"))
            except ValueError:
                continue
            source.set("ref", str(fed.moves.cells(old)))
        tree.set("refreshOnLoad", "1")
        package.put(part, serialise(tree))
        changed += 1
    return [f"{changed} pivot table{'s' if changed > 1 else ''}"] if changed else []


def _comments(package: Package, fed: FedSheet) -> None:
    """Let comments stay with their cells; the comment of a row that is taken out goes with it."""
    part = fed.entry.part
    gone: set[tuple[int, int]] = set()
    moved = False
    for kind in ("comments", "threadedComment"):
        for name in package.related(part, kind):
            tree = package.tree(name)
            changed = False
            for element in list(tree.iter()):
                if not isinstance(element.tag, str) or etree.QName(element).localname not in (
                    "comment",
                    "threadedComment",
                ):
                    continue
                cells = cells_of(str(element.get("ref")))
                row = fed.moves.row(cells.first_row, cells.first_column)
                if row is None:
                    element.getparent().remove(element)
                    gone.add((cells.first_column, cells.first_row))
                elif row != cells.first_row:
                    element.set("ref", f"{letters(cells.first_column)}{row}")
                changed |= row != cells.first_row
            if changed:
                package.put(name, serialise(tree))
                moved = True
    if moved:
        for name in package.related(part, "vmlDrawing"):
            _notes_boxes(package, name, fed.moves)


_SHAPE = re.compile(rb"<(?:\w+:)?shape\b.*?</(?:\w+:)?shape>", re.DOTALL)
_ROW = re.compile(rb"(<(?:\w+:)?Row>\s*)([0-9]+)(\s*</)")
_COLUMN = re.compile(rb"<(?:\w+:)?Column>\s*([0-9]+)\s*</")
_ANCHOR = re.compile(rb"(<(?:\w+:)?Anchor>\s*)([0-9,\s-]+?)(\s*</)")


def _notes_boxes(package: Package, name: str, moves: RowMoves) -> None:
    """Move the boxes of comments (VML, ISO/IEC 29500-4, §14): they count rows from 0."""

    def moved(shape: re.Match[bytes]) -> bytes:
        data = shape[0]
        row, column = _ROW.search(data), _COLUMN.search(data)
        if row is None or column is None or b"Note" not in data:
            return data
        old = int(row[2]) + 1
        new = moves.row(old, int(column[1]) + 1)
        if new is None:
            return b""
        if new == old:
            return data
        data = _ROW.sub(lambda one: one[1] + str(new - 1).encode() + one[3], data, count=1)

        def anchor(found: re.Match[bytes]) -> bytes:
            numbers = [int(one) for one in found[2].split(b",")]
            if len(numbers) == 8:
                numbers[2], numbers[6] = max(0, numbers[2] + new - old), max(0, numbers[6] + new - old)
            return found[1] + ", ".join(map(str, numbers)).encode() + found[3]

        return _ANCHOR.sub(anchor, data, count=1)

    data = package.read(name)
    new = _SHAPE.sub(moved, data)
    if new != data:
        package.put(name, new)


def _drawings(package: Package, fed: FedSheet) -> None:
    """Move pictures and charts that stand below the table with what is there (ISO/IEC 29500-1, §20.5)."""
    for name in package.related(fed.entry.part, "drawing"):
        tree = package.tree(name)
        ns = etree.QName(tree).namespace
        changed = False
        for anchor in tree:
            start = anchor.find(f"{{{ns}}}from") if isinstance(anchor.tag, str) else None
            if start is None:
                continue
            row, column = start.find(f"{{{ns}}}row"), start.find(f"{{{ns}}}col")
            old = int(row.text) + 1
            if old <= fed.place.last:
                continue
            new = fed.moves.row(old, int(column.text) + 1) or old
            for end in (start, anchor.find(f"{{{ns}}}to")):
                if end is not None and new != old:
                    place = end.find(f"{{{ns}}}row")
                    place.text = str(int(place.text) + new - old)
                    changed = True
        if changed:
            package.put(name, serialise(tree))
