"""What the exhibits of a report show."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

import numpy as np

from tin_bucket.core.analysis.compare import CHANGED, GONE, NEW
from tin_bucket.core.analysis.view import Condition, Empty, OneOf, View
from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.readings import group_text
from tin_bucket.core.report.condition import passes
from tin_bucket.core.report.exhibits.changes import ChangesExhibit
from tin_bucket.core.report.exhibits.table import MOST_COLUMNS, TableExhibit
from tin_bucket.core.report.seen import CellSeen, RowSeen, TableSeen
from tin_bucket.core.report.words import cell_words, decimals_of, number_words
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureReader
from tin_bucket.core.work_out.figures import BY_KEY
from tin_bucket.engine.tables.browse import Tables
from tin_bucket.engine.tables.comparisons import Comparisons, MergedRow
from tin_bucket.engine.tables.row_choice import RowChoice
from tin_bucket.engine.tables.sides import two_dates

from .sources import QueryRead, RowsAt

_SHOWN = 8  # Columns where none are chosen.
_MOST_GONE = 5
Link = Callable[[list[Condition]], str]


def table_seen(
    one: TableExhibit, read: QueryRead, tables: Tables, now: datetime, link: Link
) -> tuple[TableSeen, list[str]]:
    """The table of an exhibit, and what is wrong with it, in sentences."""
    rows = read.rows
    assert rows is not None
    odd: list[str] = []
    headings = _headings(rows, one.columns, odd)
    view = View(where=[*rows.chosen, *one.where], sort=[by for by in one.sort if _has(rows, by.column, odd)])
    some, numbers, total = tables.rows(rows.source, view, 0, one.rows)
    places = {heading.name: at for at, heading in enumerate(rows.source.columns)}
    own = [places[heading.name] for heading in headings]
    digits = [_digits(heading, [row[at] for row in some]) for heading, at in zip(headings, own, strict=True)]
    marks = {mark.column: mark for mark in one.marks if _has(rows, mark.column, odd)}

    def cell(row: Sequence[Any], column: int, was: Any = None, changed: bool = False) -> CellSeen:
        heading, value = headings[column], row[own[column]]
        mark = marks.get(heading.name)
        return CellSeen(
            cell_words(value, heading.kind, now, digits[column]),
            cell_words(was, heading.kind, now, digits[column]) if changed else None,
            mark is not None and passes(mark.test, value, mark.value),
            value,
        )

    states = _States(read)
    match = states.match
    out = []
    for row, number in zip(some, numbers.tolist(), strict=True):
        state, earlier, changed = states.of(number)
        cells = [
            cell(row, at, earlier.get(heading.name), heading.name in changed) for at, heading in enumerate(headings)
        ]
        where = [_is(name, row[places[name]]) for name in match if name in places]
        out.append(RowSeen(cells, state, number, link(where) if where else ""))
    out.extend(_gone(one, read, tables, headings, now, digits))
    totals = _totals(one, rows, headings, odd)
    told = [(heading.name, heading.unit, kind_of(heading.kind).numeric) for heading in headings]
    return TableSeen(told, out, totals, max(0, total - len(some))), list(dict.fromkeys(odd))


def _headings(rows: RowsAt, wanted: Sequence[str], odd: list[str]) -> list[TableColumn]:
    there = {heading.name: heading for heading in rows.source.columns}
    if not wanted:
        return [heading for heading in there.values() if not heading.hidden][:_SHOWN]
    return [there[name] for name in wanted[:MOST_COLUMNS] if _has(rows, name, odd)]


def _has(rows: RowsAt, name: str, odd: list[str]) -> bool:
    if any(heading.name == name for heading in rows.source.columns):
        return True
    odd.append(f"There is no column “{name[:80]}” any more.")
    return False


def _digits(heading: TableColumn, cells: Sequence[Any]) -> int | None:
    """As many decimals for all numbers of a column as one of them needs, four at most."""
    if not kind_of(heading.kind).numeric:
        return None
    numbers = [value for value in cells if isinstance(value, float)]
    return min(4, max((decimals_of(round(value, 4), "") for value in numbers), default=0))


def _is(name: str, value: Any) -> Condition:
    text = group_text(value)
    return OneOf(column=name, values=[text]) if text else Empty(column=name)


class _States:
    """What became of the rows of a table since the other date."""

    def __init__(self, read: QueryRead) -> None:
        laid = read.compared
        self._laid = laid
        self.match: list[str] = []
        if laid is not None:
            self.match = laid.found.matched_by
            self._order = np.argsort(laid.found.now_row, kind="stable")
            self._rows = laid.found.now_row[self._order]
        elif read.query is not None:
            self.match = read.query.brief.keep.match or (read.snapshot.match if read.snapshot is not None else [])

    def of(self, number: int) -> tuple[Any, dict[str, Any], tuple[str, ...]]:
        """The state of a row, the cells that it had, and the columns that changed."""
        laid = self._laid
        if laid is None:
            return "", {}, ()
        at = int(np.searchsorted(self._rows, number))
        if at >= len(self._rows) or self._rows[at] != number:
            return "", {}, ()
        merged = int(self._order[at])
        state = int(laid.found.state[merged])
        if state == NEW:
            return "new", {}, ()
        if state != CHANGED:
            return "", {}, ()
        changed = laid.found.changed_in.get(number, ())
        row = laid.then.table.at(laid.found.then_row[merged : merged + 1])[0]
        then = {heading.name: value for heading, value in zip(laid.then.table.columns, row, strict=True)}
        return "changed", then, changed


def _gone(
    one: TableExhibit, read: QueryRead, tables: Tables, headings: list[TableColumn], now: datetime,
    digits: list[int | None],
) -> list[RowSeen]:  # fmt: skip
    """The first rows that the exhibit would have shown on the other date, and that are gone."""
    laid, then = read.compared, read.then_rows
    if laid is None or then is None:
        return []
    names = {heading.name for heading in then.source.columns}
    if any(by.column not in names for by in [*one.sort, *one.where]):
        return []
    view = View(where=[*then.chosen, *one.where], sort=one.sort)
    gone = laid.found.then_row[laid.found.state == GONE]
    seen = tables.seen(then.source, view)
    wanted = seen[: one.rows][np.isin(seen[: one.rows], gone)][:_MOST_GONE]
    places = {heading.name: at for at, heading in enumerate(then.source.columns)}
    out = []
    for row in then.source.at(wanted):
        values = [row[places[own.name]] if own.name in places else None for own in headings]
        cells = [
            CellSeen(cell_words(value, own.kind, now, decimals), value=value)
            for value, own, decimals in zip(values, headings, digits, strict=True)
        ]
        out.append(RowSeen(cells, "gone"))
    return out


def _totals(one: TableExhibit, rows: RowsAt, headings: list[TableColumn], odd: list[str]) -> list[str]:
    out = ["" for _ in headings]
    names = [heading.name for heading in headings]
    for total in one.totals:
        if total.column not in names:
            continue
        found = rows.column(total.column, one.where)
        assert found is not None
        reader = FigureReader(found[1], total.figure) if total.figure in COUNTS else None
        if reader is None:
            numbers, strange = rows.numbers(total.column, one.where)
            reader = FigureReader(numbers, total.figure)
            if strange:
                odd.append(f"{strange:,} values of {total.column} are no numbers, and not in the total.")
        value = reader.of(np.arange(len(found[1])))
        told = number_words(value) if value is not None else "–"
        at = names.index(total.column)
        out[at] = told if total.figure == "sum" else f"{BY_KEY[total.figure].label} {told}"
    if any(out) and not out[0]:
        out[0] = "All rows"
    return out


def changed_rows(one: ChangesExhibit, read: QueryRead, comparisons: Comparisons, now: datetime) -> TableSeen | None:
    """The first rows that differ: what says which row is which, and what changed; nothing where none are wanted."""
    laid = read.compared
    if laid is None or not one.rows or read.then is None or read.snapshot is None or read.query is None:
        return None
    asked = two_dates(read.then.id, read.snapshot.id, "today", read.query.id)
    some, total = comparisons.window(asked, RowChoice("differs"), 0, one.rows)
    own = laid.now.columns
    moved = [change.name for change in laid.found.columns]
    names = list(dict.fromkeys([*laid.found.matched_by, *moved, *(heading.name for heading in own)]))
    there = {heading.name: at for at, heading in enumerate(own) if not heading.hidden}
    shown = [there[name] for name in names if name in there][:_SHOWN]
    headings = [own[at] for at in shown]
    rows = [_changed_row(row, shown, headings, now) for row in some]
    told = [(heading.name, heading.unit, kind_of(heading.kind).numeric) for heading in headings]
    return TableSeen(told, rows, more=max(0, total - len(some)))


def _changed_row(row: MergedRow, shown: Sequence[int], headings: Sequence[TableColumn], now: datetime) -> RowSeen:
    cells = row.now if row.now is not None else row.then or ()
    then = row.then or ()
    state: Any = row.state if row.state in ("new", "gone", "changed") else ""
    return RowSeen(
        [
            CellSeen(
                cell_words(cells[at], heading.kind, now),
                cell_words(then[at], heading.kind, now) if at in row.changed else None,
                value=cells[at],
            )
            for at, heading in zip(shown, headings, strict=True)
        ],
        state,
    )
