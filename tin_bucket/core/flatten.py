"""Records → columns. Nested objects become columns; one chosen list becomes rows; other lists become JSON text.

The work is done a column at a time, in stretches of records that fit into the processor's cache: that is what makes
it fast. A value that one record holds as an object and another as a plain value gives both columns, so that no leaf
is lost.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, overload

import numpy as np
import numpy.typing as npt

from .json_text import json_text
from .packed import Packed
from .places import EACH, Place, readable_name
from .quiet import collector_paused

Ints = npt.NDArray[np.int64]
NOTHING = type(None)
PACKED_FROM = 150_000  # Records of a table whose columns are kept packed.
_STRETCH = 256  # Records handled together: few enough for the processor's cache.


class Repeated(Sequence[Any]):
    """Values of records, seen once for each row that a record has become: nothing is copied until it is read.

    Attributes:
        values: one for each record.
        record: for each row the index of its record.
    """

    __slots__ = ("record", "values")

    def __init__(self, values: list[Any] | Packed, record: list[int]) -> None:
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

    def with_values(self, values: list[Any] | Packed) -> Repeated:
        """The same repetition of other values."""
        return Repeated(values, self.record)


Cells = list[Any] | Repeated | Packed


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
    flattener = Flattener(rows_for)
    flattener.add(records)
    return flattener.flat()


class Flattener:
    """Flattens records as they come. From :data:`PACKED_FROM` records on the columns are kept packed."""

    def __init__(self, rows_for: Place | None = None) -> None:
        """
        Args:
            rows_for: as :func:`flatten`.
        """
        self._rows_for = rows_for
        self._gathered = _Gathered()

    def add(self, records: list[Any]) -> None:
        """Flatten some more records; they are not kept."""
        with collector_paused():
            for start in range(0, len(records), _STRETCH):
                part = records[start : start + _STRETCH]
                found = _Found(self._rows_for)
                _spread(part, set(map(type, part)), (), found)
                self._gathered.add(found, len(part))

    def flat(self) -> Flat:
        """All of them as columns of rows."""
        with collector_paused():
            return self._gathered.flat(self._rows_for)


@dataclass(slots=True)
class _Piece:
    """A column of one stretch. `weak` ones hold no value of their own; `of_items` ones have a value for each item."""

    place: Place
    values: Sequence[Any]
    weak: bool = False
    of_items: bool = False


@dataclass(slots=True)
class _Column:
    """A column over all stretches so far."""

    values: list[Any] | Packed
    of_items: bool
    weak: bool = True


class _Found:
    """What the walk through one stretch has found."""

    __slots__ = ("lengths", "lists", "pieces", "rows_for")

    def __init__(self, rows_for: Place | None) -> None:
        self.pieces: list[_Piece] = []
        self.lists: dict[Place, int] = {}
        self.rows_for = rows_for
        # How many rows each record becomes, and whether it has items at all, once the list was met.
        self.lengths: list[int] | None = None


class _Gathered:
    """The stretches' columns, laid end to end."""

    def __init__(self) -> None:
        self._order: list[Place] = []
        self._columns: dict[Place, _Column] = {}
        self._last: list[Place] = []
        self._records = 0
        self._items = 0
        self._lengths: list[int] = []
        self._split = False
        self._packed = False
        self._lists: dict[Place, int] = {}

    def add(self, found: _Found, count: int) -> None:
        """Lay a stretch of `count` records behind the others; a column that it lacks is filled with ``None``."""
        for place, items in found.lists.items():
            self._lists[place] = self._lists.get(place, 0) + items
        items = count if found.lengths is None else sum(length or 1 for length in found.lengths)
        self._lengths.extend(found.lengths if found.lengths is not None else [0] * count)
        self._split = self._split or found.lengths is not None
        places = [piece.place for piece in found.pieces]
        if places != self._last:
            _add_in_order(self._order, places)
            self._last = places
        for piece in found.pieces:
            column = self._columns.get(piece.place)
            if column is None:
                before = self._items if piece.of_items else self._records
                gap = itertools.repeat(None, before)
                column = _Column(Packed(gap) if self._packed else list(gap), piece.of_items)
                self._columns[piece.place] = column
            column.values.extend(piece.values)
            column.weak = column.weak and piece.weak
        self._records += count
        self._items += items
        if not self._packed and self._records >= PACKED_FROM:
            self._packed = True
            for column in self._columns.values():
                column.values = Packed(column.values)
        if len(places) < len(self._columns):
            for column in self._columns.values():
                height = self._items if column.of_items else self._records
                column.values.extend([None] * (height - len(column.values)))

    def flat(self, rows_for: Place | None) -> Flat:
        """The whole as columns of rows."""
        # A place that was empty here and an object or a list there is told by its inner places alone.
        outer = {place[:cut] for place in self._order for cut in range(len(place))}
        places = [place for place in self._order if not (self._columns[place].weak and place in outer)]
        if not self._split:
            columns = [FlatColumn(place, self._columns[place].values) for place in places]
            return Flat(columns, np.arange(self._records, dtype=np.int64), None, self._lists)
        lengths = np.array(self._lengths, dtype=np.int64)
        spans = np.maximum(lengths, 1)
        record = np.repeat(np.arange(self._records, dtype=np.int64), spans)
        item = np.arange(len(record), dtype=np.int64) - np.repeat(np.cumsum(spans) - spans, spans)
        item[(lengths == 0)[record]] = -1
        listed = record.tolist()
        columns = []
        for place in places:
            column = self._columns[place]
            columns.append(FlatColumn(place, column.values if column.of_items else Repeated(column.values, listed)))
        return Flat(columns, record, item, self._lists)


def _spread(values: Sequence[Any], kinds: set[type], place: Place, found: _Found) -> None:
    """Sort the values at one place into plain ones, objects and lists, and make columns of each."""
    if dict in kinds and kinds <= {dict, NOTHING}:
        _spread_objects(values, place, found, NOTHING in kinds)
        return
    if list in kinds:
        lengths = [len(value) if type(value) is list else 0 for value in values]
        found.lists[place] = sum(lengths)
        if place == found.rows_for:
            _spread_items(values, lengths, place, found)
            # Whatever is not a list at this place keeps a column of its own.
            if kinds <= {list, NOTHING}:
                return
            values = [None if type(value) is list else value for value in values]
        else:
            values = [json_text(value) if type(value) is list else value for value in values]
    if dict in kinds:
        # An empty object has no members to show; here it is told as a plain value.
        plain = [("{}" if not value else None) if type(value) is dict else value for value in values]
        objects = [value if type(value) is dict and value else None for value in values]
        if any(value is not None for value in plain):
            found.pieces.append(_Piece(place, plain))
        if any(value is not None for value in objects):
            _spread_objects(objects, place, found, True)
        return
    found.pieces.append(_Piece(place, values, weak=kinds <= {NOTHING}))


def _spread_items(values: Sequence[Any], lengths: list[int], place: Place, found: _Found) -> None:
    """Make the items of the chosen list columns with a value for each item; no items count as one empty one."""
    found.lengths = lengths
    items: list[Any] = []
    for value, length in zip(values, lengths, strict=True):
        if length:
            items += value
        else:
            items.append(None)
    inner = _Found(None)
    _spread(items, set(map(type, items)), (*place, EACH), inner)
    for piece in inner.pieces:
        piece.of_items = True
    found.pieces.extend(inner.pieces)
    found.lists.update(inner.lists)


def _spread_objects(values: Sequence[Any], place: Place, found: _Found, gaps: bool) -> None:
    objects: Sequence[Any] = [value for value in values if value is not None] if gaps else values
    names, columns = _members(objects)
    for name, inner in zip(names, columns, strict=True):
        kinds = set(map(type, inner))
        if gaps:
            inner = _with_gaps(values, inner)
            kinds.add(NOTHING)
        _spread(inner, kinds, (*place, name), found)
    if not names:
        # Objects without members would leave no trace at all.
        braces = ["{}" if value is not None else None for value in values]
        found.pieces.append(_Piece(place, braces, weak=True))


def _with_gaps(values: Sequence[Any], inner: Sequence[Any]) -> list[Any]:
    following = iter(inner)
    return [None if value is None else next(following) for value in values]


def _members(objects: Sequence[Any]) -> tuple[Sequence[str], Sequence[Sequence[Any]]]:
    """The objects' members: their names, and for each name a value of each object, ``None`` where it is absent."""
    shapes = list(map(tuple, objects))
    first = shapes[0]
    if shapes.count(first) == len(shapes):
        return first, list(zip(*map(dict.values, objects), strict=True))
    order: list[str] = []
    for shape in dict.fromkeys(shapes):
        _add_in_order(order, shape)
    return order, [[value.get(name) for value in objects] for name in order]


def _add_in_order(order: list[Any], newcomers: Sequence[Any]) -> None:
    """Put what is new into the order, each behind the known one that it follows; at the end when it follows none."""
    known = set(order)
    at = len(order)
    for one in newcomers:
        if one in known:
            at = order.index(one) + 1
        else:
            order.insert(at, one)
            known.add(one)
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
