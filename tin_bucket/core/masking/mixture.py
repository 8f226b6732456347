"""A text whose characters are escaped one by one, each in a way of its own or not at all: percent (RFC 3986 §2.1, in
any case), character references of HTML (by number or name), escapes of JSON (RFC 8259 §7)."""

from __future__ import annotations

import re
from html.entities import codepoint2name

_ESCAPES = (b"%", b"&", b"\\")
HINT = re.compile(rb"[%&\\]")  # What every escape begins with.
_LONGEST = 24  # Bytes of one escaped character, as services write it; more are found when they stand together.
_SHORT_JSON = {'"': b'"', "/": b"/", "\b": b"b", "\f": b"f", "\n": b"n", "\r": b"r", "\t": b"t"}
# What an escape is made of may be escaped again, and again: %2541, &amp;#65;, \\\\u0041. Up to eight times, and without
# a second try where one would change nothing: a service must not make this slow with a run of backslashes.
_PERCENT = rb"(?:%|\\{1,8}+u0025|&#37;)(?:25){0,8}"
_BACKSLASH = rb"(?:\\|" + _PERCENT + rb"5[cC])"
_BACKSLASHES = _BACKSLASH + rb"{1,8}+"
_SEMICOLON = rb"(?:;|" + _PERCENT + rb"3[bB])?"
_AMPERSAND = rb"(?:&|" + _BACKSLASHES + rb"u0026|" + _PERCENT + rb"26)(?:amp" + _SEMICOLON + rb"){0,8}"
_HASH = rb"(?:#|" + _PERCENT + rb"23)"
# How each kind of escape begins and ends; what stands between them is the character.
_WAYS = (
    (_PERCENT, b""),
    (_AMPERSAND + _HASH + b"0{0,3}", _SEMICOLON),
    (_AMPERSAND + _HASH + b"[xX]0{0,3}", _SEMICOLON),
    (_AMPERSAND, _SEMICOLON),
    (_BACKSLASHES, b""),
    (_BACKSLASHES + b"u", b""),
)


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
    """A pattern that fits any character of the text where it is escaped. It branches by how an escape begins, so that a
    search is fast."""
    escapes = [_escapes(char) for char in sorted(set(text))]
    branches = []
    for way, (opening, closing) in enumerate(_WAYS):
        ends = sorted({found for one in escapes if (found := one[way]) is not None})
        if ends:
            branches.append(opening + b"(?:" + b"|".join(ends) + b")" + closing)
    if "\\" in text:
        branches.append(_BACKSLASH)
    return b"|".join(branches)


def _character(char: str) -> bytes:
    """All ways to write a character."""
    if char == "\\":
        code = b"(?:0{0,3}92|[xX]0{0,3}5[cC])"
        ways = [_BACKSLASHES + b"u005[cC]", _BACKSLASH + b"{1,8}", _AMPERSAND + _HASH + code + _SEMICOLON]
        return b"(?:" + b"|".join(ways) + b")"
    if char == "&":
        return b"(?:" + b"|".join([_AMPERSAND + _HASH + b"(?:38|[xX]26)" + _SEMICOLON, _AMPERSAND]) + b")"
    ways = [re.escape(char.encode("utf-8", "surrogateescape")), *([rb"\+"] if char == " " else [])]
    for (opening, closing), end in zip(_WAYS, _escapes(char), strict=True):
        if end is not None:
            ways.append(opening + end + closing)
    # JSON puts a backslash before these, whatever else is done to them.
    before = _BACKSLASH + b"{0,8}" if char in '"/' else b""
    return before + b"(?:" + b"|".join(ways) + b")"


def _escapes(char: str) -> tuple[bytes | None, ...]:
    """What stands for a character in each kind of escape."""
    code = ord(char)
    first, *others = char.encode("utf-8", "surrogateescape")
    units = char.encode("utf-16-be", "surrogatepass")
    pairs = [_hexadecimal(units[at : at + 2].hex()) for at in range(0, len(units), 2)]
    named = b"apos" if char == "'" else codepoint2name[code].encode() if code in codepoint2name else None
    return (
        _PERCENT.join(_hexadecimal(f"{byte:02x}") for byte in (first, *others)),
        b"%d" % code,
        _hexadecimal(f"{code:x}"),
        # Of an ampersand, one "amp" is the character and further ones are escapes of its own escape.
        None if char == "&" else named,
        _SHORT_JSON.get(char),
        (_BACKSLASHES + b"u").join(pairs),
    )


def _hexadecimal(digits: str) -> bytes:
    """Hexadecimal digits in either case."""
    return b"".join(_either(int(digit, 16)) for digit in digits)


def _either(digit: int) -> bytes:
    return b"%x" % digit if digit < 10 else b"[%x%X]" % (digit, digit)
