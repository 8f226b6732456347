"""Calendar dates."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

from tin_bucket.core.columns.kind import ColumnKind, Convert, TypeGuess, as_list, guessed
from tin_bucket.core.columns.reads import Reads

from .moments import ISO_DATE, as_moment, day_text, moment_reader


def _as_date(value: Any) -> Any:
    if isinstance(value, str) and len(value.strip()) == 10:
        return date.fromisoformat(value.strip()).isoformat()
    return day_text(as_moment(value), None)


def _converter(reads: Reads) -> Convert | None:
    moment = moment_reader(reads)
    zone = ZoneInfo(reads.zone) if reads.zone else None
    return lambda value: day_text(moment(value), zone)


def _numbers(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    whole = all(isinstance(value, int) or value.is_integer() for value in values)
    if not whole or min(values) < 19000101 or max(values) > 21001231:
        return []
    reads = Reads(dates="%Y%m%d")
    convert = _converter(reads) or _as_date
    return as_list(guessed("date", convert, reads, values, "eight digits that are days, year first"))


KIND = ColumnKind(
    name="date",
    label="date",
    convert=_as_date,
    converter=_converter,
    pattern=ISO_DATE,
    read_with=("dates", "zone"),
    temporal=True,
    sheet_format="yyyy-mm-dd",
    detect_numbers=_numbers,
)
