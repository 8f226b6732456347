"""References to cells, in formulas, charts and names (Office Open XML, ISO/IEC 29500-1, §18.17).

    of          $B$2:$B$31, grown by ten rows      'Harbour desk'!B2 in the sheet "Harbour desk"
    becomes     $B$2:$B$41

A formula is read token by token, so that texts, structured references and names of functions stay as they are.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

SHEET_ROWS = 1_048_576
SHEET_COLUMNS = 16_384

_TOKEN = re.compile(
    r"""
      "(?:[^"]|"")*"                                                        # a text
    | (?P<sheet>'(?:[^']|'')+'!|(?:\[\d+\])?[^\W\d][\w.]*(?::[^\W\d][\w.]*)?!)?  # the sheet, where one is named
      (?: (?P<c1>\$?[A-Za-z]{1,3})(?P<r1>\$?[0-9]{1,7})
          (?: :(?P<c2>\$?[A-Za-z]{1,3})(?P<r2>\$?[0-9]{1,7}) )?
        | (?P<from>\$?[0-9]{1,7}):(?P<to>\$?[0-9]{1,7}) )
      (?![\w(.!])
    | (?:'(?:[^']|'')+'|\[[^\[\]]*\][\w.]*|[^\W\d][\w.]*)!\$?\w+(?::\$?\w+)?  # a name in a sheet or another workbook
    | \[(?:[^\[\]]|\[(?:[^\[\]]|\[[^\[\]]*\])*\])*\]                        # inside a structured reference
    | [^\W\d][\w.]*\(?                                                      # a name or a function
    | [0-9][\w.]*                                                           # a number
    | .
    """,
    re.VERBOSE | re.DOTALL,
)


class Cells(NamedTuple):
    """A range of cells, counted from 1; a single cell is a range of one. Whole rows have every column."""

    first_column: int
    first_row: int
    last_column: int
    last_row: int

    def __str__(self) -> str:
        start = f"{letters(self.first_column)}{self.first_row}"
        end = f"{letters(self.last_column)}{self.last_row}"
        return start if start == end else f"{start}:{end}"


class Written(NamedTuple):
    """How a reference is written: whether as one cell, and whether its last row is absolute."""

    single: bool
    last_absolute: bool


Move = Callable[[Cells, Written], Cells]


def letters(column: int) -> str:
    """A column's letters: 1 → A, 27 → AA."""
    made = ""
    while column:
        column, rest = divmod(column - 1, 26)
        made = chr(65 + rest) + made
    return made


def number(column: str) -> int:
    """A column's number: A → 1, AA → 27."""
    value = 0
    for char in column.upper():
        value = value * 26 + ord(char) - 64
    return value


def cell_place(name: str) -> tuple[int, int]:
    """The column and the row of a cell such as C7, counted from 1.

    Raises:
        ValueError: it is no cell of a sheet.
    """
    found = re.fullmatch(r"\$?([A-Za-z]{1,3})\$?([0-9]{1,7})", name.strip())
    if found is None:
        raise ValueError(name)
    column, row = number(found[1]), int(found[2])
    if not (1 <= column <= SHEET_COLUMNS and 1 <= row <= SHEET_ROWS):
        raise ValueError(name)
    return column, row


def cells_of(text: str) -> Cells:
    """The range that a text such as A1:C7 names.

    Raises:
        ValueError: it names none.
    """
    start, _, end = text.partition(":")
    column, row = cell_place(start)
    last_column, last_row = cell_place(end or start)
    return Cells(min(column, last_column), min(row, last_row), max(column, last_column), max(row, last_row))


def sheet_named(text: str) -> str:
    """The sheet that a text such as 'My sheet'! names."""
    name = text.removesuffix("!")
    return name[1:-1].replace("''", "'") if name.startswith("'") else name


def quoted(sheet: str) -> str:
    """A sheet's name as it stands in a formula, always in quotes."""
    return "'" + sheet.replace("'", "''") + "'"


def move_references(formula: str, own_sheet: str, sheet: str, move: Move) -> str:
    """A formula whose references to one sheet are moved.

    Args:
        own_sheet: the sheet that the formula stands in, which references without a sheet mean.
        sheet: the sheet that rows move in.
        move: what becomes of a range.
    """

    def moved(found: re.Match[str]) -> str:
        rows_only = found["from"] is not None
        if found["c1"] is None and not rows_only:
            return found[0]
        prefix = found["sheet"] or ""
        named = sheet_named(prefix) if prefix else own_sheet
        if named.casefold() != sheet.casefold():
            return found[0]
        if rows_only:
            old = Cells(1, int(found["from"].lstrip("$")), SHEET_COLUMNS, int(found["to"].lstrip("$")))
            if not 1 <= old.first_row <= old.last_row <= SHEET_ROWS:
                return found[0]
            new = move(old, Written(False, found["to"].startswith("$")))
            return f"{prefix}{_like(found['from'], new.first_row)}:{_like(found['to'], new.last_row)}"
        c1, r1, c2, r2 = found["c1"], found["r1"], found["c2"], found["r2"]
        first_column, first_row = number(c1.lstrip("$")), int(r1.lstrip("$"))
        last_column = number(c2.lstrip("$")) if c2 else first_column
        last_row = int(r2.lstrip("$")) if r2 else first_row
        old = Cells(first_column, first_row, last_column, last_row)
        if not (1 <= first_column <= last_column <= SHEET_COLUMNS and 1 <= first_row <= last_row <= SHEET_ROWS):
            return found[0]
        new = move(old, Written(c2 is None, (r2 or r1).startswith("$")))
        if new == old:
            return found[0]
        if c2 is None and new.first_row == new.last_row:
            return f"{prefix}{c1}{_like(r1, new.first_row)}"
        return f"{prefix}{c1}{_like(r1, new.first_row)}:{c2 or c1}{_like(r2 or r1, new.last_row)}"

    return _TOKEN.sub(moved, formula)


def _like(old: str, row: int) -> str:
    return f"${row}" if old.startswith("$") else str(row)


def translate(formula: str, rows: int, columns: int = 0) -> str:
    """A formula as it reads in a cell so many rows below and columns to the right: its relative references move with
    it. One that would leave the sheet becomes ``#REF!``, as filling down does."""
    if not rows and not columns:
        return formula

    def part(column: str, row: str) -> str | None:
        new_column = column if column.startswith("$") else letters_in_sheet(number(column) + columns)
        new_row = row if row.startswith("$") else row_in_sheet(int(row) + rows)
        return None if new_column is None or new_row is None else new_column + new_row

    def moved(found: re.Match[str]) -> str:
        prefix = found["sheet"] or ""
        if found["c1"] is not None:
            start = part(found["c1"], found["r1"])
            end = part(found["c2"], found["r2"]) if found["c2"] else ""
            if start is None or end is None:
                return f"{prefix}#REF!"
            return f"{prefix}{start}:{end}" if end else prefix + start
        if found["from"] is not None:
            rows_moved = [
                one if one.startswith("$") else row_in_sheet(int(one) + rows) for one in (found["from"], found["to"])
            ]
            return f"{prefix}#REF!" if None in rows_moved else f"{prefix}{rows_moved[0]}:{rows_moved[1]}"
        return found[0]

    return _TOKEN.sub(moved, formula)


def letters_in_sheet(column: int) -> str | None:
    """A column's letters, ``None`` for one that a sheet has no place for."""
    return letters(column) if 1 <= column <= SHEET_COLUMNS else None


def row_in_sheet(row: int) -> str | None:
    """A row's number as text, ``None`` for one that a sheet has no place for."""
    return str(row) if 1 <= row <= SHEET_ROWS else None
