"""Records → columns. Nested objects become columns; chosen lists become rows; other lists become one cell each.

The work is done a column at a time, in stretches of records that fit into the processor's cache: that is what makes
it fast. A value that one record holds as an object and another as a plain value gives both columns, so that no leaf
is lost.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from operator import itemgetter
from typing import Any, Final, overload

import numpy as np

from .from_list import items_of, list_reader
from .json_text import json_text
from .levels import Ints, expand
from .packed import Packed
from .places import EACH, Each, Place, readable_name
from .quiet import collector_paused
from .take import FromList

NOTHING = type(None)
PACKED_FROM = 150_000  # Records of a table whose columns are kept packed.
_STRETCH = 256  # Records handled together: few enough for the processor's cache.


class KeyMark:
    """Stands at the end of a column's place where the column holds the names under which items lie in objects."""

    __slots__ = ()

    def __repr__(self) -> str:
        return "KEY"


KEY: Final = KeyMark()


@dataclass(frozen=True, slots=True)
class Pick:
    """Stands at the end of a column's place where values of a list become one cell.

    Attributes:
        list_place: place of the list, without ``[*]``.
        rest: place of the value in an item.
        choice: how they become one; JSON text when ``None``.
        number: tells apart two columns of one place.
    """

    list_place: Place
    rest: Place
    choice: FromList | None
    number: int = 0

    def __hash__(self) -> int:
        return hash((self.list_place, self.rest, self.number))


# A place, at whose end may stand a mark.
Marked = tuple[Any, ...]


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
    """A column as it was found: where in the record it comes from, and a value for each row.

    Attributes:
        place: its place; with :data:`KEY` or a :class:`Pick` at its end it holds something else than the value there.
        types: the types of its values.
    """

    place: Marked
    values: Cells
    types: frozenset[type] = frozenset()


@dataclass(slots=True)
class Flat:
    """The flattened records.

    Attributes:
        columns: in the order in which the API first sends them.
        record: for each row the index of its record, shape (rows,).
        items: for each list that was made rows, in their given order, the number of the row's item in its list; −1
            where that list was empty or absent. Shapes (rows,).
        lists: places of the lists that were found, with the number of items in all of them.
        inner: places in lists that became one cell, as far as their items are objects.
    """

    columns: list[FlatColumn]
    record: Ints
    items: list[Ints]
    lists: dict[Place, int] = field(default_factory=dict)
    inner: list[Place] = field(default_factory=list)
    spread: bool = False

    def repeated(self, values: list[Any]) -> Cells:
        """Values of records, one for each row."""
        return Repeated(values, self.record.tolist()) if self.spread else values


def flatten(records: list[Any], rows_for: Sequence[Place] = ()) -> Flat:
    """Make columns of records.

    Args:
        records: parsed JSON values, as a rule objects.
        rows_for: places of lists in the record; each item becomes a row, and the other values of the record are
            repeated. A record whose list is empty or absent keeps one row.
    """
    flattener = Flattener(Wanted(tuple(rows_for)))
    flattener.add(records)
    return flattener.flat()


@dataclass(frozen=True, slots=True)
class Wanted:
    """What flattening does with lists.

    Attributes:
        rows_for: places of the lists whose items become rows, a list before those that lie in it.
        side_by_side: how several lists of one record stand together, see :func:`levels.expand`.
        keyed: places of objects whose members are read like a list.
        picks: columns that are made of lists.
        texts: places of lists whose JSON text is wanted; of all lists when ``None``.
    """

    rows_for: tuple[Place, ...] = ()
    side_by_side: bool = False
    keyed: frozenset[Place] = frozenset()
    picks: tuple[Pick, ...] = ()
    texts: frozenset[Place] | None = None


class Flattener:
    """Flattens records as they come. From :data:`PACKED_FROM` records on the columns are kept packed."""

    def __init__(self, wanted: Wanted = Wanted()) -> None:
        self._plan = _Plan(wanted)
        self._gathered = _Gathered(self._plan)

    def add(self, records: list[Any]) -> None:
        """Flatten some more records; they are not kept."""
        with collector_paused():
            for start in range(0, len(records), _STRETCH):
                part = records[start : start + _STRETCH]
                found = _Found(self._plan)
                _spread(part, _types(part), (), 0, found)
                self._gathered.add(found, len(part))

    def flat(self) -> Flat:
        """All of them as columns of rows."""
        with collector_paused():
            return self._gathered.flat()


class _Plan:
    """What is wanted, by place."""

    def __init__(self, wanted: Wanted) -> None:
        self.wanted = wanted
        # Level 0 is the records; each list that becomes rows has a level after that of the list that it lies in.
        self.level: dict[Place, int] = {place: at for at, place in enumerate(wanted.rows_for, 1)}
        self.parents = [self._parent(place) for place in wanted.rows_for]
        self.picks: dict[Place, list[tuple[Pick, Any]]] = {}
        for pick in wanted.picks:
            pair = (pick, list_reader(pick.choice, pick.rest))
            self.picks.setdefault(pick.list_place, []).append(pair)

    def _parent(self, place: Place) -> int:
        for cut in range(len(place) - 1, -1, -1):
            if isinstance(place[cut], Each):
                return self.level[place[:cut]]
        return 0


@dataclass(slots=True)
class _Piece:
    """A column of one stretch, with a value for each item of its level. `weak` ones hold no value of their own."""

    place: Marked
    values: Sequence[Any]
    level: int
    types: set[type]
    weak: bool = False


@dataclass(slots=True)
class _Column:
    """A column over all stretches so far."""

    values: list[Any] | Packed
    level: int
    types: set[type] = field(default_factory=set)
    weak: bool = True


class _Found:
    """What the walk through one stretch has found."""

    __slots__ = ("inner", "lengths", "lists", "pieces", "plan")

    def __init__(self, plan: _Plan) -> None:
        self.pieces: list[_Piece] = []
        self.lists: dict[Place, int] = {}
        self.inner: dict[Place, None] = {}
        self.plan = plan
        # For each level that was met how many items the list has in each item of its parent.
        self.lengths: dict[int, list[int]] = {}


class _Gathered:
    """The stretches' columns, laid end to end."""

    def __init__(self, plan: _Plan) -> None:
        self._plan = plan
        self._order: list[Marked] = []
        self._columns: dict[Marked, _Column] = {}
        self._last: list[Marked] = []
        self._counts = [0] * (len(plan.parents) + 1)
        self._lengths: list[list[int]] = [[] for _ in plan.parents]
        self._split = False
        self._packed = False
        self._lists: dict[Place, int] = {}
        self._inner: dict[Place, None] = {}

    def add(self, found: _Found, count: int) -> None:
        """Lay a stretch of `count` records behind the others; a column that it lacks is filled with ``None``."""
        for place, items in found.lists.items():
            self._lists[place] = self._lists.get(place, 0) + items
        self._inner.update(found.inner)
        self._split = self._split or bool(found.lengths)
        counts = [count]
        for at, parent in enumerate(self._plan.parents):
            lengths = found.lengths.get(at + 1)
            if lengths is None:
                lengths = [0] * counts[parent]
            self._lengths[at].extend(lengths)
            counts.append(sum(lengths) + lengths.count(0))
        places = [piece.place for piece in found.pieces]
        if places != self._last:
            _add_in_order(self._order, places)
            self._last = places
        for piece in found.pieces:
            column = self._columns.get(piece.place)
            if column is None:
                gap = itertools.repeat(None, self._counts[piece.level])
                column = _Column(Packed(gap) if self._packed else list(gap), piece.level)
                self._columns[piece.place] = column
            column.values.extend(piece.values)
            column.types |= piece.types
            column.weak = column.weak and piece.weak
        for at, more in enumerate(counts):
            self._counts[at] += more
        if not self._packed and self._counts[0] >= PACKED_FROM:
            self._packed = True
            for column in self._columns.values():
                column.values = Packed(column.values)
        if len(places) < len(self._columns):
            for column in self._columns.values():
                column.values.extend([None] * (self._counts[column.level] - len(column.values)))

    def flat(self) -> Flat:
        """The whole as columns of rows."""
        # A place that was empty here and an object or a list there is told by its inner places alone.
        outer = {place[:cut] for place in self._order for cut in range(len(place))}
        places = [place for place in self._order if not (self._columns[place].weak and place in outer)]
        height = self._counts[0]
        if not self._split:
            found = [(place, self._columns[place]) for place in places]
            columns = [FlatColumn(place, column.values, frozenset(column.types)) for place, column in found]
            none = [np.full(height, -1, dtype=np.int64) for _ in self._plan.parents]
            return Flat(columns, np.arange(height, dtype=np.int64), none, self._lists, list(self._inner))
        lengths = [np.array(some, dtype=np.int64) for some in self._lengths]
        wanted = self._plan.wanted
        rows = expand(height, self._plan.parents, lengths, wanted.side_by_side)
        listed: dict[int, list[int] | None] = {}
        columns = []
        for place in places:
            column = self._columns[place]
            level = column.level
            if level not in listed:
                index = rows.index[level]
                # Where each item is one row, and in order, nothing needs to be repeated.
                plain = len(index) == self._counts[level] and bool((index == np.arange(len(index))).all())
                listed[level] = None if plain else index.tolist()
            repeat = listed[level]
            if repeat is not None and level and wanted.side_by_side:
                column.values.extend([None])  # What index −1 stands for.
            values = column.values if repeat is None else Repeated(column.values, repeat)
            columns.append(FlatColumn(place, values, frozenset(column.types)))
        return Flat(columns, rows.index[0], rows.number, self._lists, list(self._inner), len(rows.index[0]) != height)


def _spread(values: Sequence[Any], kinds: set[type], place: Place, level: int, found: _Found) -> None:
    """Sort the values at one place into plain ones, objects and lists, and make columns of each."""
    plan = found.plan
    if list in kinds or (place in plan.wanted.keyed and dict in kinds):
        likes = {list, dict} if place in plan.wanted.keyed else {list}
        if kinds <= likes:
            lengths = list(map(len, values))
        else:
            lengths = [len(value) if type(value) in likes else 0 for value in values]
        found.lists[place] = sum(lengths)
        if place in plan.picks:
            _spread_picks(values, place, level, found)
        if place in plan.level:
            _spread_items(values, lengths, place, plan.level[place], found)
            # Whatever is not a list at this place keeps a column of its own.
            if kinds - likes <= {NOTHING}:
                return
            values = [None if type(value) in likes else value for value in values]
            kinds = kinds | {NOTHING}
        elif plan.wanted.texts is None or place in plan.wanted.texts:
            values = [json_text(value) if type(value) in likes else value for value in values]
            kinds = kinds | {str}
        else:
            values = [None if type(value) in likes else value for value in values]
            kinds = kinds | {NOTHING}
        kinds = kinds - likes
    elif place in plan.picks and kinds - {NOTHING}:
        _spread_picks(values, place, level, found)
    if dict in kinds:
        if kinds <= {dict, NOTHING}:
            _spread_objects(values, place, level, found, NOTHING in kinds)
            return
        # An empty object has no members to show; here it is told as a plain value.
        plain = [("{}" if not value else None) if type(value) is dict else value for value in values]
        objects = [value if type(value) is dict and value else None for value in values]
        if any(value is not None for value in plain):
            found.pieces.append(_Piece(place, plain, level, set(map(type, plain))))
        if any(value is not None for value in objects):
            _spread_objects(objects, place, level, found, True)
        return
    found.pieces.append(_Piece(place, values, level, kinds, weak=kinds <= {NOTHING}))


def _spread_picks(values: Sequence[Any], place: Place, level: int, found: _Found) -> None:
    """Make columns of the lists at a place, one cell of each."""
    keyed = place in found.plan.wanted.keyed
    listed = [items_of(value, keyed) for value in values]
    names: dict[str, Any] = {}
    for items in listed:
        for item in items or ():
            if type(item) is dict:
                names.update(item)
    found.inner.update(((*place, EACH, name), None) for name in names)
    for pick, read in found.plan.picks[place]:
        cells = [None if items is None else read(items) for items in listed]
        marked = (*place, EACH, *pick.rest, pick)
        found.pieces.append(_Piece(marked, cells, level, set(map(type, cells))))


def _spread_items(values: Sequence[Any], lengths: list[int], place: Place, level: int, found: _Found) -> None:
    """Make the items of a list that becomes rows columns with a value for each item; no items count as one empty
    one."""
    found.lengths[level] = lengths
    items: list[Any] = []
    if place in found.plan.wanted.keyed:
        keys: list[str | None] = []
        for value, length in zip(values, lengths, strict=True):
            if not length:
                items.append(None)
                keys.append(None)
            elif type(value) is dict:
                items += value.values()
                keys += value
            else:
                items += value
                keys += itertools.repeat(None, length)
        found.pieces.append(_Piece((*place, EACH, KEY), keys, level, set(map(type, keys)), weak=not any(keys)))
    elif 0 not in lengths:
        items += itertools.chain.from_iterable(values)
    else:
        for value, length in zip(values, lengths, strict=True):
            if length:
                items += value
            else:
                items.append(None)
    _spread(items, _types(items), (*place, EACH), level, found)


def _spread_objects(values: Sequence[Any], place: Place, level: int, found: _Found, gaps: bool) -> None:
    objects: Sequence[Any] = [value for value in values if value is not None] if gaps else values
    names, columns = _members(objects)
    for name, inner in zip(names, columns, strict=True):
        kinds = _types(inner)
        if gaps:
            inner = _with_gaps(values, inner)
            kinds.add(NOTHING)
        _spread(inner, kinds, (*place, name), level, found)
    if not names:
        # Objects without members would leave no trace at all.
        braces = ["{}" if value is not None else None for value in values]
        found.pieces.append(_Piece(place, braces, level, set(map(type, braces)), weak=True))


def _types(values: Sequence[Any]) -> set[type]:
    """The types of values. Of texts alone joining them is the quickest proof."""
    if values and type(values[0]) is str:
        try:
            "".join(values)
            return {str}
        except TypeError:
            pass
    return set(map(type, values))


def _with_gaps(values: Sequence[Any], inner: Sequence[Any]) -> list[Any]:
    following = iter(inner)
    return [None if value is None else next(following) for value in values]


def _members(objects: Sequence[Any]) -> tuple[Sequence[str], Sequence[Sequence[Any]]]:
    """The objects' members: their names, and for each name a value of each object, ``None`` where it is absent."""
    names = list(objects[0]) if objects else []
    # As a rule all have the names of the first: taking their values is the proof that none lacks one, and no member
    # is left when their lengths are one sum.
    if len(names) > 1 and sum(map(len, objects)) == len(names) * len(objects):
        try:
            return names, list(zip(*map(itemgetter(*names), objects), strict=True))
        except KeyError:
            pass
    order: list[str] = []
    for shape in dict.fromkeys(map(tuple, objects)):
        _add_in_order(order, shape)
    return order, [[value.get(name) for value in objects] for name in order]


def _add_in_order(order: list[Any], newcomers: Sequence[Any]) -> None:
    """Put what is new into the order, each behind the known one that it follows; at the end when it follows none."""
    known = set(order)
    if known.issuperset(newcomers):
        return
    behind: dict[Any, list[Any]] = {}
    last: Any = NOTHING
    for one in newcomers:
        if one in known:
            last = one
        else:
            behind.setdefault(last, []).append(one)
    at_end = behind.pop(NOTHING, [])
    if behind:
        order[:] = [each for one in order for each in (one, *behind.get(one, ()))]
    order.extend(at_end)


def column_names(places: Sequence[Marked], taken: Mapping[str, Any] | None = None) -> list[str]:
    """A readable and distinct name for each place; a name that is taken gets a number behind it.

    Args:
        taken: names that are not free.
    """
    used = set(taken or ())
    names = []
    for place in places:
        base = marked_name(place)
        name, number = base, 2
        while name in used:
            name, number = f"{base} ({number})", number + 1
        used.add(name)
        names.append(name)
    return names


def marked_name(place: Marked) -> str:
    """The default name of a column."""
    if place and isinstance(place[-1], KeyMark):
        return ".".join([*(str(part) for part in place[:-1] if not isinstance(part, Each)), "key"])
    if place and isinstance(place[-1], Pick):
        place = place[:-1]
    return readable_name(place)
