"""The registry of spellings: how a text may stand in an answer, by itself or one spelling within another."""

from __future__ import annotations

import base64
import html
import json
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import quote, quote_plus

_TELLING = 8  # Characters of Base64 that stand for one text alone.
DEPTH = 2  # Spellings within each other, such as Base64 of percent-encoded text.


@dataclass(frozen=True, slots=True)
class Spelling:
    """A way to write a text.

    Attributes:
        name: what it is called.
        write: the text as a service may write it.
        traces: what surely stands in the answer, whatever stands around the text; the whole of it for most.
        partial: whether characters beside a trace may hold a part of the text's ends.
    """

    name: str
    write: Callable[[bytes], bytes]
    traces: Callable[[bytes], Iterable[bytes]]
    partial: bool = False


@dataclass(frozen=True, slots=True)
class Trace:
    """What stands in an answer that holds a secret, and whether what is beside it may hold a part of its ends."""

    data: bytes
    partial: bool


def _whole(name: str, write: Callable[[bytes], bytes]) -> Spelling:
    return Spelling(name, write, lambda data: (write(data),))


def _texts(change: Callable[[str], str]) -> Callable[[bytes], bytes]:
    """A change of text, for bytes; what is no text stays."""

    def write(data: bytes) -> bytes:
        try:
            return change(data.decode()).encode()
        except UnicodeDecodeError:
            return data

    return write


def _lower_percent(text: str) -> str:
    return re.sub("%..", lambda found: found[0].lower(), quote(text, safe=""))


def _traces_of_base64(encode: Callable[[bytes], bytes]) -> Callable[[bytes], Iterable[bytes]]:
    """The characters of Base64 (RFC 4648 §4) that hold nothing but the data, at each of the three places where it may
    begin in a group."""

    def traces(data: bytes) -> Iterable[bytes]:
        for before in range(3):
            first = -(-before * 8 // 6)
            last = (before + len(data)) * 8 // 6
            trace = encode(b"\0" * before + data)[first:last]
            if len(trace) >= _TELLING:
                yield trace

    return traces


def _in_utf_16(order: str) -> Callable[[bytes], bytes]:
    return lambda data: data.decode("utf-8", "replace").encode(f"utf-16-{order}", "replace")


SPELLINGS: tuple[Spelling, ...] = (
    _whole("JSON, ASCII alone", _texts(lambda text: json.dumps(text)[1:-1])),
    _whole("JSON", _texts(lambda text: json.dumps(text, ensure_ascii=False)[1:-1])),
    _whole("JSON, slashes too", _texts(lambda text: json.dumps(text)[1:-1].replace("/", "\\/"))),
    _whole("percent", _texts(lambda text: quote(text, safe=""))),
    _whole("percent, slashes left", _texts(lambda text: quote(text, safe="/"))),
    _whole("percent, lower case", _texts(_lower_percent)),
    _whole("form", _texts(quote_plus)),
    _whole("HTML", _texts(html.escape)),
    _whole("HTML, quotes left", _texts(lambda text: html.escape(text, quote=False))),
    _whole("hex", lambda data: data.hex().encode()),
    _whole("hex, upper case", lambda data: data.hex().upper().encode()),
    _whole("UTF-16, little end first", _in_utf_16("le")),
    _whole("UTF-16, big end first", _in_utf_16("be")),
    Spelling("Base64", base64.b64encode, _traces_of_base64(base64.b64encode), partial=True),
    Spelling(
        "Base64, for addresses", base64.urlsafe_b64encode, _traces_of_base64(base64.urlsafe_b64encode), partial=True
    ),
)


@lru_cache(maxsize=256)
def traces_of(secret: str) -> tuple[Trace, ...]:
    """What may stand in an answer that holds a secret, in any spelling and any two within each other; the longest
    first."""
    known = {secret.encode("utf-8", "surrogateescape"): False}
    newest = dict(known)
    for _ in range(DEPTH):
        found: dict[bytes, bool] = {}
        for data, partial in newest.items():
            for spelling in SPELLINGS:
                for trace in spelling.traces(data):
                    if trace not in known:
                        found[trace] = found.get(trace, False) or partial or spelling.partial
        known |= found
        newest = found
    return tuple(Trace(data, known[data]) for data in sorted(known, key=len, reverse=True))
