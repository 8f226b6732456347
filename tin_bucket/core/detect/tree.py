"""An answer as a tree: the children of one node at a time, and a search through all of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from tin_bucket.core.formats.json import json_text

MOST_TEXT = 2_000  # Characters of a value that a node shows.
MANY = 50
_LOOKED_AT = 100  # Items of a list that are sampled.


Where = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Node:
    """One node.

    Attributes:
        name: member name or index; ``None`` for the answer itself.
        kind: ``object``, ``list``, ``text``, ``number``, ``yes/no`` or ``null``.
        size: members or items; for a text its characters; else 0.
        text: the value as text, cut when it is long; for a list what it holds.
    """

    name: str | int | None
    kind: str
    size: int
    text: str


def node(name: str | int | None, value: Any) -> Node:
    """The node of a value."""
    if isinstance(value, dict):
        return Node(name, "object", len(value), _members_words(value))
    if isinstance(value, list):
        return Node(name, "list", len(value), holds(value))
    if isinstance(value, str):
        return Node(name, "text", len(value), value[:MOST_TEXT])
    if value is None:
        return Node(name, "null", 0, "null")
    kind = "yes/no" if isinstance(value, bool) else "number"
    return Node(name, kind, 0, json_text(value)[:MOST_TEXT])


def holds(values: list[Any]) -> str:
    """What a list holds, by its first items: ``objects``, ``lists``, ``values``, ``mixed items`` or ``nothing``."""
    if not values:
        return "nothing"
    found = {
        "objects" if isinstance(item, dict) else "lists" if isinstance(item, list) else "values"
        for item in values[:_LOOKED_AT]
    }
    return found.pop() if len(found) == 1 else "mixed items"


def _members_words(value: dict[str, Any]) -> str:
    """Whether the members of an object are alike, as where they are rows under their ids."""
    if len(value) < 2:
        return ""
    some = list(islice(value.values(), _LOOKED_AT))
    if not all(isinstance(item, dict) and item for item in some):
        return ""
    first = set(some[0])
    alike = sum(len(first & set(item)) * 2 >= len(first | set(item)) for item in some)
    return "alike" if alike * 10 >= len(some) * 9 else ""


def children(value: Any, start: int, count: int) -> list[Node]:
    """Some children of a value, from the one with number `start` on."""
    if isinstance(value, dict):
        return [node(name, item) for name, item in islice(value.items(), start, start + count)]
    if isinstance(value, list):
        return [node(start + at, item) for at, item in enumerate(value[start : start + count])]
    return []


def search(document: Any, text: str, most: int, many: int = MANY) -> tuple[list[tuple[Where, str]], int]:
    """The nodes whose name or value has a text in it, whatever its case.

    Args:
        most: how many are listed.
        many: members or items from which on those are left out early that cannot hold the text; for speed alone.

    Returns:
        The places of the first `most`, each with ``name`` or ``value``, and how many there are in all.
    """
    wanted = text.casefold()
    found: list[tuple[Where, str]] = []
    total = 0
    if not wanted:
        return found, 0
    for where, value in _walk_likely(document, wanted, many):
        what = _what_has(where[-1] if where else None, value, wanted)
        if what:
            total += 1
            if len(found) < most:
                found.append((where, what))
    return found, total


def _what_has(name: str | int | None, value: Any, wanted: str) -> str:
    if isinstance(name, str) and wanted in name.casefold():
        return "name"
    if isinstance(value, str):
        return "value" if wanted in value.casefold() else ""
    if value is None or isinstance(value, bool | int | float):
        return "value" if wanted in json_text(value) else ""
    return ""


def _walk_likely(document: Any, wanted: str, many: int) -> Iterator[tuple[Where, Any]]:
    """Nodes with their places, in document order, however deep they lie; without those in objects and lists in whose
    text there is nothing like `wanted`: of many beside each other most are left out at the price of writing them."""
    # As it stands in JSON text: a text has another in it exactly when the one written has the other written.
    written = json_text(wanted)[1:-1].casefold()
    stack: list[tuple[Where, Any, bool]] = [((), document, False)]
    while stack:
        where, value, tested = stack.pop()
        yield where, value
        if not isinstance(value, dict | list):
            continue
        inner = value.items() if isinstance(value, dict) else enumerate(value)
        test = not tested and len(value) >= many
        following = [
            ((*where, step), item, tested or test)
            for step, item in inner
            if not (test and isinstance(item, dict | list))
            or (isinstance(step, str) and wanted in step.casefold())
            or _may_have(item, written)
        ]
        stack.extend(reversed(following))


def _may_have(value: Any, written: str) -> bool:
    try:
        return written in json_text(value).casefold()
    except RecursionError:
        return True  # Too deep to be written; it is walked.
