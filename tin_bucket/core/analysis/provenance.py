"""Where a cell came from: the place in its answer, as a JSON Pointer (RFC 6901), and what was made of the value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.columns.kind_registry import converter
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.columns.reduction import text_of
from tin_bucket.core.columns.reduction_registry import ListReduction
from tin_bucket.core.columns.reductions.where import WhereMatch, matching_index
from tin_bucket.core.document.extraction import ColumnSpec, Extraction
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import (
    WILDCARD,
    Picked,
    Place,
    Wildcard,
    format_pointer,
    parse_place,
    parse_pointer,
)
from tin_bucket.core.table.context_columns import bound_part
from tin_bucket.core.table.header_rows import HeaderRows, index_of
from tin_bucket.core.table.select import list_words, one_cell_list, rows_places

Where = tuple[str | int, ...]
_MOST = 240  # Characters of a piece of an answer.


@dataclass(frozen=True, slots=True)
class Excerpt:
    """A short piece of an answer, with the value in question between two others."""

    before: str
    lit: str
    after: str


@dataclass(frozen=True, slots=True)
class CellSource:
    """What stands at a cell's place in its answer.

    Attributes:
        pointer: JSON Pointer of the value, or of the list that it was made of; ``None`` where the place has none.
        state: ``there``, ``null``, ``missing``, ``empty text``, or ``outside`` for what is not part of the answer.
        piece: the answer around it, where there is one.
        steps: what was done with it, in words and in order.
    """

    pointer: str | None
    state: str
    excerpt: Excerpt | None = None
    steps: list[str] = field(default_factory=list)


def heads_of(take: Extraction, pages: Sequence[tuple[Picked, Any]]) -> list[str] | None:
    """The columns' names of records that are lists, on the last of some pages.

    Args:
        pages: the first page and the one in question, each with its answer.
    """
    if take.heads is None:
        return None
    headed = HeaderRows(take.heads)
    names: list[str] = []
    for picked, document in pages:
        names, _ = headed.names_of(picked.values, document)
    return names


def trace_cell(
    take: Extraction,
    column: ColumnSpec,
    document: Any,
    picked: Picked,
    record: int,
    items: Sequence[int],
    value: Any,
    heads: list[str] | None = None,
) -> CellSource:
    """Find what a cell was read from.

    Args:
        take: how the table was read.
        column: the cell's column.
        document: the answer of its page.
        picked: what was picked from it.
        record: which of the picked values the record is.
        items: for each list that was made rows which item the row holds, in the order of :func:`choosing.rows_places`.
        value: the cell.
        heads: the columns' names of records that are lists.
    """
    if column.of in ("page", "parameter"):
        what = "the number of the page" if column.of == "page" else f"the parameter {column.place[2:]}"
        return CellSource(None, "outside", steps=[what])
    place = parse_place(column.place) or ()
    own = picked.where(record)
    if column.of == "answer":
        bound = bound_part(parse_place(take.records), place)
        start: Where = tuple(
            own[at] if isinstance(segment, Wildcard) else segment for at, segment in enumerate(place[:bound])
        )
        return _read(document, start, place[bound:], column.reduction, column, value)
    if heads is not None and place and isinstance(place[0], str):
        at = index_of(heads, place[0])
        place = (at if at is not None else place[0], *place[1:])
    numbers = dict(zip(rows_places(take), items, strict=False))
    reduced = one_cell_list(place, list(numbers), column.reduction)
    where = own
    for cut, segment in enumerate(place):
        if not isinstance(segment, Wildcard):
            where = (*where, segment)
            continue
        number = numbers.get(place[:cut])
        if number is None or place[:cut] == reduced:
            return _read(document, where, place[cut:], column.reduction, column, value)
        if number < 0:
            return CellSource(
                format_pointer(where), "missing", excerpt_around(document, where), ["this list has no items"]
            )
        inside = at_place(document, where)
        if isinstance(inside, dict):
            where = (*where, list(inside)[number])
        else:
            where = (*where, number)
    if column.of == "key":
        name = text_of(where[-1]) if where else ""
        return CellSource(format_pointer(where), "there", excerpt_around(document, where), [f"the name {name} itself"])
    return _read(document, where, (), None, column, value)


def trace_in(document: Any, column: ColumnSpec, value: Any, start: Where = ()) -> CellSource:
    """Find what a looked-up cell was read from in the answer of its lookup.

    Args:
        start: where in the answer the record of its value stands.
    """
    return _read(document, start, parse_place(column.place) or (), column.reduction, column, value)


def _read(
    document: Any, start: Where, rest: Place, choice: ListReduction | None, column: ColumnSpec, value: Any
) -> CellSource:
    """The source of a value behind `start`; `rest` may lead through lists that became one cell."""
    cut = rest.index(WILDCARD) if WILDCARD in rest else len(rest)
    where: Where = (*start, *rest[:cut])  # type: ignore[arg-type]
    steps: list[str] = []
    if cut < len(rest):
        found = list(_located(document, where, rest[cut:]))
        steps.append(f"{list_words(choice)}, of {len(found):,} value{'' if len(found) == 1 else 's'} in the list")
        exact = _chosen(document, where, rest[cut:], choice, found)
        if exact is not None:
            where = exact
    where = _counted_from_front(document, where)
    raw = at_place(document, where)
    state = "missing" if raw is _ABSENT else "null" if raw is None else "empty text" if raw == "" else "there"
    if cut == len(rest) or choice is None or not choice.makes_figure:
        steps += _conversion(raw, column, value)
    elif column.kind is not None:
        steps.append(f"read as {column.kind}")
    return CellSource(format_pointer(where), state, excerpt_around(document, where), steps)


def _conversion(raw: Any, column: ColumnSpec, value: Any) -> list[str]:
    if column.kind is None or raw is _ABSENT or raw is None or isinstance(value, Miss):
        return []
    plain = json_text(raw) if isinstance(raw, dict | list) else raw
    kind = f"{column.kind}{how_read(column.reads)}"
    try:
        made = converter(column.kind, column.reads)(plain)
    except (ValueError, OverflowError, OSError, TypeError):
        return [f"left unchanged: it does not fit {kind}"]
    return [] if made == plain and type(made) is type(plain) else [f"{_short(plain)} read as {kind}"]


def how_read(reads: Reads | None) -> str:
    """How values are read, as an addition to a kind's name."""
    if reads is None:
        return ""
    words = []
    if reads.dates in ("seconds", "milliseconds"):
        words.append(f"{reads.dates} since 1970")
    elif reads.dates:
        words.append(reads.dates)
    if reads.comma:
        words.append("with a decimal comma")
    if reads.zone:
        words.append(f"in {reads.zone}")
    if reads.yes or reads.no:
        words.append("by its words")
    return f" ({', '.join(words)})" if words else ""


def _short(value: Any) -> str:
    text = text_of(value)
    return text if len(text) <= 60 else f"{text[:60]}…"


class _Absent:
    """Nothing stands at a place."""

    __slots__ = ()


_ABSENT = _Absent()


def at_place(document: Any, where: Where) -> Any:
    """The value at a place without wildcards, or a mark that there is none."""
    value = document
    for step in where:
        if isinstance(step, str):
            inside = isinstance(value, dict) and step in value
        else:
            inside = isinstance(value, list) and -len(value) <= step < len(value)
        if not inside:
            return _ABSENT
        value = value[step]
    return value


def _counted_from_front(document: Any, where: Where) -> Where:
    """The same place with no index that counts from the end, as a pointer needs it."""
    for at, step in enumerate(where):
        inside = at_place(document, where[:at]) if isinstance(step, int) and step < 0 else None
        if isinstance(inside, list) and inside and isinstance(step, int):
            where = (*where[:at], step % len(inside), *where[at + 1 :])
    return where


def _located(document: Any, where: Where, rest: Place) -> list[tuple[Where, Any]]:
    """The values at a place with wildcards, each with where it stands."""
    value = at_place(document, where)
    if value is _ABSENT:
        return []
    nodes: list[tuple[Where, Any]] = [(where, value)]
    for segment in rest:
        following: list[tuple[Where, Any]] = []
        for at, inner in nodes:
            if isinstance(segment, Wildcard):
                if isinstance(inner, list):
                    following += [((*at, index), item) for index, item in enumerate(inner)]
                elif isinstance(inner, dict):
                    following += [((*at, name), item) for name, item in inner.items()]
            elif (found := at_place(inner, (segment,))) is not _ABSENT:
                following.append(((*at, segment), found))
        nodes = following
    return nodes


def _chosen(
    document: Any, where: Where, rest: Place, choice: ListReduction | None, found: list[tuple[Where, Any]]
) -> Where | None:
    """Which single value a choice took, where it takes one."""
    if isinstance(choice, WhereMatch):
        last = max(at for at, segment in enumerate(rest) if isinstance(segment, Wildcard))
        items = _located(document, where, rest[: last + 1])
        at = matching_index(choice, [item for _, item in items])
        return None if at is None else (*items[at][0], *rest[last + 1 :])  # type: ignore[arg-type]
    at = choice.chosen([value for _, value in found]) if choice is not None else None
    return None if at is None else found[at][0]


def excerpt_around(document: Any, where: Where, most: int = _MOST) -> Excerpt | None:
    """A short piece of an answer around a place: its neighbours in the same object or list, as JSON text.

    Args:
        document: the parsed answer.
        where: the place. When there is nothing, the piece is what stands around the place's nearest container.
        most: characters that the piece has at most, more or less.
    """
    value = at_place(document, where)
    if value is _ABSENT:
        for cut in range(len(where) - 1, -1, -1):
            inner = at_place(document, where[:cut])
            if inner is not _ABSENT:
                return Excerpt(_cut(json_text(inner), most), "", "")
        return None
    lit = _cut(json_text(value), most)
    if not where:
        return Excerpt("", lit, "")
    outer = at_place(document, where[:-1])
    if isinstance(outer, dict):
        names = list(outer)
        at = names.index(str(where[-1]))
        parts = [f"{json_text(name)}:{_cut(json_text(outer[name]), 50)}" for name in names[max(0, at - 8) : at + 9]]
        own = min(at, 8)
        name = f"{_cut(json_text(names[at]), 120)}:"
        total, shape = len(names), "{}"
    else:
        at = int(where[-1]) % len(outer)
        parts = [_cut(json_text(item), 50) for item in outer[max(0, at - 8) : at + 9]]
        own = min(at, 8)
        name = ""
        total, shape = len(outer), "[]"
    room = most - len(lit)
    first, last = own, own
    while room > 0 and (first > 0 or last < len(parts) - 1):
        # Neighbours in turn, the following one first.
        grow = [index for index in (last + 1, first - 1) if 0 <= index < len(parts)]
        for index in grow:
            room -= len(parts[index])
            first, last = min(first, index), max(last, index)
    before = "".join(f"{part}, " for part in parts[first:own])
    after = "".join(f", {part}" for part in parts[own + 1 : last + 1])
    cut_before = "… " if at - (own - first) > 0 else ""
    cut_after = ", …" if at + (last - own) < total - 1 else ""
    return Excerpt(f"{shape[0]}{cut_before}{before}{name}", lit, f"{after}{cut_after}{shape[1]}")


def _cut(text: str, most: int) -> str:
    return text if len(text) <= most else f"{text[:most]}…"


def place_of_pointer(document: Any, pointer: str) -> Where | None:
    """The place that a JSON Pointer means in a document, or ``None`` when nothing is there.

    Raises:
        ValueError: it is no pointer.
    """
    where: list[str | int] = []
    value = document
    for token in parse_pointer(pointer):
        if isinstance(value, dict) and token in value:
            where.append(token)
            value = value[token]
        elif isinstance(value, list) and token.isdecimal() and int(token) < len(value):
            where.append(int(token))
            value = value[int(token)]
        else:
            return None
    return tuple(where)
