"""Column kinds: what a column's values are, and turning them into another kind when asked.

A value that does not fit the wanted kind stays as it came and is counted; it is never dropped.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable
from datetime import UTC, date, datetime, timedelta, tzinfo
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from tin_bucket.core.formats.date_patterns import reader_of
from tin_bucket.core.formats.json import json_text

from .compressed import Packed
from .missing import Miss
from .models import Kind, Reads

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
# 1.234,56 and 1 234,56: full stops, spaces (also those that do not break) and apostrophes group digits.
_COMMA = re.compile(r"[+-]?(\d{1,3}([.\u0020\u00a0\u202f'\u2019]\d{3})+|\d+)(,\d+)?\Z")
_GROUPED = re.compile(r"[+-]?\d{1,3}([,\u0020\u00a0\u202f'\u2019]\d{3})+(\.\d+)?\Z")
_GROUPS = re.compile(r"[\u0020\u00a0\u202f'\u2019]")
_DAY = r"\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])"
ISO_DATE = re.compile(_DAY)
ISO_MOMENT = re.compile(
    _DAY + r"[T ](?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:[.,]\d+)?)?(?:Z|[+-](?:[01]\d|2[0-3])(?::?[0-5]\d)?)?"
)


def guess_kind(values: list[Any] | Packed, types: frozenset[type] | None = None) -> Kind:
    """The kind of a column by the JSON types of all its values. Texts stay text, whatever they look like, but for
    dates of ISO 8601, which are told as such and left as they are.

    Args:
        types: the types of the values, where they are known.
    """
    if types is None:
        types = frozenset(values.all_types() if isinstance(values, Packed) else set(map(type, values)))
    types = frozenset(types - {NOTHING, Miss})
    if types == {str}:
        return _text_kind(values)
    return _BY_TYPES.get(types, "text")


def _text_kind(values: Iterable[Any]) -> Kind:
    """Whether all texts are dates or moments. The first one says at once that most columns are neither."""
    expression: re.Pattern[str] | None = None
    kind: Kind = "text"
    for value in values:
        if type(value) is not str:
            continue
        if expression is None:
            kind = "date" if len(value) == 10 else "date and time"
            expression = ISO_DATE if kind == "date" else ISO_MOMENT
        if expression.fullmatch(value) is None:
            return "text"
    return kind


def convert(values: list[Any] | Packed, kind: Kind, reads: Reads | None = None) -> tuple[list[Any] | Packed, int]:
    """Turn values into a kind.

    Args:
        reads: how they are read; the usual way when absent.

    Returns:
        The new values and how many did not fit (those stay as they came).
    """
    one = converter(kind, reads)
    at_once = _seconds_texts if one is _seconds_text else None
    if isinstance(values, Packed):
        made, unfit = Packed(), 0
        for start in range(0, len(values), 4_096):
            some, wrong = _converted(values[start : start + 4_096], one, at_once)
            made.extend(some)
            unfit += wrong
        return made, unfit
    return _converted(values, one, at_once)


def _converted(
    values: list[Any], one: Callable[[Any], Any], at_once: Callable[[list[Any]], list[Any] | None] | None = None
) -> tuple[list[Any], int]:
    made = at_once(values) if at_once is not None else None
    if made is not None:
        return made, 0
    if Miss not in set(map(type, values)):
        try:
            # As a rule all values fit.
            return [None if value is None else one(value) for value in values], 0
        except (ValueError, OverflowError, OSError, TypeError):
            pass
    out: list[Any] = []
    unfit = 0
    for value in values:
        if value is None or type(value) is Miss:
            out.append(value)
            continue
        try:
            out.append(one(value))
        except (ValueError, OverflowError, OSError, TypeError):
            out.append(value)
            unfit += 1
    return out, unfit


def converter(kind: Kind, reads: Reads | None = None) -> Callable[[Any], Any]:
    """A function that turns one value into a kind; it raises ``ValueError`` for one that does not fit."""
    if reads is None:
        return CONVERTERS[kind]
    if kind == "yes/no" and (reads.yes or reads.no):
        yes = {word.strip().casefold() for word in reads.yes} or _YES
        no = {word.strip().casefold() for word in reads.no} or _NO
        return lambda value: _yes_no(value, yes, no)
    if kind in ("whole number", "decimal") and reads.comma:
        plain = _whole if kind == "whole number" else _decimal
        return lambda value: plain(_without_comma(value))
    if kind in ("date", "date and time"):
        moment = _moment_reader(reads)
        as_text = _day_text if kind == "date" else _moment_text
        zone = ZoneInfo(reads.zone) if reads.zone else None
        if kind == "date and time" and reads.dates == "seconds":
            return _seconds_text
        return lambda value: as_text(moment(value), zone)
    return CONVERTERS[kind]


def _text(value: Any) -> Any:
    return value if isinstance(value, str) else json_text(value)


def _plain_number(value: str) -> str:
    """A number's text without its groups, and without a percent sign behind it."""
    text = value.strip()
    if text.endswith("%"):
        text = text[:-1].rstrip()
    return _GROUPS.sub("", text).replace(",", "") if _GROUPED.match(text) else text


def _without_comma(value: Any) -> Any:
    if not isinstance(value, str):
        return value
    text = value.strip()
    percent = text.endswith("%")
    text = text[:-1].rstrip() if percent else text
    if not _COMMA.match(text):
        raise ValueError
    return _GROUPS.sub("", text).replace(".", "").replace(",", ".")


def _whole(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int):
        return value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, str) and _WHOLE.match(text := _plain_number(value)):
        return int(text)
    raise ValueError


def _decimal(value: Any) -> Any:
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int | float):
        return value
    if isinstance(value, str) and _DECIMAL.match(text := _plain_number(value)):
        number = float(text)
        if math.isfinite(number):
            return number
    raise ValueError


def _yes_no(value: Any, yes: set[str] = _YES, no: set[str] = _NO) -> Any:
    if isinstance(value, bool):
        return value
    word = str(value).strip().casefold()
    if word in yes:
        return True
    if word in no:
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


def _moment_reader(reads: Reads) -> Callable[[Any], datetime]:
    if reads.dates is None:
        return _moment
    if reads.dates in ("seconds", "milliseconds"):
        part = 1 if reads.dates == "seconds" else 1000
        return lambda value: datetime.fromtimestamp(_decimal(value) / part, UTC)
    pattern = reader_of(reads.dates)
    return lambda value: pattern(value if isinstance(value, str) else json_text(value))


_EPOCH = datetime(1970, 1, 1)


def _seconds_text(value: Any) -> str:
    """Seconds since 1970 as a moment; of whole seconds the fast way."""
    if type(value) is int:
        return f"{(_EPOCH + timedelta(seconds=value)).isoformat()}Z"
    return _moment_text(datetime.fromtimestamp(_decimal(value), UTC), None)


_FIRST, _LAST = -62_135_596_800, 253_402_300_799  # Seconds of the years 1 to 9999.


def _seconds_texts(values: list[Any]) -> list[Any] | None:
    """All of them as :func:`_seconds_text` does it; ``None`` where not all are whole seconds within its years."""
    seconds = [value for value in values if value is not None]
    if set(map(type, seconds)) != {int} or min(seconds) < _FIRST or max(seconds) > _LAST:
        return None
    moments = np.array(seconds, dtype=np.int64).view("datetime64[s]")
    texts: list[str] = np.datetime_as_string(moments, timezone="UTC").tolist()
    if len(texts) == len(values):
        return texts
    following = iter(texts)
    return [None if value is None else next(following) for value in values]


def _day_text(moment: datetime, zone: tzinfo | None) -> str:
    if zone is not None and moment.tzinfo is not None:
        moment = moment.astimezone(zone)
    return moment.date().isoformat()


def _moment_text(moment: datetime, zone: tzinfo | None) -> str:
    if moment.tzinfo is None and zone is not None:
        moment = moment.replace(tzinfo=zone)
    if moment.tzinfo is not None:
        return moment.astimezone(UTC).replace(tzinfo=None).isoformat(timespec=_finest(moment)) + "Z"
    return moment.isoformat(timespec=_finest(moment))


def _finest(moment: datetime) -> str:
    return "seconds" if not moment.microsecond else "milliseconds" if not moment.microsecond % 1000 else "microseconds"


def _date(value: Any) -> Any:
    if isinstance(value, str) and len(value.strip()) == 10:
        return date.fromisoformat(value.strip()).isoformat()
    return _day_text(_moment(value), None)


def _date_and_time(value: Any) -> Any:
    return _moment_text(_moment(value), None)


CONVERTERS: dict[Kind, Callable[[Any], Any]] = {
    "text": _text,
    "whole number": _whole,
    "decimal": _decimal,
    "yes/no": _yes_no,
    "date": _date,
    "date and time": _date_and_time,
    "json": _text,
}
