"""Which column of a sheet is which of a table: by what was fed before, by headings, by place."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.table import TableColumn

from .place import Place
from .references import SHEET_COLUMNS, letters


@dataclass(frozen=True, slots=True)
class FedColumn:
    """A column that was fed before: its name in the table, its heading in the sheet, its place from the left."""

    name: str
    heading: str
    place: int


@dataclass(frozen=True, slots=True)
class Memory:
    """What a feed remembers of a sheet.

    Attributes:
        columns: those that were fed the last time.
        own: the headings of people's own columns then.
        deleted: the columns of the table that people deleted from the sheet, which stay deleted.
    """

    columns: tuple[FedColumn, ...] = ()
    own: tuple[str, ...] = ()
    deleted: tuple[str, ...] = ()


@dataclass(slots=True)
class Layout:
    """The columns of a sheet's table.

    Attributes:
        fed: column of the sheet → which column of the table stands in it.
        headings: of the columns that are fed, as they stand in the sheet or will.
        new: columns of the sheet that are added.
        own: columns of the sheet that are people's own.
        renamed: of those that people renamed: the name in the table → the heading.
        left_out: the names of columns of the table that are not fed.
        deleted: of those, the ones that people deleted.
        columns: the first and the last column after feeding.
    """

    columns: tuple[int, int]
    fed: dict[int, int] = field(default_factory=dict)
    headings: dict[int, str] = field(default_factory=dict)
    new: list[int] = field(default_factory=list)
    own: list[int] = field(default_factory=list)
    renamed: dict[str, str] = field(default_factory=dict)
    left_out: list[str] = field(default_factory=list)
    deleted: list[str] = field(default_factory=list)

    def memory(self, columns: Sequence[TableColumn], place: Place) -> Memory:
        """What is remembered for the next time."""
        fed = (
            FedColumn(columns[which].name, self.headings[at], at - self.columns[0])
            for at, which in sorted(self.fed.items())
        )
        own = (place.headings[at] for at in self.own if at in place.headings)
        return Memory(tuple(fed), tuple(own), tuple(self.deleted))


def heading_of(column: TableColumn) -> str:
    """What stands above a column of a table that is new in a sheet."""
    return f"{column.name}, {column.unit}" if column.unit else column.name


def layout(
    place: Place,
    columns: Sequence[TableColumn],
    before: Memory,
    add_new: bool,
    where: str,
) -> Layout:
    """Find the columns of a table in a sheet.

    Args:
        before: what is remembered of the last time; nothing the first time.
        add_new: whether columns that are not in the sheet are added at its right.

    Raises:
        ProblemError: ``headings-alike``, ``headings-unknown``, ``sheet-full``.
    """
    if place.fresh:
        before = Memory()  # The table that was fed before is gone, with all that people did to its columns.
    made = Layout(place.columns)
    if place.columns[0] + len(columns) - 1 > SHEET_COLUMNS:
        raise _too_wide(place.columns[0] + len(columns) - 1, where)
    by_heading: dict[str, list[int]] = {}
    for at, text in place.headings.items():
        by_heading.setdefault(_plain(text), []).append(at)
    known = {one.name: one for one in before.columns}
    free = dict(place.headings)
    unplaced: list[int] = []
    for which, column in enumerate(columns):
        wanted = [known[column.name].heading] if column.name in known else [column.name, heading_of(column)]
        found: list[int] = next((by_heading[_plain(one)] for one in wanted if _plain(one) in by_heading), [])
        found = [at for at in found if at in free]
        if len(found) > 1:
            places = " and ".join(f"{letters(at)}{place.head}" for at in found[:2])
            raise fail(
                "headings-alike",
                f"Two headings are “{place.headings[found[0]]}”: {places}.",
                where=where,
                do="Rename one of them: a feed finds its columns by their headings.",
            )
        if found:
            _take(made, found[0], which, free)
        else:
            unplaced.append(which)
    for at in [at for at, text in free.items() if text in before.own]:
        del free[at]
    unplaced = [which for which in unplaced if not _renamed(made, place, columns[which], which, known, free)]
    if place.headings and not made.fed:
        raise fail(
            "headings-unknown",
            f"None of the headings in row {place.head} is a column of the table: "
            + ", ".join(f"“{text[:40]}”" for text in list(place.headings.values())[:3])
            + ".",
            where=where,
            do="Name the cell of the first heading, or an empty cell for a new table.",
        )
    taken = {_plain(one) for one in place.headings.values()}
    right = place.columns[1] if place.headings else place.columns[0] - 1
    for which in unplaced:
        column = columns[which]
        # A column that was fed before and is not there was deleted by people: it stays deleted.
        deleted = column.name in known or column.name in before.deleted
        if deleted:
            made.deleted.append(column.name)
        if deleted or not add_new:
            made.left_out.append(column.name)
            continue
        right += 1
        made.fed[right] = which
        made.headings[right] = heading = _distinct(heading_of(column), taken)
        taken.add(_plain(heading))
        made.new.append(right)
    if right > SHEET_COLUMNS:
        raise _too_wide(right, where)
    made.columns = (place.columns[0], max(right, place.columns[0]))
    made.own = sorted(at for at in range(place.columns[0], place.columns[1] + 1) if at not in made.fed)
    if place.fresh:
        made.own = []
    return made


def _too_wide(needed: int, where: str) -> ProblemError:
    return fail(
        "sheet-full",
        f"A sheet has {SHEET_COLUMNS:,} columns, and the table needs {needed:,}.",
        where=where,
        do="Hide columns of the table, or begin further left.",
    )


def _take(made: Layout, at: int, which: int, free: dict[int, str]) -> None:
    made.fed[at] = which
    made.headings[at] = free.pop(at)


def _renamed(
    made: Layout,
    place: Place,
    column: TableColumn,
    which: int,
    known: dict[str, FedColumn],
    free: dict[int, str],
) -> bool:
    """Whether people renamed a column: where it was before stands a heading that nobody knows."""
    before = known.get(column.name)
    if before is None:
        return False
    # By how much the columns at its sides moved since, by what most of those that are found did.
    shifts = Counter(
        at - place.columns[0] - known[name].place
        for name, at in ((one.name, _where(made, one)) for one in known.values())
        if at is not None
    )
    near = sorted(shifts, key=lambda shift: -shifts[shift]) or [0]
    for shift in near:
        at = place.columns[0] + before.place + shift
        if at in free:
            made.renamed[column.name] = free[at]
            _take(made, at, which, free)
            return True
    return False


def _where(made: Layout, one: FedColumn) -> int | None:
    return next((at for at, heading in made.headings.items() if heading == one.heading), None)


def _plain(text: str) -> str:
    return " ".join(text.split()).casefold()


def _distinct(name: str, taken: set[str]) -> str:
    made, number = name, 2
    while _plain(made) in taken:
        made, number = f"{name} ({number})", number + 1
    return made
