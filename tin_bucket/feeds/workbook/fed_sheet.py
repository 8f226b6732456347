"""A sheet that is fed: what will be written where, and the writing of it."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Any

from tin_bucket.core.problem import fail

from .book import Book, SheetEntry
from .cells import (
    has_content,
    is_formula,
    read_value,
    sheet_value,
)
from .columns import Layout, Memory, layout
from .formulas import Master, formula_of, shared_masters
from .moves import RowMoves
from .package import Package
from .place import Finder, TablePart, protection_of, tables_of
from .references import SHEET_ROWS, Cells, cell_place, cells_of, letters, move_references
from .rows import RowPlan, TableRows, add_below, comparable, keys_of, replace_rows, update_matching
from .sheet_xml import SheetXml
from .styles import Styles
from .target import Manner, Outcome, Target

_SIGNATURE = re.compile(rb'<c r="([A-Z]+)[0-9]+"(?: s="([0-9]+)")?')
_PLACE = re.compile(rb'\br="[A-Z]{1,3}[0-9]{1,7}"')
_HIDDEN = re.compile(rb'\s*\bhidden="(?:1|true)"')
_NOT_FOR_NEW = re.compile(rb'\s*\b(?:hidden|collapsed|outlineLevel)="[^"]*"')


class FedSheet:
    """One sheet of a workbook, with the table that it is fed.

    Attributes:
        entry: the sheet.
        tables: the named tables of the sheet.
        outcome: what feeding does.
        moves: where rows are after it.
    """

    def __init__(self, book: Book, target: Target, memory: Memory, rows: TableRows, manner: Manner) -> None:
        """Work out what will be written.

        Raises:
            ProblemError: the table cannot be fed there; nothing is changed then but in memory.
        """
        self.book, self._package = book, book.package
        self.rows, self.manner, self._name = rows, manner, target.name
        self.entry, remembered, table = self._find(target)
        self.where = f"{self._package.where}, sheet {self.entry.name}"
        self.sheet = SheetXml(self._package.read(self.entry.part), self.where)
        self._check_protection()
        self.tables = tables_of(self._package, self.entry.part)
        self._finder = Finder(book, self.sheet, self.tables)
        if table is not None:
            self.place = self._finder.named(table)
        elif remembered is not None:
            self.place = self._finder.remembered(remembered)
        else:
            self.place = self._finder.at(target.cell or "A1")
        self.columns = self._lay_out(memory)
        self.span = self.columns.columns
        self.plan, already = self._plan_rows()
        self.moves = self._plan_moves()
        self._styles_part, self._styles = book.styles()
        self._check_merges()
        self.stamp = self._stamp_place()
        self.outcome = self._told(already)

    # Finding ---------------------------------------------------------------------------------------------------

    def _find(self, target: Target) -> tuple[SheetEntry, Cells | None, TablePart | None]:
        book = self.book
        self._made = False
        if target.table:
            for entry in book.sheets:
                for table in tables_of(self._package, entry.part):
                    if table.name.casefold() == target.table.casefold():
                        return entry, None, table
            raise fail(
                "table-missing",
                f"The workbook has no table named “{target.table[:60]}”.",
                where=self._package.where,
                do="Choose another table, or a sheet and a cell.",
            )
        found = book.named(target.name)
        if found is not None and (sheet := book.sheet(found[0])) is not None:
            return sheet, found[1], None
        known = book.sheet(target.sheet)
        if known is None:
            if not self.manner.make_sheet:
                names = ", ".join(f"“{one.name}”" for one in book.sheets[:6])
                raise fail(
                    "sheet-missing",
                    f"The workbook has no sheet “{target.sheet[:60]}”. It has {names}.",
                    where=self._package.where,
                    do="Choose another sheet, or let the feed make it.",
                )
            self._made = True
            known = book.add_sheet(target.sheet)
        return known, None, None

    def _check_protection(self) -> None:
        if protection_of(self.sheet) is not None:
            raise fail(
                "sheet-protected",
                f"The sheet “{self.entry.name}” is protected.",
                where=self.where,
                do="Remove the protection of this sheet in your spreadsheet program, or feed another sheet.",
            )

    def _lay_out(self, memory: Memory) -> Layout:
        made = layout(self.place, self.rows.columns, memory, self.manner.add_columns, self.where)
        if self.place.fresh and not self.manner.add_columns:
            made = layout(self.place, self.rows.columns, memory, True, self.where)
        names = [column.name for column in self.rows.columns]
        fed = {names[which] for which in made.fed.values()}
        if self.manner.way == "update":
            missing = [name for name in self.manner.match if name not in fed]
            if missing or not self.manner.match:
                what = (
                    f"“{missing[0]}”, which rows match by, is not in the sheet" if missing else "no column matches rows"
                )
                raise fail(
                    "match-missing",
                    f"Rows cannot be matched: {what}.",
                    where=self.where,
                    do="Say which columns rows match by, and keep their headings in the sheet.",
                )
        return made

    def _stamp_place(self) -> tuple[int, int] | None:
        """The column and the row of the cell that says as of when the table is."""
        if self.manner.stamp is None:
            return None
        column, row = cell_place(self.manner.stamp[0])
        if row >= self.place.head:
            raise fail(
                "stamp-place",
                f"{self.manner.stamp[0]} cannot say as of when the table is: the headings stand in row"
                f" {self.place.head}.",
                where=self.where,
                do="Name a cell above the headings, or begin the table further below.",
            )
        return column, row

    # Planning --------------------------------------------------------------------------------------------------

    def _plan_rows(self) -> tuple[RowPlan, bool]:
        place, rows, manner = self.place, self.rows, self.manner
        first, last = place.first, self.last_row
        if manner.way == "add":
            if manner.dated is not None and self._has_date(*manner.dated):
                return add_below(first, last, 0), True
            return add_below(first, last, rows.height), False
        if manner.way == "update":
            since_1904 = self.book.since_1904
            return (
                update_matching(first, self._sheet_keys(), keys_of(rows, manner.match, since_1904), manner.remove_gone),
                False,
            )
        return replace_rows(first, last, rows.height), False

    @cached_property
    def last_row(self) -> int:
        """The last row that holds data; that of the headings where the one row there is holds none."""
        place = self.place
        row = self.sheet.row(place.last) if place.last == place.first else None
        if row is None:
            return place.last if place.last != place.first else place.head
        fed = any(column in self.columns.fed and has_content(inside) for column, _, inside, _ in row.cells())
        return place.last if fed else place.head

    def sheet_column(self, name: str) -> int | None:
        names = [column.name for column in self.rows.columns]
        return next((at for at, which in self.columns.fed.items() if names[which] == name), None)

    def _has_date(self, name: str, date: str) -> bool:
        at = self.sheet_column(name)
        if at is None:
            return False
        kind = next(column.kind for column in self.rows.columns if column.name == name)
        wanted = comparable(sheet_value(date, kind, self.book.since_1904))
        return any(
            comparable(value) == wanted
            for row in self.sheet.rows(self.place.first, self.last_row)
            for column, value in self._finder.values(row)
            if column == at
        )

    def _sheet_keys(self) -> list[tuple[Any, ...] | None]:
        places = [self.sheet_column(name) for name in self.manner.match]
        out: list[tuple[Any, ...] | None] = []
        for number in range(self.place.first, self.last_row + 1):
            row = self.sheet.row(number)
            values = {}
            if row is not None:
                for column, attributes, inside, _ in row.cells():
                    if column in places:
                        values[column] = comparable(read_value(attributes, inside, self.book.text))
            key = tuple(values.get(at) for at in places if at is not None)
            out.append(None if all(value is None for value in key) else key)
        return out

    def _plan_moves(self) -> RowMoves:
        place, plan = self.place, self.plan
        # An empty table keeps one row, which holds the formulas and the styles of the next ones.
        last, new_last = place.last, place.head + max(plan.height, 1)
        self.new_last = new_last
        moved: dict[int, int | None] = {}
        if plan.removed:
            kept = {int(old): at for at, old in enumerate(plan.old.tolist(), place.first) if old}
            moved = {row: kept.get(row) for row in range(place.first, last + 1) if kept.get(row) != row}
        self._check_room(new_last)
        growth = new_last - last
        below, whole_rows = 0, True
        if growth and not place.fresh and self._stands_below():
            below = growth
            whole_rows = not self._stands_across(new_last)
        end = max(new_last, (self.sheet.numbers[-1] if self.sheet.numbers else 0) + below)
        if end > SHEET_ROWS:
            raise fail(
                "sheet-full",
                f"A sheet has {SHEET_ROWS:,} rows, and {end:,} would be needed.",
                where=self.where,
                do="Feed fewer rows, or write a file instead.",
            )
        return RowMoves(self.span, place.first, last, new_last, below, whole_rows, moved)

    def in_span(self, column: int) -> bool:
        return self.span[0] <= column <= self.span[1]

    def _stands_below(self) -> bool:
        if self.place.table is not None and self.place.table.totals:
            return True
        for row in self.sheet.rows(self.place.last + 1):
            if any(self.in_span(column) and has_content(inside) for column, _, inside, _ in row.cells()):
                return True
        ranges = [table.cells for table in self.tables if table is not self.place.table]
        ranges += self._merges
        return any(
            cells.first_row > self.place.last
            and cells.first_column <= self.span[1]
            and cells.last_column >= self.span[0]
            for cells in ranges
        )

    def _stands_across(self, new_last: int) -> bool:
        """Whether something beside the table reaches past its end, so that moving whole rows would tear it apart."""
        last = self.place.last

        def beside(number: int) -> set[int]:
            row = self.sheet.row(number)
            cells = row.cells() if row is not None else ()
            return {column for column, _, inside, _ in cells if not self.in_span(column) and has_content(inside)}

        if beside(last) & beside(last + 1) or any(beside(row) for row in range(new_last + 1, last + 1)):
            return True
        ranges = [table.cells for table in self.tables] + self._merges
        return any(
            cells.first_row <= last < cells.last_row
            and (cells.last_column < self.span[0] or cells.first_column > self.span[1])
            for cells in ranges
        )

    @cached_property
    def _merges(self) -> list[Cells]:
        out = []
        for one in self.sheet.tree.iter(self.sheet.tag("mergeCell")):
            try:
                out.append(cells_of(str(one.get("ref"))))
            except ValueError:
                continue
        return out

    def _check_room(self, new_last: int) -> None:
        """Where nothing was fed so far, nothing may stand."""
        place = self.place
        columns = self.columns.new
        if not columns:
            return
        last = new_last if place.fresh else place.last
        for row in self.sheet.rows(place.head, last):
            for column, _, inside, _ in row.cells():
                if column in columns and has_content(inside):
                    what = "The table would come over it" if place.fresh else "There is no room for new columns"
                    raise fail(
                        "cells-in-use",
                        f"{self._finder.told(row.number, column)}. {what}.",
                        where=self.where,
                        do="Name another cell, or make room there."
                        if place.fresh
                        else "Make room at the right of the table, or leave new columns out.",
                    )
        # Neither may another table.
        for table in self.tables:
            cells = table.cells
            over = cells.first_row <= last and cells.last_row >= place.head
            if table is not place.table and over and any(
                cells.first_column <= column <= cells.last_column for column in columns
            ):  # fmt: skip
                raise fail(
                    "cells-in-use",
                    f"The table “{table.name}” stands in {cells}. The table would come over it.",
                    where=self.where,
                    do="Name another cell, or that table.",
                )

    def _check_merges(self) -> None:
        first, last = self.place.head, max(self.place.last, self.place.head)
        for cells in self._merges:
            rows = cells.first_row <= last and cells.last_row >= first
            touches = cells.first_column <= self.span[1] and cells.last_column >= self.span[0]
            edge = cells.first_column < self.span[0] or cells.last_column > self.span[1]
            torn = self.moves.below and not self.moves.whole_rows and cells.first_row > last and edge
            if touches and (rows or torn):
                raise fail(
                    "cells-merged",
                    f"The cells {cells} are merged, and the table stands there.",
                    where=self.where,
                    do="Undo the merge of these cells in your spreadsheet program.",
                )

    # Telling ---------------------------------------------------------------------------------------------------

    def _told(self, already: bool) -> Outcome:
        place, plan, columns = self.place, self.plan, self.columns
        outcome = Outcome(
            sheet=self.entry.name,
            made=self._made,
            before="" if place.fresh else str(place.cells),
            after=str(Cells(self.span[0], place.head, self.span[1], self.new_last)),
            rows_before=self.last_row - place.head,
            rows_after=plan.height,
            new=plan.new,
            matched=plan.matched,
            gone=len(plan.gone),
            removed=plan.removed,
            own=[place.headings[at] for at in columns.own if at in place.headings],
            headings=[columns.headings[at] for at in sorted(columns.fed)],
            new_columns=[] if place.fresh else [columns.headings[at] for at in columns.new],
            left_out=columns.left_out,
            renamed=columns.renamed,
            moved=self.moves.below,
            already=already,
            memory=columns.memory(self.rows.columns, place),
        )
        template = self.templates
        outcome.filled = [place.headings.get(at, letters(at)) for at in sorted(template)] if plan.new else []
        outcome.unfiltered = self.filtered and not already
        outcome.notes = 0 if already else self._count_notes()
        if outcome.notes and not self.manner.drop_notes:
            cells = "1 cell" if outcome.notes == 1 else f"{outcome.notes:,} cells"
            raise fail(
                "notes-in-the-way",
                f"People filled in {cells} beside rows that would be {self._fate}: their notes would go.",
                where=self.where,
                do="Update matching rows instead: each note stays with its row then. Or let the notes go.",
            )
        return outcome

    @property
    def _fate(self) -> str:
        return "replaced" if self.manner.way == "replace" else "taken out"

    @cached_property
    def filtered(self) -> bool:
        """Whether a filter hides rows of the table."""
        trees = [self.sheet.tree]
        if self.place.table is not None:
            trees.append(self._package.tree(self.place.table.part))
        return any(
            True
            for tree in trees
            for element in tree.iter()
            if isinstance(element.tag, str) and element.tag.endswith("}filterColumn") and len(element)
        )

    def _count_notes(self) -> int:
        if self.manner.way == "add" or not self.columns.own:
            return 0
        kept = set(self.plan.old.tolist()) if self.manner.way == "update" else set()
        own = set(self.columns.own)
        return sum(
            1
            for row in self.sheet.rows(self.place.first, self.place.last)
            if row.number not in kept
            for column, _, inside, _ in row.cells()
            if column in own and has_content(inside) and not is_formula(inside)
        )

    # Formulas --------------------------------------------------------------------------------------------------

    @cached_property
    def masters(self) -> dict[int, Master]:
        if not self.sheet.mentions(b't="shared"'):
            return {}
        return shared_masters(
            (column, row.number, inside)
            for row in self.sheet.rows()
            if b"shared" in row.inside
            for column, _, inside, _ in row.cells()
            if inside
        )

    @cached_property
    def templates(self) -> dict[int, tuple[int, str, bytes, Cells | None]]:
        """Formula columns that people added: the column → the row, the formula, the attributes and the range of the
        first cell that has one, as they are after rows moved."""
        out: dict[int, tuple[int, str, bytes, Cells | None]] = {}
        first = self.sheet.row(self.place.first)
        if first is None or self.place.last < self.place.first:
            return out
        at = self.moves.row(self.place.first, self.span[0])
        for column, attributes, inside, _ in first.cells():
            if column not in self.columns.own:
                continue
            formula = formula_of(inside, column, self.place.first, self.masters)
            if formula is not None and not formula.other:
                self.check_array(formula.array, column)
                # Where the first row is taken out, its formula is that of the row that comes into its place.
                text = formula.text if at is None else self.moved(formula.text, beside=True)
                out[column] = (at or self.place.first, text, attributes, formula.array)
        return out

    def check_array(self, cells: Cells | None, column: int) -> None:
        if cells is not None and cells.first_row != cells.last_row:
            raise fail(
                "array-formula",
                f"An array formula stands in {cells}, across the rows of the table.",
                where=self.where,
                do="Write a formula into each row instead, or move it beside the table.",
            )

    def moved(self, text: str, beside: bool = False) -> str:
        moves = self.moves
        if moves.nothing or (beside and not moves.rows and not moves.below and ":" not in text):
            return text
        move = moves.beside if beside else moves.reference
        return move_references(text, self.entry.name, self.entry.name, move)

    @property
    def styles(self) -> tuple[str, Styles]:
        """The part of the styles, and the styles, with those that rows need."""
        return self._styles_part, self._styles

    @property
    def package(self) -> Package:
        """The workbook."""
        return self.book.package

    @property
    def new_cells(self) -> Cells:
        """The range of the headings and the rows, after."""
        return Cells(self.span[0], self.place.head, self.span[1], self.new_last)
