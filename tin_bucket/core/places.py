"""Places in JSON: the plain part of JSONPath (RFC 9535) that names fixed members, and JSON Pointer (RFC 6901).

A *place* is a tuple of segments: a text is a member name, a whole number an index, :data:`EACH` stands for
``[*]``. Everything that needs filters, slices or descendants is a full JSONPath and is left to ``picking``.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final, overload


class Each:
    """The wildcard segment ``[*]``; there is one instance, :data:`EACH`."""

    __slots__ = ()

    def __repr__(self) -> str:
        return "EACH"


EACH: Final = Each()
Segment = str | int | Each
Place = tuple[Segment, ...]

_STEP = re.compile(
    r"""\.(?P<name>[A-Za-z_\u0080-\U0010ffff][A-Za-z0-9_\u0080-\U0010ffff]*)
      | \[(?P<index>0|-?[1-9]\d*)\]
      | (?P<each>\[\*\]|\.\*)
      | \['(?P<single>(?:[^'\\\x00-\x1f]|\\.)*)'\]
      | \["(?P<double>(?:[^"\\\x00-\x1f]|\\.)*)"\]""",
    re.VERBOSE,
)
_PLAIN = re.compile(r"[A-Za-z_\u0080-\U0010ffff][A-Za-z0-9_\u0080-\U0010ffff]*\Z")
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
            segments.append(EACH)
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
    names = [str(part) for part in place if not isinstance(part, Each)]
    return ".".join(names) if names else "value"
