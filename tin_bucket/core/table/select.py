"""Flattened records → the table's columns: those that are taken, under their names and as their kinds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tin_bucket.core.columns.empties import without
from tin_bucket.core.columns.kind_registry import convert, guess_kind
from tin_bucket.core.columns.reduction_registry import ItemAt, ListReduction
from tin_bucket.core.document.extraction import ColumnSpec, Extraction
from tin_bucket.core.formats.jsonpath import WILDCARD, Paths, Place, Wildcard, format_place, parse_place, pick
from tin_bucket.core.problem import Problem

from .context_columns import RECORD_KEY, ContextColumns, is_context
from .flatten import Flat, FlatColumn, Repeated, column_names, distinct
from .shred import KEY, Marked, ReducedList, ShredOptions
from .table import Table, TableColumn

MOST_COLUMNS = 2_000  # Columns of a table that takes all there are.
MOST_FIELDS = 5_000  # Places that are remembered for the next refresh.


@dataclass(slots=True)
class Reading:
    """A table, and what a person should know about how it came to be.

    Attributes:
        table: the table.
        records: how many records were taken before a list was made rows.
        absent: chosen places that no record has.
        fresh: places that the answers have and the brief does not take; those over the limit when it takes all.
        lists: lists in the records, with the number of items in all of them.
        unfit: column name → how many values did not fit the wanted kind.
        fields: every place that was found, with the kind of its values; what a later reading is compared with.
        empty: how many records gave no item for a list that was made rows.
        left_out: how many rows without an item were left out.
        beyond: how many rows there were beyond those that the brief takes.
        heads: names that were found for records that are lists.
        problem: what is wrong with the way of reading, though there is a table.
    """

    table: Table
    records: int
    absent: list[str] = field(default_factory=list)
    fresh: Paths = field(default_factory=Paths)
    lists: dict[str, int] = field(default_factory=dict)
    unfit: dict[str, int] = field(default_factory=dict)
    fields: dict[str, str] = field(default_factory=dict)
    empty: int = 0
    left_out: int = 0
    beyond: int = 0
    heads: list[str] = field(default_factory=list)
    problem: Problem | None = None


def rows_places(take: Extraction) -> list[Place]:
    """The places of the lists that become rows, a list before those that lie in it: the order of a table's `items`."""
    places = [parse_place(place) or () for place in take.rows_for]
    return sorted(places, key=lambda place: sum(isinstance(segment, Wildcard) for segment in place))


def keyed_places(take: Extraction) -> frozenset[Place]:
    """The places of objects whose members are read like a list."""
    return frozenset(parse_place(place) or () for place in take.keyed)


def one_cell_list(place: Place, rows: Sequence[Place], choice: ListReduction | None) -> Place | None:
    """The list on the way to a column's place whose values become one cell: the outermost one that is not made rows. A
    choice for a list that is made rows still makes one cell of it, which each of the rows repeats.

    Args:
        place: the column's place.
        rows: places of lists that become rows.
        choice: how values of a list become one cell.
    """
    lists = [place[:at] for at, segment in enumerate(place) if isinstance(segment, Wildcard)]
    outermost = next((one for one in lists if one not in rows), None)
    return outermost if outermost is not None or choice is None or not lists else lists[-1]


class ColumnSelector:
    """Makes a table's columns as a take says."""

    def __init__(self, take: Extraction) -> None:
        self._take = take
        self._rows = rows_places(take)
        self._picks: dict[int, ReducedList] = {}
        self.wanted = self._wanted()

    def _wanted(self) -> ShredOptions:
        take = self._take
        texts: set[Place] | None = None if take.columns is None else set()
        picks: list[ReducedList] = []
        for at, column in enumerate(take.columns or []):
            place = parse_place(column.place) or ()
            if column.of != "record":
                continue
            picked = self._pick(place, column.reduction, at)
            if picked is not None:
                picks.append(picked)
                self._picks[at] = picked
            elif texts is not None:
                texts.add(place)
        return ShredOptions(
            tuple(self._rows),
            take.together == "side by side",
            keyed_places(take),
            tuple(picks),
            None if texts is None else frozenset(texts),
        )

    def _pick(self, place: Place, choice: ListReduction | None, number: int) -> ReducedList | None:
        """What makes one cell of a list on the way to a place, if there is one."""
        list_place = one_cell_list(place, self._rows, choice)
        index = next((at for at, segment in enumerate(place) if isinstance(segment, int)), None)
        if index is not None and (list_place is None or index < len(list_place)):
            return ReducedList(place[:index], place[index:], ItemAt(choice), number)
        return None if list_place is None else ReducedList(list_place, place[len(list_place) + 1 :], choice, number)

    def choose(self, flat: Flat, around: ContextColumns, reading: Reading) -> None:
        """Put the columns into a reading's table, and note what there is to know of them."""
        reading.lists = {format_place(place): count for place, count in flat.lists.items()}
        reading.fields = _fields(flat)
        reading.empty = _empty(flat)
        if self._take.columns is None:
            self._take_all(flat, around, reading)
        else:
            self._take_chosen(flat, around, reading)

    def _take_all(self, flat: Flat, around: ContextColumns, reading: Reading) -> None:
        keys = around.of(RECORD_KEY) or []
        columns = list(flat.columns)
        if any(key is not None for key in keys):
            columns.insert(0, FlatColumn((KEY,), flat.repeated(keys), frozenset({str})))
        reading.fresh = Paths([_unmarked(column.place) for column in columns[MOST_COLUMNS:]])
        columns = columns[:MOST_COLUMNS]
        for name, column in zip(column_names([column.place for column in columns]), columns, strict=True):
            place, of = marked_place(column.place)
            is_list = column.place in flat.lists
            kind = "json" if is_list else column.kind()
            reading.table.columns.append(
                TableColumn(name, kind, place=place, nulls=column.nulls, of="key" if of == "key" else "record")
            )
            reading.table.data.append(column.values)

    def _take_chosen(self, flat: Flat, around: ContextColumns, reading: Reading) -> None:
        found: dict[Marked, FlatColumn] = {column.place: column for column in flat.columns}
        keys = {column.place[:-1]: column for column in flat.columns
                if column.place and column.place[-1] is KEY}  # fmt: skip
        used: set[Marked] = set()
        partly: set[Place] = set()  # Lists of which one item is taken.
        for at, wanted in enumerate(self._take.columns or []):
            place = parse_place(wanted.place) or ()
            column: FlatColumn | None
            if is_context(wanted):
                values = around.of(wanted) or []
                column = FlatColumn(place, flat.repeated(values), frozenset(map(type, values)))
            elif wanted.of == "key":
                column = keys.get(place)
            elif at in self._picks:
                picked = self._picks[at]
                column = found.get((*picked.list_place, WILDCARD, *picked.rest, picked))
                used.add(place)
                (partly if isinstance(picked.choice, ItemAt) else used).add(picked.list_place)
            else:
                column = found.get(place)
                used.add(place)
            self._add_column(wanted, place, column, flat, reading)
        rest = [place for place in flat.lists if place in partly and place not in used]
        reading.fresh = Paths([*self._not_taken(flat, used), *rest])

    def _add_column(
        self, wanted: ColumnSpec, place: Place, column: FlatColumn | None, flat: Flat, reading: Reading
    ) -> None:
        if column is None:
            column = FlatColumn(place, [None] * reading.table.height, nulls=0)
            # An answer without any record says nothing about which fields there are.
            if reading.records:
                reading.absent.append(wanted.place)
        values, types, found = column.values, column.types, column.kind()
        as_text = wanted.of == "record" and wanted.reduction is None
        is_list = place in flat.lists or (as_text and one_cell_list(place, self._rows, None) is not None)
        kind = wanted.kind or ("json" if is_list else found)
        if wanted.reduction is not None and wanted.reduction.numeric and wanted.kind is None and str in types:
            # Lists whose values are not all numbers are shown unchanged.
            reading.unfit[wanted.name] = sum(type(value) is str for value in distinct(values))
        if wanted.kind is None and wanted.reads is not None and wanted.reads.empty:
            cleared = without(distinct(values), wanted.reads.empty)
            values = values.with_values(cleared) if isinstance(values, Repeated) else cleared
            kind = kind if is_list else guess_kind(cleared)
        elif wanted.kind is not None and (wanted.kind != found or wanted.reads is not None):
            converted, unfit = convert(distinct(values), wanted.kind, wanted.reads)
            values = values.with_values(converted) if isinstance(values, Repeated) else converted
            if unfit:
                reading.unfit[wanted.name] = unfit
        reading.table.columns.append(
            TableColumn(
                wanted.name,
                kind,
                place=wanted.place,
                unit=wanted.unit,
                nulls=column.nulls,
                of=wanted.of,
                note=wanted.note,
                hidden=wanted.hidden,
                list_words=list_words(wanted.reduction) if self._one_cell(wanted, place) else "",
            )
        )
        reading.table.data.append(values)

    def _one_cell(self, wanted: ColumnSpec, place: Place) -> bool:
        """Whether a column's values are made of lists."""
        rows = self._rows if wanted.of == "record" else [place]
        return wanted.of != "key" and one_cell_list(place, rows, wanted.reduction) is not None

    def _not_taken(self, flat: Flat, used: set[Marked]) -> list[Place]:
        plain = [column.place for column in flat.columns if _unmarked(column.place) is column.place]
        return [place for place in (*plain, *flat.inner) if place not in used]


def _unmarked(place: Marked) -> Place:
    """A column's place without the mark at its end."""
    return place[:-1] if place and (place[-1] is KEY or isinstance(place[-1], ReducedList)) else place


def marked_place(place: Marked) -> tuple[str, str]:
    """The text of a column's place, and what its mark says: ``key``, ``list`` or nothing."""
    own = _unmarked(place)
    return format_place(own), "" if own is place else "key" if place[-1] is KEY else "list"


def list_words(choice: ListReduction | None) -> str:
    """How values of a list become one cell, in words."""
    return "all of them" if choice is None else choice.words()


def _fields(flat: Flat) -> dict[str, str]:
    """Every place with its kind."""
    out: dict[str, str] = {}
    for column in flat.columns[:MOST_FIELDS]:
        place, mark = marked_place(column.place)
        if not mark:
            kind: str = column.kind()
            if column.place in flat.lists:
                kind = "list"
            elif column.types <= {type(None)}:
                kind = "empty"
            out[place] = kind
    for place_ in flat.inner:
        out.setdefault(format_place(place_), "in a list")
    return out


def innermost_lists(take: Extraction) -> list[Place]:
    """The places of the lists that become rows and hold no other such list."""
    places = rows_places(take)
    return [place for place in places if not any(other[: len(place)] == place != other for other in places)]


def has_items(take: Extraction, record: Any) -> bool:
    """Whether a record has an item in one of the innermost lists that are made rows."""
    return any(pick(record, format_place((*place, WILDCARD))).values for place in innermost_lists(take))


def with_items(take: Extraction, table: Table) -> Table:
    """The rows that hold an item of at least one of the innermost lists that are made rows."""
    there = np.zeros(table.height, dtype=np.bool_)
    for place, numbers in zip(rows_places(take), table.items, strict=True):
        if place in innermost_lists(take):
            there |= numbers >= 0
    return table if there.all() else table.chosen(np.flatnonzero(there))


def _empty(flat: Flat) -> int:
    """How many records gave no item for the first list that was made rows."""
    return int((flat.items[0] < 0).sum()) if flat.items and flat.shred else 0
