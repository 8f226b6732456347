"""Which rows of a merged table are looked at, and in which order."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tin_bucket.core.analysis.compare import ALIKE, CHANGED, GONE, NEW, STATES, Comparison
from tin_bucket.core.analysis.difference_size import SizeFilter, difference_sizes, wanted
from tin_bucket.core.analysis.view import ordered, rows_with_text
from tin_bucket.core.columns.readings import group_text
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.engine.work_out.source import cells_at, in_order

from .compared_tables import ComparedTables

RowsShown = Literal["differs", "all", "same", "new", "gone", "changed", "alike", "repeated"]
"""Which rows of a merged table are looked at: all that differ, all, those of a state, or those whose match values stand
for several rows."""
_SEARCHED = 4_096  # Rows that are searched at once.


@dataclass(frozen=True, slots=True)
class RowChoice:
    """Which rows of a merged table are wanted.

    Attributes:
        show: all that differ, all, or those of a state.
        column: the rows that changed in this column alone, whatever `show` says; all when empty.
        size: which of these changes, where a column is named.
        group, value: a column, and the value that the rows have in it now, or had where they are gone, as text; all
            rows where no column is named.
        find: a text that stands in a cell that is seen, now or then.
        sort, down: the column that they are sorted by, and whether the highest come first; of gone rows by what it was.
    """

    show: RowsShown = "differs"
    column: str = ""
    size: SizeFilter = field(default_factory=SizeFilter)
    group: str = ""
    value: str = ""
    find: str = ""
    sort: str = ""
    down: bool = False


def rows_wanted(laid: ComparedTables, choice: RowChoice) -> Ints:
    """The merged rows of a choice, as their indices. Shape (wanted,).

    Raises:
        ProblemError: ``column-unknown``.
    """
    old, new, found = laid.then.table, laid.now.table, laid.found
    for column in filter(None, (choice.column, choice.group, choice.sort)):
        known_column(laid, column)
    chosen = _chosen(found, choice.show, choice.column)
    if choice.column and not choice.size.takes_all:
        was = cells_at(old, choice.column, found.then_row[chosen])
        now = cells_at(new, choice.column, found.now_row[chosen])
        chosen = chosen[wanted(difference_sizes(was, now, choice.size.measure), choice.size)]
    if choice.group:
        groups = own_cells(laid, choice.group, chosen)
        chosen = chosen[[at for at, cell in enumerate(groups) if group_text(cell) == choice.value]]
    if choice.find.strip():
        chosen = chosen[_stands_in(laid, chosen, choice)]
    if choice.sort:
        chosen = chosen[_sorted(laid, chosen, choice)]
    return chosen


def known_column(laid: ComparedTables, column: str) -> None:
    """Refuse a column that none of the two tables has.

    Raises:
        ProblemError: ``column-unknown``.
    """
    if all(column != one.name for one in (*laid.now.columns, *laid.then.columns)):
        raise fail(
            "column-unknown",
            f"There is no column “{column[:80]}” in these tables.",
            where="column",
            do="Name one of their columns.",
        )


def _chosen(found: Comparison, show: RowsShown, column: str) -> Ints:
    """The merged rows to show, as their indices. Shape (chosen,)."""
    if column:
        changed = [position for position, names in found.changed_in.items() if column in names]
        mask = (found.state == CHANGED) & np.isin(found.now_row, np.array(changed, dtype=np.int64))
    elif show == "all":
        mask = np.ones(len(found.state), dtype=bool)
    elif show == "differs":
        mask = np.isin(found.state, (NEW, GONE, CHANGED))
    elif show == "repeated":
        return found.repeated.astype(np.int64)
    else:
        mask = found.state == STATES[show]
    return np.flatnonzero(mask).astype(np.int64)


def _stands_in(laid: ComparedTables, chosen: Ints, choice: RowChoice) -> npt.NDArray[np.bool_]:
    """Which of some merged rows have a text in a cell that is seen: their own now, or what a gone or changed one was.
    Shape (chosen,)."""
    text, found = choice.find.strip(), laid.found
    columns = laid.now.columns
    seen = [at for at, column in enumerate(columns) if not column.hidden or column.name == choice.column]
    out = np.zeros(len(chosen), dtype=np.bool_)
    older = np.isin(found.state[chosen], (GONE, CHANGED, ALIKE))
    for side, numbers, there in ((laid.now, found.now_row[chosen], None), (laid.then, found.then_row[chosen], older)):
        looked = (numbers >= 0) & ~out
        if there is not None:
            looked &= there
        likely = side.table.rows_with(text)
        if likely is not None:
            looked &= np.isin(numbers, likely)
        places = np.flatnonzero(looked)
        for start in range(0, len(places), _SEARCHED):
            some = places[start : start + _SEARCHED]
            rows = in_order(columns, side.columns, side.table.at(numbers[some]))
            out[some] = rows_with_text(rows, text, seen)
    return out


def own_cells(laid: ComparedTables, column: str, rows: Ints) -> list[Any]:
    """What each of some merged rows has in a column now, or what it had where it is gone."""
    now_at = laid.found.now_row[rows]
    now = cells_at(laid.now.table, column, now_at)
    was = cells_at(laid.then.table, column, laid.found.then_row[rows])
    return [own if there else before for own, before, there in zip(now, was, (now_at >= 0).tolist(), strict=True)]


def _sorted(laid: ComparedTables, chosen: Ints, choice: RowChoice) -> Ints:
    """The order of some merged rows by a column. Shape (chosen,)."""
    headings = [one for side in (laid.now, laid.then) for one in side.columns if one.name == choice.sort]
    return ordered(own_cells(laid, choice.sort, chosen), headings[0], choice.down)
