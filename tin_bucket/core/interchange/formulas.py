"""Texts that a workbook takes for a formula when it opens a CSV file, where a cell has no type.

A table holds what a service sent, and a formula can send other cells elsewhere (CWE-1236). A leading apostrophe keeps
such a text a text.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from tin_bucket.core.table.table import TableColumn

STARTS = ("=", "+", "-", "@", "\t", "\r")
_STARTS = frozenset(STARTS)
_BEGINS = re.compile(r"\n[=+\-@\t\r]")  # The beginning of one of several texts.
# A sign, digits in groups, an exponent, a percent sign: a number or a telephone number in some writing, no formula.
_NUMBER = re.compile(r"[+-][\d.,' \u00a0\u202f]*(?:\d[eE][+-]?\d+)?\s?%?")


def reads_as_formula(value: Any) -> bool:
    """Whether a workbook would work a cell of a CSV file out. Numbers, and signs without a letter or a digit, are
    harmless."""
    return (
        isinstance(value, str)
        and value[:1] in _STARTS
        and _NUMBER.fullmatch(value.strip("\t\r")) is None
        and any(map(str.isalnum, value))
    )


@dataclass(slots=True)
class FormulaCells:
    """The cells of a table that read as formulas."""

    cells: int = 0
    example: str = ""
    columns: list[str] = field(default_factory=list)

    def add(self, column: str, value: str) -> None:
        """Count a cell."""
        self.cells += 1
        if not self.example:
            self.example = value
        if column not in self.columns:
            self.columns.append(column)


def quote_headings(columns: Sequence[TableColumn], found: FormulaCells, as_text: bool) -> Sequence[TableColumn]:
    """The columns. The names that read as formulas are counted, and get the apostrophe where they are to be texts."""
    out = []
    for column in columns:
        if reads_as_formula(column.name):
            found.add(column.name, column.name)
            column = replace(column, name=f"'{column.name}") if as_text else column
        out.append(column)
    return out


def may_read_as_formulas(cells: Sequence[Any], types: set[type]) -> bool:
    """Whether one of some cells may read as a formula; seen quickly, and sometimes of cells that do not.

    Args:
        types: of the cells.
    """
    if str not in types:
        return False
    texts = cells if types == {str} else [value for value in cells if isinstance(value, str)]
    return _BEGINS.search("\n" + "\n".join(texts)) is not None


def quote_cells(
    columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]], found: FormulaCells, as_text: bool
) -> Iterator[Sequence[Any]]:
    """The rows as they come; cells that read as formulas are counted in `found`, and get the apostrophe where they are
    to be texts."""
    for row in rows:
        hits = [at for at, value in enumerate(row) if reads_as_formula(value)]
        if hits:
            changed = list(row)
            for at in hits:
                found.add(columns[at].name, row[at])
                changed[at] = f"'{row[at]}"
            row = changed if as_text else row
        yield row
