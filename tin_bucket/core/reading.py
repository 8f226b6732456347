"""Answers → table: pick the records, flatten them, choose the columns, give them their kinds.

The whole reading is a function of the brief and the parsed answers, so that it can be done again from saved
answers at no call.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from .around import Around
from .flatten import (
    KEY,
    Cells,
    Flat,
    FlatColumn,
    Flattener,
    KeyMark,
    Marked,
    Pick,
    Repeated,
    Wanted,
    column_names,
)
from .heads import Headed
from .json_text import json_text, parse_json
from .kinds import convert, guess_kind
from .packed import Packed
from .picking import Picked, pick
from .places import EACH, Each, Place, format_place, parse_place
from .problem import Problem
from .table import Table, TableColumn
from .take import FromList, Matching, Nth, Reckoned, Take, TakenColumn

_TOGETHER = 1024
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
        empty: how many records gave no item for a list that was made rows, and kept one row.
        heads: names that were found for records that are lists.
        problem: what is wrong with the way of reading, though there is a table.
    """

    table: Table
    records: int
    absent: list[str] = field(default_factory=list)
    fresh: list[str] = field(default_factory=list)
    lists: dict[str, int] = field(default_factory=dict)
    unfit: dict[str, int] = field(default_factory=dict)
    fields: dict[str, str] = field(default_factory=dict)
    empty: int = 0
    heads: list[str] = field(default_factory=list)
    problem: Problem | None = None


def read_table(take: Take, pages: list[Picked], documents: Sequence[Any] = ()) -> Reading:
    """Make one table of the records of all pages.

    Args:
        take: which columns, and which lists become rows.
        pages: what was picked from each page's answer, in order.
        documents: the answers, where columns come from around the records.
    """
    reader = Reader(take)
    for at, page in enumerate(pages):
        reader.add(page, documents[at] if at < len(documents) else None)
    return reader.reading()


def rows_places(take: Take) -> list[Place]:
    """The places of the lists that become rows, a list before those that lie in it: the order of a table's `items`."""
    places = [parse_place(place) or () for place in take.rows_for]
    return sorted(places, key=lambda place: sum(isinstance(segment, Each) for segment in place))


def one_cell_list(place: Place, rows: Sequence[Place], choice: FromList | None) -> Place | None:
    """The list on the way to a column's place whose values become one cell: the outermost one that is not made rows. A
    choice for a list that is made rows still makes one cell of it, which each of the rows repeats.

    Args:
        place: the column's place.
        rows: places of lists that become rows.
        choice: how values of a list become one cell.
    """
    lists = [place[:at] for at, segment in enumerate(place) if isinstance(segment, Each)]
    outermost = next((one for one in lists if one not in rows), None)
    return outermost if outermost is not None or choice is None or not lists else lists[-1]


class Reader:
    """Reads pages as they come, in order; the records themselves are not kept."""

    def __init__(self, take: Take, parameters: Mapping[str, Any] | None = None) -> None:
        """
        Args:
            take: which columns, and which lists become rows.
            parameters: what the query's parameters stand for.
        """
        self._take = take
        self._rows = rows_places(take)
        self._picks: dict[int, Pick] = {}
        self._flattener = Flattener(self._wanted())
        self._headed = Headed(take.heads) if take.heads is not None else None
        columns = [column for column in take.columns or [] if column.of != "record" and not self._of_item(column)]
        if take.columns is None:
            columns = [TakenColumn(place="$", name="key", of="key")]
        self._around = Around(take.records, columns, parameters or {})
        self._waiting: list[Any] = []
        self.sizes: list[int] = []
        self._starts: list[int] = []
        self.records = 0

    def _of_item(self, column: TakenColumn) -> bool:
        """Whether a column is the name of an item, and not of a record, in its object."""
        return column.of == "key" and (parse_place(column.place) or ()) != ()

    def _wanted(self) -> Wanted:
        take = self._take
        keyed = frozenset(parse_place(place) or () for place in take.keyed)
        texts: set[Place] | None = None if take.columns is None else set()
        picks: list[Pick] = []
        for at, column in enumerate(take.columns or []):
            place = parse_place(column.place) or ()
            if column.of != "record":
                continue
            list_place = one_cell_list(place, self._rows, column.from_list)
            if list_place is not None:
                picked = Pick(list_place, place[len(list_place) + 1 :], column.from_list, at)
                picks.append(picked)
                self._picks[at] = picked
            elif texts is not None:
                # An index into a list is read from its text.
                texts.update(place[:cut] for cut in range(len(place) + 1))
        return Wanted(
            tuple(self._rows),
            take.together == "side by side",
            keyed,
            tuple(picks),
            None if texts is None else frozenset(texts),
        )

    def add(
        self,
        picked: Picked | None,
        document: Any = None,
        page: int | None = None,
        parameters: Mapping[str, Any] | None = None,
        values: Sequence[Any] | None = None,
        more: bool = False,
    ) -> None:
        """The records of one more page.

        Args:
            picked: what was picked; ``None`` of an answer that is too large to hold, whose records are in `values`.
            document: the whole answer, or what there is of it besides the records.
            page: its number in its round, counted from 1.
            parameters: what the parameters stand for in its round, where that differs from the whole run.
            values: its records, where they were not picked.
            more: whether these are more records of the same page.
        """
        records = list(picked.values if values is None and picked is not None else values or ())
        skipped = 0
        if self._headed is not None:
            records, skipped = self._headed.records(records, document)
        if more and self.sizes:
            self.sizes[-1] += len(records)
        else:
            self.sizes.append(len(records))
            self._starts.append(skipped)
        self.records += len(records)
        number = page if page is not None else len(self.sizes)
        self._around.add(picked, document, len(records), number, skipped, parameters)
        self._waiting += records
        # Flattening some hundreds together is faster than page by page.
        if len(self._waiting) >= _TOGETHER:
            waiting, self._waiting = self._waiting, []
            self._flattener.add(waiting)

    def reading(self) -> Reading:
        """The table of all pages."""
        self._flattener.add(self._waiting)
        self._waiting = []
        flat = self._flattener.flat()
        sizes = np.array(self.sizes, dtype=np.int64)
        page = np.repeat(np.arange(len(sizes), dtype=np.int64), sizes)[flat.record]
        record = flat.record - (np.cumsum(sizes) - sizes)[page] if len(sizes) else flat.record
        if self._headed is not None and len(sizes):
            # Rows of names count in the answer.
            record = record + np.array(self._starts, dtype=np.int64)[page]
        reading = Reading(
            Table([], [], page, record, flat.items),
            int(sizes.sum()),
            lists={format_place(place): count for place, count in flat.lists.items()},
            fields=_fields(flat),
            empty=_empty(flat),
        )
        if self._headed is not None:
            reading.heads, reading.problem = self._headed.names or [], self._headed.problem
        if self._take.columns is None:
            self._take_all(flat, reading)
        else:
            self._take_chosen(flat, reading)
        return reading

    # Columns ---------------------------------------------------------------------------------------------------

    def _take_all(self, flat: Flat, reading: Reading) -> None:
        keys = self._around.values[0]
        columns = list(flat.columns)
        if any(key is not None for key in keys):
            columns.insert(0, FlatColumn((KEY,), flat.repeated(keys), frozenset({str})))
        reading.fresh = [marked_place(column.place)[0] for column in columns[MOST_COLUMNS:]]
        columns = columns[:MOST_COLUMNS]
        for name, column in zip(column_names([column.place for column in columns]), columns, strict=True):
            place, of = marked_place(column.place)
            is_list = column.place in flat.lists
            kind = "json" if is_list else guess_kind(_distinct(column.values), column.types)
            reading.table.columns.append(TableColumn(name, kind, place=place, of="key" if of == "key" else "record"))
            reading.table.data.append(column.values)

    def _take_chosen(self, flat: Flat, reading: Reading) -> None:
        found: dict[Marked, FlatColumn] = {column.place: column for column in flat.columns}
        keys = {column.place[:-1]: column for column in flat.columns
                if column.place and isinstance(column.place[-1], KeyMark)}  # fmt: skip
        used: set[Marked] = set()
        around = iter(self._around.values)
        for at, wanted in enumerate(self._take.columns or []):
            place = parse_place(wanted.place) or ()
            column: FlatColumn | None
            if wanted.of != "record" and not self._of_item(wanted):
                values = next(around)
                column = FlatColumn(place, flat.repeated(values), frozenset(map(type, values)))
            elif wanted.of == "key":
                column = keys.get(place)
            elif at in self._picks:
                picked = self._picks[at]
                column = found.get((*picked.list_place, EACH, *picked.rest, picked))
                used.add(place)
                used.add(picked.list_place)
            else:
                column = found.get(place)
                used.add(place)
                if column is None:
                    column = _from_parts(place, found, flat)
            self._add_column(wanted, place, column, flat, reading)
        reading.fresh = self._not_taken(flat, used)

    def _add_column(
        self, wanted: TakenColumn, place: Place, column: FlatColumn | None, flat: Flat, reading: Reading
    ) -> None:
        if column is None:
            values: Cells = [None] * reading.table.height
            types: frozenset[type] = frozenset()
            # An answer without any record says nothing about which fields there are.
            if reading.records:
                reading.absent.append(wanted.place)
        else:
            values, types = column.values, column.types
        found = guess_kind(_distinct(values), types)
        as_text = wanted.of == "record" and wanted.from_list is None
        is_list = place in flat.lists or (as_text and one_cell_list(place, self._rows, None) is not None)
        kind = wanted.kind or ("json" if is_list else found)
        if isinstance(wanted.from_list, Reckoned) and wanted.kind is None and str in types:
            # Lists whose values are not all numbers are told as they are.
            reading.unfit[wanted.name] = sum(type(value) is str for value in _distinct(values))
        if wanted.kind is not None and (wanted.kind != found or wanted.reads is not None):
            converted, unfit = convert(_distinct(values), wanted.kind, wanted.reads)
            values = values.with_values(converted) if isinstance(values, Repeated) else converted
            if unfit:
                reading.unfit[wanted.name] = unfit
        reading.table.columns.append(
            TableColumn(
                wanted.name,
                kind,
                place=wanted.place,
                unit=wanted.unit,
                of=wanted.of,
                note=wanted.note,
                hidden=wanted.hidden,
                list_words=list_words(wanted.from_list) if self._one_cell(wanted, place) else "",
            )
        )
        reading.table.data.append(values)

    def _one_cell(self, wanted: TakenColumn, place: Place) -> bool:
        """Whether a column's values are made of lists."""
        rows = self._rows if wanted.of == "record" else [place]
        return wanted.of != "key" and one_cell_list(place, rows, wanted.from_list) is not None

    def _not_taken(self, flat: Flat, used: set[Marked]) -> list[str]:
        out = []
        for column in flat.columns:
            place = column.place
            marked = bool(place) and isinstance(place[-1], Pick | KeyMark)
            if not marked and place not in used:
                out.append(format_place(place))
        return [*out, *(format_place(place) for place in flat.inner if place not in used)]


def marked_place(place: Marked) -> tuple[str, str]:
    """The text of a column's place, and what its mark says: ``key``, ``list`` or nothing."""
    if place and isinstance(place[-1], KeyMark):
        return format_place(place[:-1]), "key"
    if place and isinstance(place[-1], Pick):
        return format_place(place[:-1]), "list"
    return format_place(place), ""


def list_words(choice: FromList | None) -> str:
    """How values of a list become one cell, in words."""
    if choice is None:
        return "all of them"
    if isinstance(choice, Matching):
        what = choice.equals if isinstance(choice.equals, str) else json_text(choice.equals)
        return f"where {choice.place.removeprefix('$.')} is {what}"
    if isinstance(choice, Nth):
        return f"number {choice.number}" if choice.number > 0 else f"number {-choice.number} from the end"
    return {"count": "how many", "sum": "sum of", "mean": "mean of"}.get(choice.by, choice.by)


def _fields(flat: Flat) -> dict[str, str]:
    """Every place with its kind."""
    out: dict[str, str] = {}
    for column in flat.columns[:MOST_FIELDS]:
        place, mark = marked_place(column.place)
        if not mark:
            kind: str = guess_kind(_distinct(column.values), column.types)
            if column.place in flat.lists:
                kind = "list"
            elif column.types <= {type(None)}:
                kind = "empty"
            out[place] = kind
    for place_ in flat.inner:
        out.setdefault(format_place(place_), "in a list")
    return out


def _empty(flat: Flat) -> int:
    """How many records gave no item for the first list that was made rows."""
    return int((flat.items[0] < 0).sum()) if flat.items and flat.spread else 0


def _distinct(cells: Cells) -> list[Any] | Packed:
    """The values without their repetition."""
    return cells.values if isinstance(cells, Repeated) else cells


def _from_parts(place: Place, by_place: Mapping[Marked, FlatColumn], flat: Flat) -> FlatColumn | None:
    """Values at a fixed index of a list that the table holds as JSON text, such as ``$.legs[0].port``."""
    for cut, segment in enumerate(place):
        if isinstance(segment, int) and place[:cut] in flat.lists and place[:cut] in by_place:
            rest = format_place(place[cut:])
            column = by_place[place[:cut]]
            cells = column.values
            values = [_inside(text, rest) for text in _distinct(cells)]
            types = frozenset(map(type, values))
            return FlatColumn(place, cells.with_values(values) if isinstance(cells, Repeated) else values, types)
    return None


def _inside(text: Any, path: str) -> Any:
    if not isinstance(text, str):
        return None
    found = pick(parse_json(text.encode()), path).values
    value = found[0] if found else None
    return json_text(value) if isinstance(value, dict | list) else value


def no_rows_problem(document: Any, path: str) -> Problem | None:
    """Why a path that found nothing may be wrong: ``None`` when the place is there and is just empty."""
    place = parse_place(path)
    if place is None:
        return None
    outer = place[:-1] if place and place[-1] is EACH else place
    if pick(document, format_place(outer)).values:
        return None
    have = ", ".join(list(document)[:12]) if isinstance(document, dict) else f"a {_word(document)}"
    return Problem(
        "no-rows-there",
        f"There is nothing at {path} in the answer.",
        path,
        f"The answer has: {have or 'no members'}. Open Answers and click the list that holds the rows.",
    )


def _word(value: Any) -> str:
    if isinstance(value, list):
        return f"list of {len(value):,}"
    return "text" if isinstance(value, str) else "single value"
