"""Where the records of an answer may be, each guess with its reason: lists, objects keyed by id, lists of values with
names beside them, lists that lie beside each other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.document.extraction import Heads, HeadsBeside, HeadsInFirstRow
from tin_bucket.core.formats.jsonpath import WILDCARD, Place, format_place

from .tree import holds, node

_DEEP = 6  # Objects in objects that are looked through.
_MANY_MEMBERS = 200  # Members of one object that are looked through.


@dataclass(frozen=True, slots=True)
class RecordsGuess:
    """A place that looks like the rows, with the reason.

    Attributes:
        path: JSONPath to the records.
        count: how many rows it would give.
        why: in words.
        heads: where the names of columns are, when the records are lists of values.
        rows_for: lists of the record that become rows beside each other.
    """

    path: str
    count: int
    why: str
    heads: Heads | None = None
    rows_for: list[str] = field(default_factory=list)


def detect_records(document: Any) -> list[RecordsGuess]:
    """The places of an answer that may hold the records, the likeliest first.

    Looks through objects to a depth of six; lists inside records are not offered here.
    """
    found = sorted(_guesses(document), key=lambda pair: -pair[0])
    guesses = [guess for _, guess in found]
    if isinstance(document, dict) and not any(guess.why.startswith(("a list", "an empty")) for guess in guesses):
        guesses.append(RecordsGuess("$", 1, "the answer is a single object"))
    return guesses


def _guesses(document: Any) -> Iterator[tuple[float, RecordsGuess]]:
    stack: list[tuple[Any, Place, Any]] = [(document, (), None)]
    while stack:
        value, place, outer = stack.pop()
        if isinstance(value, list):
            yield _of_list(value, place, outer)
        elif isinstance(value, dict):
            yield from _of_object(value, place)
            if len(place) < _DEEP:
                members = list(value.items())[:_MANY_MEMBERS]
                stack.extend((item, (*place, name), value) for name, item in reversed(members))


def _of_list(value: list[Any], place: Place, outer: Any) -> tuple[float, RecordsGuess]:
    path = format_place((*place, WILDCARD))
    if not value:
        return 0.0, RecordsGuess(path, 0, "an empty list")
    what = holds(value)
    objects = sum(isinstance(item, dict) for item in value[:100]) / min(len(value), 100)
    score = (2.0 if objects > 0.5 else 0.5) + min(len(value), 1000) / 1000 - 0.1 * len(place)
    if what != "lists":
        return score, RecordsGuess(path, len(value), f"a list of {len(value):,} {what}")
    heads, where = _heads(value, place, outer)
    if heads is None:
        return score, RecordsGuess(path, len(value), f"a list of {len(value):,} lists")
    rows = len(value) - isinstance(heads, HeadsInFirstRow)
    return score + 2, RecordsGuess(path, rows, f"a list of {len(value):,} lists, {where}", heads)


def _heads(value: list[list[Any]], place: Place, outer: Any) -> tuple[Heads | None, str]:
    """Where the names of the columns of some lists are."""
    first, width = value[0], max(len(row) for row in value[:20])
    if isinstance(outer, dict):
        for name, other in outer.items():
            if isinstance(other, list) and other is not value and len(other) == width:
                beside = format_place((*place[:-1], name))
                if all(isinstance(item, str) for item in other):
                    return HeadsBeside(place=f"{beside}[*]"), f"with their names at {beside}"
                key = next((key for key in ("name", "id", "key", "title", "label", "field") if all(
                    isinstance(item, dict) and isinstance(item.get(key), str) for item in other)), None)  # fmt: skip
                if key is not None:
                    inner = format_place((*place[:-1], name, WILDCARD, key))
                    return HeadsBeside(place=inner), f"with their names at {inner}"
    texts = bool(first) and all(isinstance(item, str) and item.strip() for item in first)
    if texts and len(set(first)) == len(first) and len(value) > 1:
        others = value[1:50]
        numbers = any(not isinstance(item, str) for row in others for item in row)
        # Names are no values of the rows below them.
        if numbers or not any(set(first) & {item for item in row if isinstance(item, str)} for row in others):
            return HeadsInFirstRow(), "whose first row looks like names"
    return None, ""


def _of_object(value: dict[str, Any], place: Place) -> Iterator[tuple[float, RecordsGuess]]:
    size = len(value)
    if size >= 3 and node(None, value).text == "alike":
        path = format_place((*place, WILDCARD))
        score = 1.6 + min(size, 1000) / 1000 - 0.1 * len(place)
        yield score, RecordsGuess(path, size, f"an object whose {size:,} members are alike")
    plain = {name: item for name, item in value.items() if isinstance(item, list) and holds(item) == "values"}
    lengths = {len(item) for item in plain.values()}
    if len(plain) >= 2 and len(lengths) == 1 and (height := lengths.pop()) > 1:
        rows_for = [format_place((name,)) for name in plain]
        score = 1.9 + min(height, 1000) / 1000 - 0.1 * len(place)
        why = f"{len(plain)} lists of the same length ({height:,}), side by side"
        yield score, RecordsGuess(format_place(place), height, why, rows_for=rows_for)
