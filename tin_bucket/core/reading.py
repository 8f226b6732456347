"""Answers → table: pick the records, flatten them, choose the columns, give them their kinds.

The whole reading is a function of the brief and the parsed answers, so that it can be done again from saved
answers at no call.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from .brief import Take
from .flatten import Cells, Flat, Flattener, Repeated, column_names
from .json_text import json_text, parse_json
from .kinds import convert, guess_kind
from .packed import Packed
from .picking import Picked, pick
from .places import EACH, Place, format_place, parse_place
from .problem import Problem
from .table import Table, TableColumn

_TOGETHER = 1024


@dataclass(slots=True)
class Reading:
    """A table, and what a person should know about how it came to be.

    Attributes:
        table: the table.
        records: how many records were taken before a list was made rows.
        absent: chosen places that no record has.
        fresh: places that the answers have and the brief does not take; empty when the brief takes all.
        lists: lists in the records, with the number of items in all of them.
        unfit: column name → how many values did not fit the wanted kind.
    """

    table: Table
    records: int
    absent: list[str] = field(default_factory=list)
    fresh: list[str] = field(default_factory=list)
    lists: dict[str, int] = field(default_factory=dict)
    unfit: dict[str, int] = field(default_factory=dict)


def read_table(take: Take, pages: list[Picked]) -> Reading:
    """Make one table of the records of all pages.

    Args:
        take: which columns, and which list becomes rows.
        pages: what was picked from each page's answer, in order.
    """
    reader = Reader(take)
    for page in pages:
        reader.add(page.values)
    return reader.reading()


class Reader:
    """Reads pages as they come, in order; the records themselves are not kept."""

    def __init__(self, take: Take) -> None:
        """
        Args:
            take: which columns, and which list becomes rows.
        """
        self._take = take
        self._flattener = Flattener(parse_place(take.rows_for) if take.rows_for else None)
        self._waiting: list[Any] = []
        self.sizes: list[int] = []

    def add(self, records: list[Any], more: bool = False) -> None:
        """The records of one more page, or `more` of the same one."""
        if more and self.sizes:
            self.sizes[-1] += len(records)
        else:
            self.sizes.append(len(records))
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
        page = np.repeat(np.arange(len(sizes), dtype=np.int64), sizes)
        if flat.item is not None:
            page = page[flat.record]
        record = flat.record
        record -= (np.cumsum(sizes) - sizes)[page] if len(sizes) else 0
        reading = Reading(
            Table([], [], page, record, flat.item),
            int(sizes.sum()),
            lists={format_place(place): count for place, count in flat.lists.items()},
        )
        if self._take.columns is None:
            _take_all(flat, reading)
        else:
            _take_chosen(self._take, flat, reading)
        return reading


def _take_all(flat: Flat, reading: Reading) -> None:
    names = column_names([column.place for column in flat.columns])
    for name, column in zip(names, flat.columns, strict=True):
        is_list = column.place in flat.lists
        kind = "json" if is_list else guess_kind(_distinct(column.values))
        reading.table.columns.append(TableColumn(name, kind, place=format_place(column.place)))
        reading.table.data.append(column.values)


def _take_chosen(take: Take, flat: Flat, reading: Reading) -> None:
    by_place: dict[Place, Cells] = {column.place: column.values for column in flat.columns}
    used: set[Place] = set()
    for wanted in take.columns or []:
        place = parse_place(wanted.place) or ()
        values = by_place.get(place)
        used.add(place)
        if values is None:
            values = _from_parts(place, by_place, flat)
        if values is None:
            values = [None] * reading.table.height
            # An answer without any record says nothing about which fields there are.
            if reading.records:
                reading.absent.append(wanted.place)
        found = guess_kind(_distinct(values))
        kind = wanted.kind or ("json" if place in flat.lists else found)
        if wanted.kind is not None and wanted.kind != found:
            converted, unfit = convert(_distinct(values), wanted.kind)
            values = values.with_values(converted) if isinstance(values, Repeated) else converted
            if unfit:
                reading.unfit[wanted.name] = unfit
        reading.table.columns.append(TableColumn(wanted.name, kind, place=wanted.place, unit=wanted.unit))
        reading.table.data.append(values)
    reading.fresh = [format_place(column.place) for column in flat.columns if column.place not in used]


def _distinct(cells: Cells) -> list[Any] | Packed:
    """The values without their repetition."""
    return cells.values if isinstance(cells, Repeated) else cells


def _from_parts(place: Place, by_place: dict[Place, Cells], flat: Flat) -> Cells | None:
    """Values at a fixed index of a list that the table holds as JSON text, such as ``$.legs[0].port``."""
    for cut, segment in enumerate(place):
        if isinstance(segment, int) and place[:cut] in flat.lists and place[:cut] in by_place:
            rest = format_place(place[cut:])
            return [_inside(text, rest) for text in by_place[place[:cut]]]
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
