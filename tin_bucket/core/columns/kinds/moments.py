"""Dates and moments as ISO 8601 texts: what their kinds share."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta, tzinfo
from typing import Any

import numpy as np

from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.formats.date_patterns import reader_of
from tin_bucket.core.formats.json import json_text

from .numbers import as_decimal

_DAY = r"\d{4}-(?:0[1-9]|1[0-2])-(?:0[1-9]|[12]\d|3[01])"


ISO_DATE = re.compile(_DAY)


ISO_MOMENT = re.compile(
    _DAY + r"[T ](?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:[.,]\d+)?)?(?:Z|[+-](?:[01]\d|2[0-3])(?::?[0-5]\d)?)?"
)


def as_moment(value: Any) -> datetime:
    """ISO 8601 text, or seconds since 1970 (milliseconds where seconds would lie beyond the year 5000)."""
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int | float):
        seconds = value / 1000 if abs(value) > 95_617_584_000 else value
        return datetime.fromtimestamp(seconds, UTC)
    return datetime.fromisoformat(str(value).strip())


def moment_reader(reads: Reads) -> Callable[[Any], datetime]:
    if reads.dates is None:
        return as_moment
    if reads.dates in ("seconds", "milliseconds"):
        part = 1 if reads.dates == "seconds" else 1000
        return lambda value: datetime.fromtimestamp(as_decimal(value) / part, UTC)
    pattern = reader_of(reads.dates)
    return lambda value: pattern(value if isinstance(value, str) else json_text(value))


_EPOCH = datetime(1970, 1, 1)


def seconds_text(value: Any) -> str:
    """Seconds since 1970 as a moment; of whole seconds the fast way."""
    if type(value) is int:
        return f"{(_EPOCH + timedelta(seconds=value)).isoformat()}Z"
    return moment_text(datetime.fromtimestamp(as_decimal(value), UTC), None)


_FIRST, _LAST = -62_135_596_800, 253_402_300_799  # Seconds of the years 1 to 9999.


def seconds_texts(values: list[Any]) -> list[Any] | None:
    """All of them as :func:`seconds_text` does it; ``None`` where not all are whole seconds within its years."""
    seconds = [value for value in values if value is not None]
    if set(map(type, seconds)) != {int} or min(seconds) < _FIRST or max(seconds) > _LAST:
        return None
    moments = np.array(seconds, dtype=np.int64).view("datetime64[s]")
    texts: list[str] = np.datetime_as_string(moments, timezone="UTC").tolist()
    if len(texts) == len(values):
        return texts
    following = iter(texts)
    return [None if value is None else next(following) for value in values]


def day_text(moment: datetime, zone: tzinfo | None) -> str:
    if zone is not None and moment.tzinfo is not None:
        moment = moment.astimezone(zone)
    return moment.date().isoformat()


def moment_text(moment: datetime, zone: tzinfo | None) -> str:
    if moment.tzinfo is None and zone is not None:
        moment = moment.replace(tzinfo=zone)
    if moment.tzinfo is not None:
        return moment.astimezone(UTC).replace(tzinfo=None).isoformat(timespec=_finest(moment)) + "Z"
    return moment.isoformat(timespec=_finest(moment))


def _finest(moment: datetime) -> str:
    return "seconds" if not moment.microsecond else "milliseconds" if not moment.microsecond % 1000 else "microseconds"
