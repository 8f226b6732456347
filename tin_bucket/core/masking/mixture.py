"""A text whose characters are escaped one by one, each in a way of its own or not at all: percent (RFC 3986 §2.1, in
any case), character references of HTML (by number or name), escapes of JSON (RFC 8259 §7)."""

from __future__ import annotations

import re
from html.entities import codepoint2name

_ESCAPES = (b"%", b"&", b"\\")
_LONGEST = 14  # Bytes of one escaped character.
_SHORT_JSON = {'"': '"', "\\": "\\", "/": "/", "\b": "b", "\f": "f", "\n": "n", "\r": "r", "\t": "t"}


def has_escapes(data: bytes) -> bool:
    """Whether anything in it may be escaped."""
    return any(escape in data for escape in _ESCAPES)


def longest_mixture(text: str) -> int:
    """How many bytes the text takes at most."""
    return _LONGEST * len(text)


def mixture_of(text: str) -> bytes:
    """A pattern that fits the text in any mixture of escapes."""
    return b"".join(_character(char) for char in text)


def escapes_of(text: str) -> bytes:
    """A pattern that fits any character of the text where it is escaped. It branches by the byte that an escape begins
    with, so that a search is fast."""
    escapes = [_escapes(char) for char in sorted(set(text))]
    branches = []
    for way, (opening, closing) in enumerate(_WAYS):
        ends = sorted({found for one in escapes if (found := one[way]) is not None})
        if ends:
            branches.append(opening + b"(?:" + b"|".join(ends) + b")" + closing)
    return b"|".join(branches)


def _character(char: str) -> bytes:
    """All ways to write a character."""
    ways = [re.escape(char.encode("utf-8", "surrogateescape")), *([rb"\+"] if char == " " else [])]
    for (opening, closing), end in zip(_WAYS, _escapes(char), strict=True):
        if end is not None:
            ways.append(opening + end + closing)
    return b"(?:" + b"|".join(ways) + b")"


# How each kind of escape begins and ends; what stands between them is the character.
_WAYS = ((b"%", b""), (b"&#0{0,3}", b";?"), (b"&#[xX]0{0,3}", b";?"), (b"&", b";?"), (rb"\\+", b""), (rb"\\+u", b""))


def _escapes(char: str) -> tuple[bytes | None, ...]:
    """What stands for a character in each kind of escape."""
    code = ord(char)
    first, *others = char.encode("utf-8", "surrogateescape")
    units = char.encode("utf-16-be", "surrogatepass")
    pairs = [_hexadecimal(units[at : at + 2].hex()) for at in range(0, len(units), 2)]
    return (
        b"%".join(_hexadecimal(f"{byte:02x}") for byte in (first, *others)),
        b"%d" % code,
        _hexadecimal(f"{code:x}"),
        b"apos" if char == "'" else codepoint2name[code].encode() if code in codepoint2name else None,
        re.escape(_SHORT_JSON[char].encode()) if char in _SHORT_JSON else None,
        rb"\\+u".join(pairs),
    )


def _hexadecimal(digits: str) -> bytes:
    """Hexadecimal digits in either case."""
    return b"".join(_either(int(digit, 16)) for digit in digits)


def _either(digit: int) -> bytes:
    return b"%x" % digit if digit < 10 else b"[%x%X]" % (digit, digit)
