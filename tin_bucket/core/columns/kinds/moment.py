"""Dates with a time of day, and what texts and numbers may be dates or moments."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from tin_bucket.core.columns.kind import ColumnKind, Convert, TypeGuess, as_list, guessed
from tin_bucket.core.columns.kinds import date
from tin_bucket.core.columns.reads import Reads

from .moments import ISO_DATE, ISO_MOMENT, as_moment, moment_reader, moment_text, seconds_text, seconds_texts

_PATTERNS = (
    "%d.%m.%Y",
    "%d.%m.%y",
    "%d/%m/%Y",
    "%m/%d/%Y",
    "%d-%m-%Y",
    "%Y/%m/%d",
    "%Y.%m.%d",
    "%Y%m%d",
    "%d %b %Y",
    "%d-%b-%Y",
    "%b %d, %Y",
    "%Y-%m",
    "%m/%Y",
)


_TIMES = ("", " %H:%M", " %H:%M:%S", "T%H:%M:%S", " %I:%M %p", " %H:%M:%S %z")


_WIRE = ("%a, %d %b %Y %H:%M:%S GMT", "%a, %d %b %Y %H:%M:%S %z", "%Y%m%dT%H%M%S%z", "%Y%m%d%H%M%S")


_TIME_NAME = re.compile(
    r"(^|[._\s-])(at|on|ts|time|date|day|epoch|when|since|until|from|to|departs?|arrives?|created|updated|modified|"
    r"expires?|start|end|begin|opened|closed|stamp|timestamp)s?($|[._\s-])|time|date|stamp|epoch",
    re.IGNORECASE,
)


_SECONDS = 315_532_800, 4_102_444_800  # 1980 to 2100.


def _as_text(value: Any) -> Any:
    return moment_text(as_moment(value), None)


def _converter(reads: Reads) -> Convert | None:
    if reads.dates == "seconds":
        return seconds_text
    moment = moment_reader(reads)
    zone = ZoneInfo(reads.zone) if reads.zone else None
    return lambda value: moment_text(moment(value), zone)


def _at_once(convert: Convert) -> Callable[[list[Any]], list[Any] | None] | None:
    return seconds_texts if convert is seconds_text else None


def _instant(text: str) -> tuple[int, float, str]:
    """A moment as seconds; what is none stands behind all moments."""
    try:
        moment = datetime.fromisoformat(text)
        return 0, (moment if moment.tzinfo else moment.replace(tzinfo=UTC)).timestamp(), text
    except (ValueError, OverflowError):
        return 1, 0.0, text


def _numbers(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    whole = all(isinstance(value, int) or value.is_integer() for value in values)
    low, high = min(values), max(values)
    for word, part in (("seconds", 1), ("milliseconds", 1000)):
        if _SECONDS[0] * part <= low and high <= _SECONDS[1] * part and (whole or part == 1):
            near = abs(high / part - now.timestamp()) < 20 * 366 * 86_400
            if near or _TIME_NAME.search(name):
                first, last = (datetime.fromtimestamp(value / part, UTC).date() for value in (low, high))
                reads = Reads(dates=word)
                evidence = f"as {word} since 1970 they lie from {first} to {last}"
                return as_list(guessed("date and time", _converter(reads) or _as_text, reads, values, evidence))
    return []


def _iso_or_dates(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    first = values[0].strip()
    if ISO_DATE.fullmatch(first) or ISO_MOMENT.fullmatch(first):
        one = date.KIND if len(first) == 10 else KIND
        return as_list(guessed(one.name, one.convert, None, values, "texts of ISO 8601", 0.9))
    return _dates(values)


def _dates(values: list[str]) -> list[TypeGuess]:
    digits = sum(char.isdigit() for char in values[0])
    if not 3 <= digits <= 20 or len(values[0]) > 40:
        return []
    out: list[TypeGuess] = []
    for pattern in (*(day + time for day in _PATTERNS for time in _TIMES), *_WIRE):
        reads = Reads(dates=pattern)
        one = KIND if "%H" in pattern or "%I" in pattern else date.KIND
        convert = one.converter(reads) or one.convert
        try:
            convert(values[0])
        except ValueError:
            continue
        out += as_list(guessed(one.name, convert, reads, values, f"dates written as {pattern}", 0.9))
    if len(out) > 1:
        # 03/04 is two days; a value over 12 somewhere leaves one pattern, else a person must know.
        out = [replace(one, evidence=f"{one.evidence}; day and month could be swapped") for one in out[:2]]
    return out


KIND = ColumnKind(
    name="date and time",
    label="date and time",
    convert=_as_text,
    converter=_converter,
    at_once=_at_once,
    pattern=ISO_MOMENT,
    read_with=("dates", "zone"),
    temporal=True,
    sort_key=_instant,
    sheet_format="yyyy-mm-dd hh:mm:ss",
    detect_texts=_iso_or_dates,
    detect_numbers=_numbers,
)
