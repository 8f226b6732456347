"""Where a cell came from: the place in the answer, as a JSON Pointer (RFC 6901)."""

from __future__ import annotations

from typing import Any

from .json_text import json_text
from .places import Each, format_pointer, parse_place, parse_pointer


def cell_pointer(record_pointer: str, place: str, item: int | None = None) -> str | None:
    """The pointer of a cell within its answer.

    Args:
        record_pointer: the pointer of the record.
        place: the column's plain JSONPath from the record.
        item: which item of the list that was made rows, where the place goes through one.

    Returns:
        The pointer, or ``None`` when the row has no item at that place.
    """
    segments = parse_place(place)
    if segments is None:
        return None
    parts: list[str | int] = []
    for segment in segments:
        if isinstance(segment, Each):
            if item is None or item < 0:
                return None
            parts.append(item)
        else:
            parts.append(segment)
    return record_pointer + format_pointer(tuple(parts))


def fragment_around(document: Any, pointer: str, most: int = 240) -> str | None:
    """A short piece of an answer around a place: the innermost object or list that fits, as JSON text.

    Args:
        document: the parsed answer.
        pointer: JSON Pointer of the value.
        most: characters that the piece may have; when even the nearest container is longer, it is cut.

    Returns:
        The piece, or ``None`` when there is nothing at the pointer.
    """
    containers = [document]
    for token in parse_pointer(pointer):
        value = containers[-1]
        if isinstance(value, dict) and token in value:
            containers.append(value[token])
        elif isinstance(value, list) and token.isdigit() and int(token) < len(value):
            containers.append(value[int(token)])
        else:
            return None
    nearest = containers[-2] if len(containers) > 1 else containers[-1]
    text = json_text(nearest)
    if len(text) <= most:
        return text
    if isinstance(nearest, dict):
        # The members beside the value, as many as fit.
        last = parse_pointer(pointer)[-1]
        names = list(nearest)
        start = max(0, names.index(last) - 1)
        return "{… " + json_text({name: nearest[name] for name in names[start : start + 3]})[1:-1][:most] + " …}"
    return text[:most] + "…"
