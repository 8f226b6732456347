"""A workbook of others is fed: one sheet of it takes the rows of a table, and the rest stays as it is."""

from __future__ import annotations

from typing import BinaryIO

from .book import Book
from .columns import Memory
from .fed_sheet import FedSheet
from .follow import follow
from .package import Package, serialise
from .rows import TableRows
from .sheet_rows import SheetRows
from .target import Manner, Outcome, Target


def plan_workbook(
    file: BinaryIO, where: str, target: Target, memory: Memory, rows: TableRows, manner: Manner
) -> Outcome:
    """What feeding a workbook would do; nothing is written.

    Raises:
        ProblemError: the workbook cannot be fed.
    """
    book = Book(Package(file, where))
    fed = FedSheet(book, target, memory, rows, manner)
    fed.outcome.others = follow(book, fed)
    return fed.outcome


def feed_workbook(
    file: BinaryIO, out: BinaryIO, where: str, target: Target, memory: Memory, rows: TableRows, manner: Manner
) -> Outcome:
    """Write a workbook whose sheet holds the rows of a table.

    Args:
        file: the workbook as it is.
        out: where the new one is written.
        where: the workbook, for problems.

    Raises:
        ProblemError: the workbook cannot be fed; what was written to `out` is to be thrown away then.
        OSError: `out` cannot be written.
    """
    package = Package(file, where)
    book = Book(package)
    fed = FedSheet(book, target, memory, rows, manner)
    if fed.outcome.already:
        return fed.outcome
    package.check()
    fed.outcome.others = follow(book, fed)
    if fed.place.table is None:
        book.set_name(target.name, fed.entry.name, fed.new_cells)
    book.recalculate()
    book.save()
    head, tail = fed.sheet.frame()
    package.put(fed.entry.part, lambda part: SheetRows(fed).write(part, head, tail))
    name, styles = fed.styles
    package.put_late(name, lambda: serialise(styles.tree) if styles.changed else None)
    package.write(out)
    return fed.outcome
