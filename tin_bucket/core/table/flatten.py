"""Records → columns. Nested objects become columns; chosen lists become rows; other lists become one cell each.

The work is done a column at a time, in stretches of records that fit into the processor's cache: that is what makes
it fast. A value that one record holds as an object and another as a plain value gives both columns, so that no leaf
is lost.

>>> records = [
...     {"id": 1, "route": {"code": "hq"}, "fares": [{"class": "foot"}, {"class": "car"}]},
...     {"id": 2, "route": {"code": "lb"}, "fares": []},
... ]
>>> flat = flatten(records, rows_for=[("fares",)])
>>> for column in flat.columns:
...     print(readable_name(column.place), list(column.values))
id [1, 1, 2]
route.code ['hq', 'hq', 'lb']
fares.class ['foot', 'car', None]
>>> flat.record.tolist()  # which record each row is of
[0, 0, 1]
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, overload

import numpy as np

from tin_bucket.core.columns.compressed import USUAL, Packed, TableTuning
from tin_bucket.core.columns.kind_registry import Kind, guess_kind
from tin_bucket.core.columns.reduction_registry import ItemAt
from tin_bucket.core.formats.jsonpath import WILDCARD, Place, Wildcard, readable_name
from tin_bucket.core.problem import fail

from .row_expansion import Ints, expand
from .shred import (
    KEY,
    LISTS,
    NOTHING,
    Chunk,
    ColumnChunk,
    Marked,
    ReducedList,
    ShredOptions,
    ShredPlan,
    add_in_order,
    shred,
    types_of,
)


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


def distinct(cells: Cells) -> list[Any] | Packed:
    """The values without their repetition."""
    return cells.values if isinstance(cells, Repeated) else cells


@dataclass(slots=True)
class FlatColumn:
    """A column as it was found: where in the record it comes from, and a value for each row.

    Attributes:
        place: its place; with a :class:`shred.Mark` or a :class:`shred.ReducedList` at its end it holds something else
            than the value there.
        types: the types of its values.
        nulls: how many of its empty rows are a null of the answer, the others being absent; ``None`` where that is
            not known, as where others have a list or an object there.
    """

    place: Marked
    values: Cells
    types: frozenset[type] = frozenset()
    nulls: int | None = None
    _kind: Kind | None = None

    def kind(self) -> Kind:
        """What its values are, as they came."""
        if self._kind is None:
            self._kind = guess_kind(distinct(self.values), self.types)
        return self._kind


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
        spread: whether there are other rows than one for each record.
    """

    columns: list[FlatColumn]
    record: Ints
    items: list[Ints]
    lists: dict[Place, int] = field(default_factory=dict)
    inner: list[Place] = field(default_factory=list)
    shred: bool = False

    def repeated(self, values: list[Any]) -> Cells:
        """Values of records, one for each row."""
        return Repeated(values, self.record.tolist()) if self.shred else values


def flatten(records: list[Any], rows_for: Sequence[Place] = (), tuning: TableTuning = USUAL) -> Flat:
    """Make columns of records.

    Args:
        records: parsed JSON values, as a rule objects.
        rows_for: places of lists in the record; each item becomes a row, and the other values of the record are
            repeated. A record whose list is empty or absent keeps one row.
    """
    flattener = Flattener(ShredOptions(tuple(rows_for)), tuning)
    flattener.add(records)
    return flattener.flat()


class Flattener:
    """Flattens records as they come. A long table's columns are kept packed."""

    def __init__(self, wanted: ShredOptions = ShredOptions(), tuning: TableTuning = USUAL) -> None:
        self._plan = ShredPlan(wanted)
        self._tuning = tuning
        self._columns = _Columns(self._plan, tuning)

    def add(self, records: list[Any]) -> None:
        """Flatten some more records; they are not kept.

        Raises:
            ProblemError: ``too-deep``.
        """
        try:
            self._add(records)
        except RecursionError as error:
            raise fail(
                "too-deep",
                "A record is nested too deep to be read.",
                do="Ask for a smaller part of it, or take the records from deeper inside.",
            ) from error

    def _add(self, records: list[Any]) -> None:
        together = self._tuning.together
        for start in range(0, len(records), together):
            part = records[start : start + together]
            chunk = Chunk(self._plan)
            shred(part, types_of(part), (), 0, chunk)
            self._columns.add(chunk, len(part))

    def flat(self) -> Flat:
        """All of them as columns of rows."""
        return self._columns.flat()

    def again(self, wanted: ShredOptions) -> Flat | None:
        """What was flattened with lists kept, as columns of rows in any way that has the same `keyed`.

        Returns:
            The same as if the records had been flattened so; ``None`` where the records themselves are needed.
        """
        assert self._plan.wanted.keep
        assert self._plan.wanted.keyed == wanted.keyed
        made = self._columns.again(ShredPlan(wanted))
        return None if made is None else made.flat()


@dataclass(slots=True)
class _Column:
    """A column over all stretches so far."""

    values: list[Any] | Packed
    level: int
    types: set[type] = field(default_factory=set)
    weak: bool = True
    nulls: int | None = 0


class _Columns:
    """The stretches' columns, laid end to end."""

    def __init__(self, plan: ShredPlan, tuning: TableTuning) -> None:
        self._plan = plan
        self._tuning = tuning
        self._order: list[Marked] = []
        self._columns: dict[Marked, _Column] = {}
        self._last: list[Marked] = []
        self._counts = [0] * (len(plan.parents) + 1)
        self._lengths: list[list[int]] = [[] for _ in plan.parents]
        self._split = False
        self._packed = False
        self._lists: dict[Place, int] = {}
        self._inner: dict[Place, None] = {}
        self._item_names: dict[Place, tuple[str, ...]] = {}

    def add(self, found: Chunk, count: int) -> None:
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
            add_in_order(self._order, places)
            self._last = places
        for piece in found.pieces:
            column = self._columns.get(piece.place)
            if column is None:
                self._columns[piece.place] = self._begun(piece)
                continue
            column.values.extend(piece.values)
            column.types |= piece.types
            column.weak = column.weak and piece.weak
            column.nulls = None if column.nulls is None or piece.nulls is None else column.nulls + piece.nulls
        for at, more in enumerate(counts):
            self._counts[at] += more
        if not self._packed and self._counts[0] >= self._tuning.packed_from:
            self._packed = True
            for column in self._columns.values():
                column.values = Packed(column.values, self._tuning.stretch)
        if len(places) < len(self._columns):
            for column in self._columns.values():
                column.values.extend([None] * (self._counts[column.level] - len(column.values)))

    def _begun(self, piece: ColumnChunk) -> _Column:
        """A column that begins with a piece, behind what came before it had a value."""
        gap = self._counts[piece.level]
        values: list[Any] | Packed = [*itertools.repeat(None, gap), *piece.values] if gap else list(piece.values)
        # Lists take much room, and are read as a whole when they are.
        if self._packed or (piece.place and piece.place[-1] is LISTS):
            values = Packed(values, self._tuning.stretch)
        return _Column(values, piece.level, set(piece.types), piece.weak, piece.nulls)

    def again(self, plan: ShredPlan) -> _Columns | None:
        """The same columns, with what a plan makes of the lists in them."""
        kept = dict.fromkeys(place[:-1] for place in self._order if place and place[-1] is LISTS)
        # Picks from lists in lists are made when the outer ones are.
        picked = [place for place in plan.picks if not any(place[:cut] in kept for cut in range(len(place)))]
        read = [place for place in dict.fromkeys([*kept, *picked]) if plan.reads(place)]
        if any(self._has_objects(place) for place in read):
            return None  # Where others have lists, an object is one item or text; here it is in its members' columns.
        read = [place for place in read if place in kept or place in self._columns]
        plan.item_names.update(self._item_names)
        made = _Columns(plan, self._tuning)
        together = self._tuning.together
        for start in range(0, self._counts[0], together):
            stop = min(start + together, self._counts[0])
            found = Chunk(plan)
            for place in read:
                values = self._lists_and_others(place, start, stop)
                shred(values, types_of(values), place, 0, found)
            made.add(found, stop - start)
        for place in read:
            if any(not isinstance(pick.choice, ItemAt) for pick, _ in plan.picks.get(place, ())):
                inside = [one[-1] for one in made._inner if one[:-1] == (*place, WILDCARD)]
                self._item_names[place] = tuple(name for name in inside if isinstance(name, str))
        made.take_over(self, read)
        return made

    def _has_objects(self, place: Place) -> bool:
        """Whether there may be objects at a place."""
        plain = self._columns.get(place)
        if plain is not None and str in plain.types and "{}" in plain.values:
            return True
        deeper = [one for one in self._order if len(one) > len(place) and one[: len(place)] == place]
        return any(one[len(place)] is not LISTS for one in deeper)

    def _lists_and_others(self, place: Place, start: int, stop: int) -> list[Any]:
        lists, others = self._columns.get((*place, LISTS)), self._columns.get(place)
        column = lists or others
        assert column is not None
        if lists is None or others is None:
            return column.values[start:stop]
        pairs = zip(lists.values[start:stop], others.values[start:stop], strict=True)
        return [other if value is None else value for value, other in pairs]

    def take_over(self, other: _Columns, read: list[Place]) -> None:
        """Take the columns of another one, but for those that lie under places which were rebuilt; each of those
        stands where it stood there."""
        under: dict[Place, list[Marked]] = {place: [] for place in read}
        for one in self._order:
            owners = (one[:cut] for cut in range(len(one), -1, -1))
            under[next(owner for owner in owners if owner in under)].append(one)
        order: dict[Marked, None] = {}
        for one in other._order:
            is_list = bool(one) and one[-1] is LISTS
            own = one[:-1] if is_list else one
            if own in under:
                order.update(dict.fromkeys(under.pop(own)))
            elif own not in read and own not in order:
                column = other._columns.get(own)
                if column is None:
                    column = _Column([None] * other._counts[0], 0, {NOTHING})
                self._columns[own] = column
                order[own] = None
        for own in read:
            if own in self._columns and own in other._columns:
                # Only the records distinguish null from absent.
                self._columns[own].nulls = other._columns[own].nulls
        self._order = list(order)
        self._lists = {**other._lists, **self._lists}

    def flat(self) -> Flat:
        """The whole as columns of rows."""
        # A place that was empty here and an object or a list there is shown by its inner places alone.
        outer = {place[:cut] for place in self._order for cut in range(len(place))}
        places = [place for place in self._order if not (self._columns[place].weak and place in outer)]
        unsure = outer | self._lists.keys()  # What is empty there may be an object or a list.
        for own in [place for place in places if place in self._plan.level]:
            # Whatever stretch it came in first: what is no list stands behind the items of the lists at its place.
            inside = [at for at, place in enumerate(places) if place[: len(own) + 1] == (*own, WILDCARD)]
            if inside and places.index(own) < inside[-1]:
                places.insert(inside[-1] + 1, own)
                places.remove(own)
        height = self._counts[0]
        if not self._split:
            found = [(place, self._columns[place]) for place in places]
            columns = [
                FlatColumn(place, column.values, frozenset(column.types), None if place in unsure else column.nulls)
                for place, column in found
            ]
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
            nulls = None if place in unsure else column.nulls
            if nulls and isinstance(values, Repeated):
                nulls = None if wanted.side_by_side else _null_rows(values, nulls)
            columns.append(FlatColumn(place, values, frozenset(column.types), nulls))
        return Flat(columns, rows.index[0], rows.number, self._lists, list(self._inner), len(rows.index[0]) != height)


def _null_rows(values: Repeated, nulls: int) -> int | None:
    """How many rows repeat a null, where all that is empty is one."""
    empty = np.fromiter((value is None for value in values.values), dtype=bool, count=len(values.values))
    return int(empty[values.record].sum()) if int(empty.sum()) == nulls else None


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
    if place and place[-1] is KEY:
        return ".".join([*(str(part) for part in place[:-1] if not isinstance(part, Wildcard)), "key"])
    if place and isinstance(place[-1], ReducedList):
        place = place[:-1]
    return readable_name(place)
