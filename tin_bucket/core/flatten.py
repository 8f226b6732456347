"""Records → columns. Nested objects become columns; one chosen list becomes rows; other lists become JSON text.

The work is done a column at a time, in stretches of records that fit into the processor's cache: that is what makes
it fast. A value that one record holds as an object and another as a plain value gives both columns, so that no leaf
is lost.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain
from operator import itemgetter
from typing import Any, overload

import numpy as np
import numpy.typing as npt

from .json_text import json_text
from .places import EACH, Place, readable_name
from .quiet import collector_paused

Ints = npt.NDArray[np.int64]
NOTHING = type(None)
_STRETCH = 512  # Records handled together.


class Repeated(Sequence[Any]):
    """Values of records, seen once for each row that a record has become: nothing is copied until it is read.

    Attributes:
        values: one for each record.
        record: for each row the index of its record.
    """

    __slots__ = ("record", "values")

    def __init__(self, values: list[Any], record: list[int]) -> None:
        self.values = values
        self.record = record

    def __len__(self) -> int:
        return len(self.record)

    def __iter__(self) -> Iterator[Any]:
        return map(self.values.__getitem__, self.record)

    @overload
    def __getitem__(self, at: int) -> Any: ...
    @overload
    def __getitem__(self, at: slice) -> list[Any]: ...
    def __getitem__(self, at: int | slice) -> Any:
        if isinstance(at, slice):
            return list(map(self.values.__getitem__, self.record[at]))
        return self.values[self.record[at]]

    def with_values(self, values: list[Any]) -> Repeated:
        """The same repetition of other values."""
        return Repeated(values, self.record)


Cells = list[Any] | Repeated


@dataclass(slots=True)
class FlatColumn:
    """A column as it was found: where in the record it comes from, and a value for each row."""

    place: Place
    values: Cells


@dataclass(slots=True)
class Flat:
    """The flattened records.

    Attributes:
        columns: in the order in which the API first sends them.
        record: for each row the index of its record, shape (rows,).
        item: for each row the index in the list that was made rows, −1 where that list was empty or absent;
            ``None`` when no list was made rows. Shape (rows,).
        lists: places of the lists that were found, with the number of items in all of them.
    """

    columns: list[FlatColumn]
    record: Ints
    item: Ints | None
    lists: dict[Place, int] = field(default_factory=dict)


def flatten(records: list[Any], rows_for: Place | None = None) -> Flat:
    """Make columns of records.

    Args:
        records: parsed JSON values, as a rule objects.
        rows_for: place of a list in the record (no wildcards in it); each item becomes a row, and the other values
            of the record are repeated. A record whose list is empty or absent keeps one row.
    """
    with collector_paused():
        found = _Found(rows_for)
        _spread(records, set(map(type, records)), (), found)
        if found.split is None or rows_for is None:
            return Flat(found.columns, np.arange(len(records), dtype=np.int64), None, found.lists)
        return _split_rows(records, rows_for, found, found.split)


def _split_rows(records: list[Any], rows_for: Place, found: _Found, split: list[Any]) -> Flat:
    """Make the items of the list at `rows_for` rows; the columns found so far are repeated for them."""
    count = len(records)
    filled = [value if type(value) is list and value else None for value in split]
    lengths = np.array([1 if value is None else len(value) for value in filled], dtype=np.int64)
    record = np.repeat(np.arange(count, dtype=np.int64), lengths)
    item = np.arange(len(record), dtype=np.int64) - np.repeat(np.cumsum(lengths) - lengths, lengths)
    item[np.array([value is None for value in filled], dtype=bool)[record]] = -1
    items = list(chain.from_iterable((None,) if value is None else value for value in filled))
    inner = _Found(None)
    _spread(items, set(map(type, items)), (*rows_for, EACH), inner)
    listed = record.tolist()
    for column in found.columns:
        column.values = Repeated(list(column.values), listed)
    columns = [*found.columns[: found.split_at], *inner.columns, *found.columns[found.split_at :]]
    return Flat(columns, record, item, {**found.lists, **inner.lists})


class _Found:
    """What a walk has found so far."""

    __slots__ = ("columns", "lists", "rows_for", "split", "split_at")

    def __init__(self, rows_for: Place | None) -> None:
        self.columns: list[FlatColumn] = []
        self.lists: dict[Place, int] = {}
        self.rows_for = rows_for
        self.split: list[Any] | None = None
        self.split_at = 0


def _spread(values: list[Any], kinds: set[type], place: Place, found: _Found) -> None:
    """Sort the values at one place into plain ones, objects and lists, and make columns of each."""
    if dict in kinds and kinds <= {dict, NOTHING}:
        _spread_objects(values, place, found, NOTHING in kinds)
        return
    if list in kinds:
        found.lists[place] = sum(len(value) for value in values if type(value) is list)
        if place == found.rows_for:
            found.split = values
            found.split_at = len(found.columns)
            # Whatever is not a list at this place keeps a column of its own.
            values = [None if type(value) is list else value for value in values]
            if kinds <= {list, NOTHING}:
                return
        else:
            values = [json_text(value) if type(value) is list else value for value in values]
    if dict in kinds:
        # An empty object has no members to show; here it is told as a plain value.
        plain = [("{}" if not value else None) if type(value) is dict else value for value in values]
        objects = [value if type(value) is dict and value else None for value in values]
        if any(value is not None for value in plain):
            found.columns.append(FlatColumn(place, plain))
        if any(value is not None for value in objects):
            _spread_objects(objects, place, found, True)
        return
    found.columns.append(FlatColumn(place, values))


def _spread_objects(values: list[Any], place: Place, found: _Found, gaps: bool) -> None:
    objects = [value for value in values if value is not None] if gaps else values
    members = _members(objects)
    for name, (inner, kinds) in members.items():
        if gaps:
            inner = _with_gaps(values, inner)
            kinds.add(NOTHING)
        _spread(inner, kinds, (*place, name), found)
    if not members:
        # Objects without members would leave no trace at all.
        found.columns.append(FlatColumn(place, ["{}" if value is not None else None for value in values]))


def _with_gaps(values: list[Any], inner: list[Any]) -> list[Any]:
    following = iter(inner)
    return [None if value is None else next(following) for value in values]


def _members(objects: list[Any]) -> dict[str, tuple[list[Any], set[type]]]:
    """The objects' members as columns: name → a value for each object (``None`` where absent), and their types."""
    columns: dict[str, tuple[list[Any], set[type]]] = {}
    order: list[str] = []
    for start in range(0, len(objects), _STRETCH):
        part = objects[start : start + _STRETCH]
        shapes = set(map(tuple, part))
        for shape in shapes if len(shapes) == 1 else dict.fromkeys(map(tuple, part)):
            if not columns.keys() >= set(shape):
                _add_names(order, shape)
                for name in shape:
                    columns.setdefault(name, ([None] * start, {NOTHING} if start else set()))
        if len(shapes) == 1:
            for name, values in zip(shapes.pop(), zip(*map(dict.values, part), strict=True), strict=True):
                columns[name][0].extend(values)
                columns[name][1].update(map(type, values))
        for name, (column, kinds) in columns.items():
            if len(column) == start:
                try:
                    got = list(map(itemgetter(name), part))
                except KeyError:
                    got = [value.get(name) for value in part]
                column.extend(got)
                kinds.update(map(type, got))
    return {name: columns[name] for name in order}


def _add_names(order: list[str], shape: tuple[str, ...]) -> None:
    """Put new member names into the order, each behind the one that it follows in its own object."""
    known = set(order)
    at = 0
    for name in shape:
        if name in known:
            at = order.index(name) + 1
        else:
            order.insert(at, name)
            known.add(name)
            at += 1


def column_names(places: list[Place]) -> list[str]:
    """A readable and distinct name for each place; a name that is taken gets a number behind it."""
    taken: set[str] = set()
    names = []
    for place in places:
        base = readable_name(place)
        name, number = base, 2
        while name in taken:
            name, number = f"{base} ({number})", number + 1
        taken.add(name)
        names.append(name)
    return names
