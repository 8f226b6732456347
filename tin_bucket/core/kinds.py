"""Column kinds: what a column's values are, and turning them into another kind when asked.

A value that does not fit the wanted kind stays as it came and is counted; it is never dropped.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from .brief import Kind
from .json_text import json_text
from .packed import Packed


@dataclass(frozen=True, slots=True)
class Miss:
    """A cell whose lookup gave nothing. `words` is for people; `reason` is ``none`` (no such thing),
    ``failed``, or ``unasked`` (no call was made for it yet)."""

    reason: str
    words: str


NOTHING = type(None)
_BY_TYPES: dict[frozenset[type], Kind] = {
    frozenset(): "text",
    frozenset({str}): "text",
    frozenset({bool}): "yes/no",
    frozenset({int}): "whole number",
    frozenset({float}): "decimal",
    frozenset({int, float}): "decimal",
}
_YES = {"true", "yes", "y", "1", "on"}
_NO = {"false", "no", "n", "0", "off"}
_WHOLE = re.compile(r"[+-]?\d+\Z")
_DECIMAL = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?\Z")


def guess_kind(values: list[Any] | Packed) -> Kind:
    """The kind of a column by the JSON types of all its values; texts stay text, whatever they look like."""
    found = values.all_types() if isinstance(values, Packed) else set(map(type, values))
    types = frozenset(found - {NOTHING, Miss})
    return _BY_TYPES.get(types, "text")


def convert(values: list[Any] | Packed, kind: Kind) -> tuple[list[Any] | Packed, int]:
    """Turn values into a kind.

    Returns:
        The new values and how many did not fit (those stay as they came).
    """
    if isinstance(values, Packed):
        made, unfit = Packed(), 0
        for start in range(0, len(values), 4_096):
            some, wrong = _converted(values[start : start + 4_096], kind)
            made.extend(some)
            unfit += wrong
        return made, unfit
    return _converted(values, kind)


def _converted(values: list[Any], kind: Kind) -> tuple[list[Any], int]:
    one = CONVERTERS[kind]
    out: list[Any] = []
    unfit = 0
    for value in values:
        if value is None or type(value) is Miss:
            out.append(value)
            continue
        try:
            out.append(one(value))
        except (ValueError, OverflowError, OSError):
            out.append(value)
            unfit += 1
    return out, unfit


def _text(value: Any) -> Any:
    return value if isinstance(value, str) else json_text(value)


def _whole(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int):
        return value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, str) and _WHOLE.match(value.strip()):
        return int(value)
    raise ValueError


def _decimal(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int | float):
        return value
    if isinstance(value, str) and _DECIMAL.match(value.strip()):
        number = float(value)
        if math.isfinite(number):
            return number
    raise ValueError


def _yes_no(value: Any) -> Any:
    if isinstance(value, bool):
        return value
    word = str(value).strip().lower()
    if word in _YES:
        return True
    if word in _NO:
        return False
    raise ValueError


def _moment(value: Any) -> datetime:
    """ISO 8601 text, or seconds since 1970 (milliseconds where seconds would lie beyond the year 5000)."""
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int | float):
        seconds = value / 1000 if abs(value) > 95_617_584_000 else value
        return datetime.fromtimestamp(seconds, UTC)
    return datetime.fromisoformat(str(value).strip())


def _date(value: Any) -> Any:
    if isinstance(value, str) and len(value.strip()) == 10:
        return date.fromisoformat(value.strip()).isoformat()
    return _moment(value).date().isoformat()


def _date_and_time(value: Any) -> Any:
    moment = _moment(value)
    if moment.tzinfo is None:
        return moment.isoformat(timespec="seconds")
    return moment.astimezone(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")


CONVERTERS: dict[Kind, Callable[[Any], Any]] = {
    "text": _text,
    "whole number": _whole,
    "decimal": _decimal,
    "yes/no": _yes_no,
    "date": _date,
    "date and time": _date_and_time,
    "json": _text,
}
