"""Where and how a table is fed to a workbook, and what came of it."""

from __future__ import annotations

from dataclasses import dataclass, field

from .columns import Memory


@dataclass(frozen=True, slots=True)
class Target:
    """Where a table is fed to.

    Attributes:
        sheet: its name.
        cell: the first heading's; for a named table, nothing.
        table: the name of a named table; else nothing.
        name: the hidden name under which the place is found again.
    """

    sheet: str
    cell: str
    table: str
    name: str


@dataclass(frozen=True, slots=True)
class Manner:
    """How a table is fed.

    Attributes:
        way: ``replace``, ``add`` or ``update``.
        match: the columns of the table whose values say which row is which, for ``update``.
        remove_gone: whether rows that the table has no more are taken out.
        gone: the column that says since when a row is gone, and what it says of rows that are gone now.
        dated: the column that says which date's a row is, and what it says of these rows, for ``add``.
        add_columns: whether columns that the sheet has not are added at its right.
        drop_notes: whether what people wrote beside rows that are replaced or taken out may go.
        cut_texts: whether texts that are too long for a cell are cut.
        make_sheet: whether a sheet that is not there is made.
        stamp: a cell above the headings, and the text that is written into it.
    """

    way: str = "replace"
    match: tuple[str, ...] = ()
    remove_gone: bool = False
    gone: tuple[str, str] | None = None
    dated: tuple[str, str] | None = None
    add_columns: bool = True
    drop_notes: bool = False
    cut_texts: bool = False
    make_sheet: bool = True
    stamp: tuple[str, str] | None = None


@dataclass(slots=True)
class Outcome:
    """What feeding does, or did.

    Attributes:
        sheet: its name.
        made: whether the sheet is made.
        before, after: the ranges with the headings; an empty text where nothing was there.
        rows_before, rows_after: how many rows of data.
        new, matched, gone, removed: rows that are added, that are written over, that are kept though the table has
            them no more, that are taken out.
        notes: cells that people filled in beside rows that are replaced or taken out, which go with them.
        filled: headings of formula columns that are filled down.
        own: headings of people's own columns.
        headings: of the columns that are fed.
        new_columns, left_out: headings that are added; columns that are not fed.
        renamed: columns that people renamed: the name in the table → the heading.
        moved: by how many rows what stands below moves.
        unfiltered: whether a filter must be applied again.
        already: whether the rows of this date are there already, so that nothing is written.
        others: other parts that follow, in words.
        memory: what is remembered for the next time.
    """

    sheet: str
    made: bool = False
    before: str = ""
    after: str = ""
    rows_before: int = 0
    rows_after: int = 0
    new: int = 0
    matched: int = 0
    gone: int = 0
    removed: int = 0
    notes: int = 0
    filled: list[str] = field(default_factory=list)
    own: list[str] = field(default_factory=list)
    headings: list[str] = field(default_factory=list)
    new_columns: list[str] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)
    renamed: dict[str, str] = field(default_factory=dict)
    moved: int = 0
    unfiltered: bool = False
    already: bool = False
    others: list[str] = field(default_factory=list)
    memory: Memory = field(default_factory=Memory)
