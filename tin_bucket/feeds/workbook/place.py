"""Where in a sheet a table stands: its headings, its rows, and what people added at its sides."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from tin_bucket.core.problem import fail

from .book import Book
from .cells import Value, has_content, read_value
from .package import Package
from .references import Cells, cell_place, cells_of, letters
from .sheet_xml import Row, SheetXml


@dataclass(frozen=True, slots=True)
class TablePart:
    """A named table of a sheet (ISO/IEC 29500-1, §18.5): its part, its name, its range, how many rows of totals."""

    part: str
    name: str
    cells: Cells
    totals: int
    headings: bool

    @property
    def last(self) -> int:
        """The last row of data."""
        return self.cells.last_row - self.totals


@dataclass(frozen=True, slots=True)
class Place:
    """Where a table stands.

    Attributes:
        head: the row of its headings.
        columns: its first and its last column, with what people added.
        last: the last row of data; `head` where it has none.
        headings: the columns that have a heading → what it says.
        table: the named table that it is, if it is one.
        fresh: whether nothing is there yet.
    """

    head: int
    columns: tuple[int, int]
    last: int
    headings: dict[int, str]
    table: TablePart | None = None
    fresh: bool = False

    @property
    def first(self) -> int:
        """The first row of data."""
        return self.head + 1

    @property
    def cells(self) -> Cells:
        """The range of the headings and the rows."""
        return Cells(self.columns[0], self.head, self.columns[1], self.last)


def tables_of(package: Package, sheet_part: str) -> list[TablePart]:
    """The named tables of a sheet."""
    out = []
    for part in package.related(sheet_part, "table"):
        tree = package.tree(part)
        try:
            cells = cells_of(str(tree.get("ref")))
        except ValueError:
            continue
        name = str(tree.get("displayName") or tree.get("name"))
        totals, headings = int(tree.get("totalsRowCount") or 0), tree.get("headerRowCount") != "0"
        out.append(TablePart(part, name, cells, totals, headings))
    return out


class Finder:
    """Finds tables in a sheet."""

    def __init__(self, book: Book, sheet: SheetXml, tables: list[TablePart]) -> None:
        self._book = book
        self._sheet = sheet
        self._tables = tables

    def named(self, table: TablePart) -> Place:
        """A named table.

        Raises:
            ProblemError: ``headings-missing``.
        """
        if not table.headings:
            raise fail(
                "headings-missing",
                f"The table “{table.name}” has no row of headings.",
                where=f"table {table.name}",
                do="Switch its row of headings on: a feed finds its columns by them.",
            )
        cells = table.cells
        columns = (cells.first_column, cells.last_column)
        headings = self._headings(cells.first_row, *columns)
        return Place(cells.first_row, columns, table.last, headings, table)

    def remembered(self, cells: Cells) -> Place:
        """A table that was fed before: its range then, which followed what people did since."""
        head, last = cells.first_row, cells.last_row
        if (table := self._table_at(head, cells.first_column)) is not None:
            return self.named(table)
        columns = self._widened(head, cells.first_column, cells.last_column)
        return Place(head, columns, last, self._headings(head, *columns))

    def at(self, cell: str) -> Place:
        """The table whose heading stands in a cell, or the place of a new one.

        Raises:
            ProblemError: ``cell-unknown``.
        """
        try:
            column, head = cell_place(cell)
        except ValueError as error:
            raise fail("cell-unknown", f"“{cell[:40]}” is no cell.", where="cell", do="Name one such as A1.") from error
        if (table := self._table_at(head, column)) is not None:
            return self.named(table)
        if not self.filled(head, column, column):
            return Place(head, (column, column), head, {}, fresh=True)
        columns = self._widened(head, column, column)
        last = head
        while self.filled(last + 1, *columns):
            last += 1
        return Place(head, columns, last, self._headings(head, *columns))

    def _table_at(self, row: int, column: int) -> TablePart | None:
        for one in self._tables:
            cells = one.cells
            if cells.first_row <= row <= cells.last_row and cells.first_column <= column <= cells.last_column:
                return one
        return None

    def _widened(self, head: int, first: int, last: int) -> tuple[int, int]:
        """Columns with those beside them that have headings too."""
        filled = {column for column, inside in self._contents(head) if inside}
        while first - 1 in filled:
            first -= 1
        while last + 1 in filled:
            last += 1
        return first, last

    def _contents(self, number: int) -> list[tuple[int, bool]]:
        row = self._sheet.row(number)
        return [(column, has_content(inside)) for column, _, inside, _ in row.cells()] if row is not None else []

    def filled(self, number: int, first: int, last: int) -> bool:
        """Whether a row holds something in some columns."""
        row = self._sheet.row(number)
        cells = row.cells() if row is not None else ()
        return any(first <= column <= last and has_content(inside) for column, _, inside, _ in cells)

    def _headings(self, head: int, first: int, last: int) -> dict[int, str]:
        row = self._sheet.row(head)
        out: dict[int, str] = {}
        for column, value in self.values(row):
            if first <= column <= last and value is not None and str(value).strip():
                text = f"{value:g}" if isinstance(value, float) else str(value)
                out[column] = text.strip()
        return out

    def values(self, row: Row | None) -> list[tuple[int, Value]]:
        """What the cells of a row show, by column."""
        if row is None:
            return []
        return [
            (column, read_value(attributes, inside, self._book.text)) for column, attributes, inside, _ in row.cells()
        ]

    def told(self, row: int, column: int) -> str:
        """What a cell shows, in short, for a problem."""
        value = dict(self.values(self._sheet.row(row))).get(column)
        return f"{letters(column)}{row} holds “{str(value)[:40]}”"


def protection_of(sheet: SheetXml) -> Any:
    """The element that protects a sheet, where it is protected."""
    found = sheet.find("sheetProtection")
    return found if found is not None and found.get("sheet") in ("1", "true") else None
