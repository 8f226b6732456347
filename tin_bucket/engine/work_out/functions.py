"""The functions that Tin Bucket brings to SQLite, as core's list of functions describes them."""

from __future__ import annotations

import functools
import json
import re
import sqlite3
import statistics
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

import regex

from tin_bucket.core.columns.kind import UNFIT, Convert
from tin_bucket.core.columns.kind_registry import converter
from tin_bucket.core.columns.reads import Reads

_LARGEST = 2**63 - 1  # The largest whole number that SQLite holds.
_DIGITS = 20  # Of the longest of them, with its sign.
_NUMBER = re.compile(r"\s*[+-]?(?:\d+|(\d+\.\d*|\.\d+|\d+(?=[eE]))([eE][+-]?\d+)?)\s*", re.ASCII)
_SECONDS = 0.25  # That a pattern may look at one text.


def _text(value: Any) -> str:
    return value if isinstance(value, str) else str(value)


@functools.lru_cache(maxsize=200)
def _pattern(text: str) -> regex.Pattern[str] | None:
    try:
        return regex.compile(text)
    except regex.error:
        return None


def _matches(value: Any, pattern: Any) -> int | None:
    found = _pattern(_text(pattern))
    if value is None or pattern is None or found is None:
        return None
    try:
        return int(found.search(_text(value), timeout=_SECONDS) is not None)
    except TimeoutError:
        return None


def _regexp(pattern: Any, value: Any) -> int | None:
    return _matches(value, pattern)


def _match_of(value: Any, pattern: Any, group: Any = 0) -> str | None:
    found = _pattern(_text(pattern))
    if value is None or pattern is None or found is None:
        return None
    try:
        one = found.search(_text(value), timeout=_SECONDS)
        return None if one is None else one.group(group)
    except (TimeoutError, IndexError, TypeError, ValueError):
        return None


def _parts_by_pattern(value: Any, pattern: str) -> str | None:
    found = _pattern(pattern)
    if value is None or found is None:
        return None
    try:
        parts = found.splititer(_text(value), timeout=_SECONDS)
        return json.dumps([part for part in parts if part is not None])
    except TimeoutError:
        return None


def _parts_by_length(value: Any, lengths: str) -> str | None:
    if value is None:
        return None
    text, at, out = _text(value), 0, []
    for length in json.loads(lengths):
        out.append(text[at : at + length])
        at += length
    if text[at:]:
        out.append(text[at:])
    return json.dumps([part if part else None for part in out])


@functools.lru_cache(maxsize=500)
def _zone(name: str) -> ZoneInfo | None:
    try:
        return ZoneInfo(name)
    except (ValueError, OSError):
        return None


def _local_time(value: Any, zone: Any, given: Any = "UTC") -> str | None:
    """A moment in a time zone; a day without a time of day as it is; nothing of what is no date."""
    if not isinstance(value, str):
        return None
    wanted, own = _zone(_text(zone)), _zone(_text(given) or "UTC")
    try:
        moment = datetime.fromisoformat(value)
        if wanted is None or own is None:
            return None
        if len(value) <= 10:
            return value
        moment = moment if moment.tzinfo else moment.replace(tzinfo=own)
        return moment.astimezone(wanted).isoformat()
    except (ValueError, OverflowError):
        return None


@functools.lru_cache(maxsize=200)
def _reader(kind: str, how: str) -> Convert:
    return converter(kind, Reads.model_validate_json(how))


def _read_as(value: Any, kind: str, how: str) -> Any:
    """A value as another kind, nothing where it is none; yes and no are 1 and 0."""
    if value is None or value == "":
        return None
    try:
        read = _reader(kind, how)(value)
    except UNFIT:
        return None
    if isinstance(read, int):
        return int(read) if abs(read) <= _LARGEST else None
    return read


def _as_number(value: Any) -> Any:
    """A number, also of a text that is one as SQLite writes it; nothing of any other text, where SQLite says 0."""
    if not isinstance(value, str):
        return value
    found = _NUMBER.fullmatch(value)
    if found is None:
        return None
    # Python reads no whole number of some thousand digits; SQLite has none over 64 bits.
    if found[1] is None and len(value.strip()) <= _DIGITS and abs(int(value)) <= _LARGEST:
        return int(value)
    return float(value)


class _Median:
    def __init__(self) -> None:
        self._values: list[float] = []

    def step(self, value: Any) -> None:
        if value is not None and not isinstance(value, str):
            self._values.append(value)

    def finalize(self) -> float | None:
        return statistics.median(self._values) if self._values else None


class _Joined:
    """Different values as one text, in the order in which they come first."""

    def __init__(self) -> None:
        self._first: dict[str, int] = {}
        self._separator = ", "

    def step(self, value: Any, row: int, separator: str) -> None:
        self._separator = separator
        if value is not None:
            text = _text(value)
            self._first[text] = min(row, self._first.get(text, row))

    def finalize(self) -> str | None:
        return self._separator.join(sorted(self._first, key=self._first.__getitem__)) if self._first else None


def register(db: sqlite3.Connection) -> None:
    """Make the functions known on a connection. None of them raises: what cannot be worked out is NULL."""
    plain: list[tuple[str, int, Any]] = [
        ("matches", 2, _matches),
        ("regexp", 2, _regexp),
        ("match_of", 2, _match_of),
        ("match_of", 3, _match_of),
        ("local_time", 2, _local_time),
        ("local_time", 3, _local_time),
        ("parts_by_pattern", 2, _parts_by_pattern),
        ("parts_by_length", 2, _parts_by_length),
        ("read_as", 3, _read_as),
        ("as_number", 1, _as_number),
    ]
    for name, count, function in plain:
        db.create_function(name, count, function, deterministic=True)
    db.create_aggregate("median", 1, _Median)  # type: ignore[arg-type]
    db.create_aggregate("joined_values", 3, _Joined)  # type: ignore[arg-type]
