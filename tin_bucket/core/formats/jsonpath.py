"""Places in JSON: the plain part of JSONPath (RFC 9535) that names fixed members, and JSON Pointer (RFC 6901).

A *place* is a tuple of segments: a text is a member name, a whole number an index, :data:`WILDCARD` stands for
``[*]``. Everything that needs filters, slices or descendants is a full JSONPath and is left to ``picking``.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final, overload

from tin_bucket.core.problem import ProblemError

from .http import HEADER_NAME


class Wildcard:
    """The wildcard segment ``[*]``; there is one instance, :data:`WILDCARD`."""

    __slots__ = ()

    def __repr__(self) -> str:
        return "WILDCARD"


WILDCARD: Final = Wildcard()
Segment = str | int | Wildcard
Place = tuple[Segment, ...]

# A letter, _ or what is beyond ASCII, then those and digits: said by what they are not, which compiles much faster.
_NAME = r"[^\x00-\x40\x5b-\x5e\x60\x7b-\x7f][^\x00-\x2f\x3a-\x40\x5b-\x5e\x60\x7b-\x7f]*"
_STEP = re.compile(
    rf"""\.(?P<name>{_NAME})
      | \[(?P<index>0|-?[1-9]\d*)\]
      | (?P<each>\[\*\]|\.\*)
      | \['(?P<single>(?:[^'\\\x00-\x1f]|\\.)*)'\]
      | \["(?P<double>(?:[^"\\\x00-\x1f]|\\.)*)"\]""",
    re.VERBOSE,
)
_PLAIN = re.compile(rf"{_NAME}\Z")
_ESCAPES = {"b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t"}


def parse_place(text: str) -> Place | None:
    """Read a plain JSONPath such as ``$.data[*]`` or ``$['odd key'][0]``.

    Returns the segments, or ``None`` where the text is not of this plain form (it may still be a full JSONPath).
    Source: RFC 9535 §2.3.1 to §2.3.3.
    """
    if not text.startswith("$"):
        return None
    segments: list[Segment] = []
    position = 1
    while position < len(text):
        match = _STEP.match(text, position)
        if match is None:
            return None
        position = match.end()
        if match["name"] is not None:
            segments.append(match["name"])
        elif match["index"] is not None:
            segments.append(int(match["index"]))
        elif match["each"] is not None:
            segments.append(WILDCARD)
        else:
            raw = match["single"] if match["single"] is not None else match["double"]
            segments.append(_unescape(raw))
    return tuple(segments)


def _unescape(raw: str) -> str:
    def one(match: re.Match[str]) -> str:
        code = match[0][1:]
        if code[0] == "u":
            return chr(int(code[1:], 16))
        return _ESCAPES.get(code, code)

    text = re.sub(r"\\(?:u[0-9A-Fa-f]{4}|.)", one, raw)
    # Two \u escapes may be the halves of one character outside the basic plane.
    return text.encode("utf-16", "surrogatepass").decode("utf-16", "replace")


def format_place(place: Place) -> str:
    """Write a place as a JSONPath; :func:`parse_place` reads it back to the same segments."""
    parts = ["$"]
    for segment in place:
        if isinstance(segment, str):
            parts.append(f".{segment}" if _PLAIN.match(segment) else f"['{_escape(segment)}']")
        elif isinstance(segment, int):
            parts.append(f"[{segment}]")
        else:
            parts.append("[*]")
    return "".join(parts)


class Paths(Sequence[str]):
    """Places as JSONPaths, which are written when they are read: there may be hundreds of thousands."""

    def __init__(self, places: Sequence[Place] = ()) -> None:
        self._places = places

    def __len__(self) -> int:
        return len(self._places)

    @overload
    def __getitem__(self, at: int) -> str: ...
    @overload
    def __getitem__(self, at: slice) -> list[str]: ...
    def __getitem__(self, at: int | slice) -> str | list[str]:
        if isinstance(at, slice):
            return [format_place(place) for place in self._places[at]]
        return format_place(self._places[at])


def _escape(name: str) -> str:
    out = []
    for char in name:
        if char in "\\'":
            out.append("\\" + char)
        elif ord(char) < 0x20 or 0xD800 <= ord(char) <= 0xDFFF:
            out.append(f"\\u{ord(char):04x}")
        else:
            out.append(char)
    return "".join(out)


def format_pointer(place: tuple[str | int, ...]) -> str:
    """Write a place without wildcards as a JSON Pointer (RFC 6901 §3)."""
    return "".join("/" + str(part).replace("~", "~0").replace("/", "~1") for part in place)


def parse_pointer(text: str) -> tuple[str, ...]:
    """Read a JSON Pointer (RFC 6901 §3) into its reference tokens, all of them texts.

    Raises:
        ValueError: the text is neither empty nor starts with ``/``.
    """
    if text == "":
        return ()
    if not text.startswith("/"):
        raise ValueError("a JSON Pointer starts with /")
    return tuple(part.replace("~1", "/").replace("~0", "~") for part in text[1:].split("/"))


def readable_name(place: Place) -> str:
    """The default name of a column: its member names joined by full stops, ``value`` for the record itself."""
    names = [str(part) for part in place if not isinstance(part, Wildcard)]
    return ".".join(names) if names else "value"


@dataclass(frozen=True, slots=True)
class Picked:
    """What a JSONPath found in one answer.

    Attributes:
        values: the nodes' values, in document order.
        places: for each value the names and indices that lead to it. Empty where `list_place` covers them all.
        list_place: the place of the one list whose items are the values, or ``None``.
        keyed: whether the values are members of objects, and their last name identifies each.
    """

    values: list[Any]
    places: list[tuple[str | int, ...]]
    list_place: tuple[str | int, ...] | None = None
    keyed: bool = False

    @property
    def list_pointer(self) -> str | None:
        """The pointer of the one list whose items are the values, or ``None``."""
        return None if self.list_place is None else format_pointer(self.list_place)

    @property
    def pointers(self) -> list[str]:
        """For each value its JSON Pointer; empty where :attr:`list_pointer` covers them all."""
        return [format_pointer(place) for place in self.places]

    def first(self, count: int) -> Picked:
        """The first values alone."""
        return Picked(self.values[:count], self.places[:count], self.list_place, self.keyed)

    def where(self, index: int) -> tuple[str | int, ...]:
        """The names and indices that lead to the value with that index."""
        return self.places[index] if self.list_place is None else (*self.list_place, index)

    def pointer(self, index: int) -> str:
        """The JSON Pointer of the value with that index."""
        return format_pointer(self.where(index))


def check_path(path: str) -> None:
    """Compile a JSONPath.

    Raises:
        ProblemError: ``path-unreadable``, with the position of the mistake.
    """
    if parse_place(path) is not None:
        return
    from .full_jsonpath import check_full

    check_full(path)


def pick(document: Any, path: str) -> Picked:
    """All nodes that the path selects.

    A plain path such as ``$.a.b[*]`` takes a fast way with the same result as the full one.

    Raises:
        ProblemError: ``path-unreadable``.
    """
    place = parse_place(path)
    if place is not None:
        return _pick_plain(document, place)
    from .full_jsonpath import find_full

    nodes = find_full(document, path)
    values = [value for value, _ in nodes]
    places = [where for _, where in nodes]
    # A selector that chooses several members of objects makes their names the keys.
    last = {place[-1] if place else None for place in places}
    several = len(last) > 1 or path.rstrip().endswith(("[*]", ".*"))
    keyed = several and all(isinstance(name, str) for name in last)
    return Picked(values, places, keyed=keyed)


def _pick_plain(document: Any, place: Place) -> Picked:
    nodes: list[tuple[Any, tuple[str | int, ...]]] = [(document, ())]
    for step, segment in enumerate(place):
        last = step == len(place) - 1
        if last and isinstance(segment, Wildcard) and len(nodes) == 1 and isinstance(nodes[0][0], list):
            return Picked(nodes[0][0], [], nodes[0][1])
        nodes = [found for node in nodes for found in _step(node, segment)]
    keyed = bool(place) and isinstance(place[-1], Wildcard) and any(isinstance(where[-1], str) for _, where in nodes)
    return Picked([value for value, _ in nodes], [where for _, where in nodes], keyed=keyed)


def _step(node: tuple[Any, tuple[str | int, ...]], segment: object) -> list[tuple[Any, tuple[str | int, ...]]]:
    value, where = node
    if isinstance(segment, str):
        return [(value[segment], (*where, segment))] if isinstance(value, dict) and segment in value else []
    if isinstance(segment, int):
        if isinstance(value, list) and -len(value) <= segment < len(value):
            return [(value[segment], (*where, segment % len(value)))]
        return []
    if isinstance(value, list):
        return [(item, (*where, index)) for index, item in enumerate(value)]
    if isinstance(value, dict):
        return [(item, (*where, name)) for name, item in value.items()]
    return []


def pick_number(document: Any, path: str | None) -> int | None:
    """The whole number that a path points at, also when it stands there as text; ``None`` when there is none."""
    if path is None:
        return None
    values = pick(document, path).values
    return as_number(values[0] if values else None)


def as_number(value: Any) -> int | None:
    """A whole number, also when it comes as text; ``None`` for anything else."""
    if isinstance(value, bool):
        return None
    if isinstance(value, int):
        return value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, str) and value.strip().isdecimal():
        return int(value.strip())
    return None


HEADER = "header:"


def known_path(value: str | None) -> str | None:
    """Check a JSONPath.

    Raises:
        ValueError: it has a mistake.
    """
    if value is not None:
        try:
            check_path(value)
        except ProblemError as error:
            raise ValueError(error.problem.what) from error
    return value


def known_source(value: str | None) -> str | None:
    """Check where in an answer a value is stated: a JSONPath, or ``header:NAME``.

    Raises:
        ValueError: it is neither.
    """
    if value is not None and value.startswith(HEADER):
        if not HEADER_NAME.match(value[len(HEADER) :]):
            raise ValueError(f"“{value}” does not name a header")
        return value
    return known_path(value)


def plain_place(value: str) -> str:
    """Check a plain place.

    Raises:
        ValueError: it is none.
    """
    if parse_place(value) is None:
        raise ValueError(f"“{value[:100]}” is not a plain place such as $.vessel.name or $.fares[*].amount")
    return value
