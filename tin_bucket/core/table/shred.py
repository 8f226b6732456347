"""One walk through a stretch of records: the values at each place become plain columns, objects go deeper, lists become
rows, cells or both.

The values stay with the level at which they stand: one for each record (level 0), one for each item of a list that
becomes rows (level 1). Nothing is repeated yet; the length of each record's list says which items are its own.

>>> records = [{"id": 1, "fares": [{"amount": 6.5}, {"amount": 24}]}, {"id": 2, "fares": []}]
>>> found = Chunk(ShredPlan(ShredOptions(rows_for=(("fares",),))))
>>> shred(records, {dict}, (), 0, found)
>>> for piece in found.pieces:
...     print(piece.level, piece.place, list(piece.values))
0 ('id',) [1, 2]
1 ('fares', WILDCARD, 'amount') [6.5, 24, None]
>>> found.lengths
{1: [2, 0]}
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from operator import itemgetter
from typing import Any, Final

from tin_bucket.core.columns.reduction import items_of
from tin_bucket.core.columns.reduction_registry import ItemAt, ListReduction, list_reader
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import WILDCARD, Place, Wildcard

NOTHING = type(None)


class Mark:
    """Stands at the end of a column's place where the column holds something else than the plain values there."""

    __slots__ = ("_name",)

    def __init__(self, name: str) -> None:
        self._name = name

    def __repr__(self) -> str:
        return self._name


KEY: Final = Mark("KEY")  # The names under which items lie in objects.
LISTS: Final = Mark("LISTS")  # Lists as they came, to be read later.


@dataclass(frozen=True, slots=True)
class ReducedList:
    """Stands at the end of a column's place where values of a list become one cell.

    Attributes:
        list_place: place of the list, without ``[*]``.
        rest: place of the value in an item.
        choice: how they become one; JSON text when ``None``.
        number: distinguishes two columns of one place.
    """

    list_place: Place
    rest: Place
    choice: ListReduction | ItemAt | None
    number: int = 0

    def __hash__(self) -> int:
        return hash((self.list_place, self.rest, self.number))


# A place, at whose end may stand a mark.
Marked = tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class ShredOptions:
    """What flattening does with lists.

    Attributes:
        rows_for: places of the lists whose items become rows, a list before those that lie in it.
        side_by_side: how several lists of one record stand together, see :func:`row_expansion.expand`.
        keyed: places of objects whose members are read like a list.
        picks: columns that are made of lists.
        texts: places of lists whose JSON text is wanted; of all lists when ``None``.
        keep: whether lists are kept as they came, each in a column marked :data:`LISTS`, and nothing is made of them
            yet.
    """

    rows_for: tuple[Place, ...] = ()
    side_by_side: bool = False
    keyed: frozenset[Place] = frozenset()
    picks: tuple[ReducedList, ...] = ()
    texts: frozenset[Place] | None = None
    keep: bool = False


class ShredPlan:
    """What is wanted, by place."""

    def __init__(self, wanted: ShredOptions) -> None:
        self.wanted = wanted
        # Level 0 is the records; each list that becomes rows has a level after that of the list that it lies in.
        self.level: dict[Place, int] = {place: at for at, place in enumerate(wanted.rows_for, 1)}
        self.parents = [self._parent(place) for place in wanted.rows_for]
        self.picks: dict[Place, list[tuple[ReducedList, Any]]] = {}
        # The names of members in lists of which picks are made, where they are known in advance.
        self.item_names: dict[Place, tuple[str, ...]] = {}
        for pick in wanted.picks:
            pair = (pick, list_reader(pick.choice, pick.rest))
            self.picks.setdefault(pick.list_place, []).append(pair)

    def reads(self, place: Place) -> bool:
        """Whether anything is made of the lists at a place."""
        texts = self.wanted.texts
        return place in self.level or place in self.picks or texts is None or place in texts

    def _parent(self, place: Place) -> int:
        for cut in range(len(place) - 1, -1, -1):
            if isinstance(place[cut], Wildcard):
                return self.level[place[:cut]]
        return 0


@dataclass(slots=True)
class ColumnChunk:
    """A column of one stretch, with a value for each item of its level. `weak` ones hold no value of their own; `nulls`
    is how many of its empty cells are a null of the answer, the others being absent, where that is known."""

    place: Marked
    values: Sequence[Any]
    level: int
    types: set[type]
    weak: bool = False
    nulls: int | None = None


class Chunk:
    """What the walk through one stretch has found."""

    __slots__ = ("inner", "lengths", "lists", "pieces", "plan")

    def __init__(self, plan: ShredPlan) -> None:
        self.pieces: list[ColumnChunk] = []
        self.lists: dict[Place, int] = {}
        self.inner: dict[Place, None] = {}
        self.plan = plan
        # For each level that was met how many items the list has in each item of its parent.
        self.lengths: dict[int, list[int]] = {}


def shred(values: Sequence[Any], kinds: set[type], place: Place, level: int, found: Chunk, missing: int = 0) -> None:
    """Sort the values at one place into plain ones, objects and lists, and make columns of each.

    Args:
        values: what the items of a level have there, ``None`` where it is null or absent.
        kinds: their types.
        missing: how many of them are absent.
    """
    plan = found.plan
    if list in kinds or (place in plan.wanted.keyed and dict in kinds):
        likes = {list, dict} if place in plan.wanted.keyed else {list}
        if kinds <= likes:
            lengths = list(map(len, values))
        else:
            lengths = [len(value) if type(value) in likes else 0 for value in values]
        found.lists[place] = sum(lengths)
        if plan.wanted.keep:
            lists = [value if type(value) in likes else None for value in values]
            found.pieces.append(ColumnChunk((*place, LISTS), lists, level, {list, NOTHING}))
        if place in plan.picks:
            _shred_reductions(values, place, level, found)
        if plan.wanted.keep or place in plan.level:
            if place in plan.level:
                _shred_items(values, lengths, place, plan.level[place], found)
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
        _shred_reductions(values, place, level, found)
    if dict in kinds:
        if kinds <= {dict, NOTHING}:
            _shred_objects(values, place, level, found, NOTHING in kinds)
            return
        # An empty object has no members to show; here it is a plain value.
        plain = [("{}" if not value else None) if type(value) is dict else value for value in values]
        objects = [value if type(value) is dict and value else None for value in values]
        if any(value is not None for value in plain):
            found.pieces.append(ColumnChunk(place, plain, level, set(map(type, plain))))
        if any(value is not None for value in objects):
            _shred_objects(objects, place, level, found, True)
        return
    nulls = values.count(None) - missing if NOTHING in kinds else 0
    found.pieces.append(ColumnChunk(place, values, level, kinds, kinds <= {NOTHING}, nulls))


def _shred_reductions(values: Sequence[Any], place: Place, level: int, found: Chunk) -> None:
    """Make columns of the lists at a place, one cell of each."""
    keyed = place in found.plan.wanted.keyed
    listed = [items_of(value, keyed) for value in values]
    if not all(isinstance(pick.choice, ItemAt) for pick, _ in found.plan.picks[place]):
        names: Iterable[str] | None = found.plan.item_names.get(place)
        if names is None:
            objects = (item for items in listed for item in items or () if type(item) is dict)
            names = dict.fromkeys(itertools.chain.from_iterable(dict.fromkeys(map(tuple, objects))))
        found.inner.update(((*place, WILDCARD, name), None) for name in names)
    for pick, read in found.plan.picks[place]:
        if isinstance(pick.choice, ItemAt):
            # An index is one into a list, and into nothing else.
            cells = [read(value) if type(value) is list else None for value in values]
        else:
            cells = [None if items is None else read(items) for items in listed]
        marked = (*place, WILDCARD, *pick.rest, pick)
        found.pieces.append(ColumnChunk(marked, cells, level, set(map(type, cells))))


def _shred_items(values: Sequence[Any], lengths: list[int], place: Place, level: int, found: Chunk) -> None:
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
        found.pieces.append(ColumnChunk((*place, WILDCARD, KEY), keys, level, set(map(type, keys)), weak=not any(keys)))
    elif 0 not in lengths:
        items += itertools.chain.from_iterable(values)
    else:
        for value, length in zip(values, lengths, strict=True):
            if length:
                items += value
            else:
                items.append(None)
    shred(items, types_of(items), (*place, WILDCARD), level, found, lengths.count(0))


def _shred_objects(values: Sequence[Any], place: Place, level: int, found: Chunk, gaps: bool) -> None:
    if len(values) == 1 and values[0]:
        _shred_one(values[0], place, level, found)
        return
    objects: Sequence[Any] = [value for value in values if value is not None] if gaps else values
    names, columns, lacking = _members(objects)
    if not all(objects):
        # Objects without members would leave no trace at all.
        braces = [None if value is None or value else "{}" for value in values]
        found.pieces.append(ColumnChunk(place, braces, level, set(map(type, braces)), weak=True))
    absent = len(values) - len(objects)
    for name, inner in zip(names, columns, strict=True):
        kinds = types_of(inner)
        if gaps:
            inner = _with_gaps(values, inner)
            kinds.add(NOTHING)
        shred(inner, kinds, (*place, name), level, found, absent + lacking.get(name, 0))


def _shred_one(value: dict[str, Any], place: Place, level: int, found: Chunk) -> None:
    """The members of a single object, of which there may be very many."""
    picks, pieces = found.plan.picks, found.pieces
    for name, inner in value.items():
        kind, own = type(inner), (*place, name)
        if kind is dict or kind is list or own in picks:
            shred((inner,), {kind}, own, level, found)
        else:
            pieces.append(ColumnChunk(own, (inner,), level, {kind}, inner is None, int(inner is None)))


def types_of(values: Sequence[Any]) -> set[type]:
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


def _members(objects: Sequence[Any]) -> tuple[Sequence[str], Sequence[Sequence[Any]], Mapping[str, int]]:
    """The objects' members: their names, for each name a value of each object, ``None`` where it is absent, and how
    many objects lack it where some do."""
    names = list(objects[0]) if objects else []
    # As a rule all have the names of the first: taking their values is the proof that none lacks one, and no member
    # is left when their lengths are one sum.
    if len(names) > 1 and sum(map(len, objects)) == len(names) * len(objects):
        try:
            return names, list(zip(*map(itemgetter(*names), objects), strict=True)), {}
        except KeyError:
            pass
    order: list[str] = []
    having: Counter[str] = Counter()
    for shape, times in Counter(map(tuple, objects)).items():
        add_in_order(order, shape)
        having.update(dict.fromkeys(shape, times))
    lacking = {name: len(objects) - having[name] for name in order}
    return order, [[value.get(name) for value in objects] for name in order], lacking


def add_in_order(order: list[Any], newcomers: Sequence[Any]) -> None:
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
