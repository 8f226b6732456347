"""Where a cell came from: the place in the answer, as a JSON Pointer (RFC 6901)."""

from __future__ import annotations

from .places import Each, format_pointer, parse_place


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
