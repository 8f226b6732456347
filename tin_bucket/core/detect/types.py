"""What texts and numbers may mean: dates, numbers written as text, yes/no words, each offered with its evidence.

Nothing is turned into anything before a person asks for it: a code such as 007 is a text until then.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import islice
from typing import Any

from tin_bucket.core.columns.kinds import ISO_DATE, ISO_MOMENT, converter
from tin_bucket.core.columns.models import Kind, Reads
from tin_bucket.core.columns.reductions import text_of

MOST_LOOKED_AT = 20_000
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
_YES_NO = (
    {"yes", "no"},
    {"y", "n"},
    {"true", "false"},
    {"on", "off"},
    {"t", "f"},
)


@dataclass(frozen=True, slots=True)
class TypeGuess:
    """What a column's values may mean.

    Attributes:
        kind: the kind that they would be turned into.
        reads: how.
        evidence: why, in words.
        example: a value before and after.
    """

    kind: Kind
    reads: Reads | None
    evidence: str
    example: tuple[str, str]


def detect_types(values: Iterable[Any], name: str, now: datetime | None = None) -> list[TypeGuess]:
    """What a column's values may mean, the likeliest first; nothing when they are no more than they seem.

    Args:
        values: the values; the first twenty thousand that are there are looked at.
        name: the column's name or place, which tells times from counts.
        now: for telling what is near; today when absent.
    """
    found = list(islice((value for value in values if value is not None and value != ""), MOST_LOOKED_AT))
    if not found:
        return []
    if all(type(value) is str for value in found):
        return _of_texts(found, name)
    if all(type(value) in (int, float) for value in found):
        return _of_numbers(found, name, now or datetime.now(UTC))
    return []


def _made(kind: Kind, reads: Reads | None, values: list[Any], evidence: str, share: float = 1.0) -> TypeGuess | None:
    """The guess, if (nearly) all values fit."""
    one = converter(kind, reads)
    fits, example = 0, None
    allowed = len(values) - int(len(values) * share)
    for at, value in enumerate(values):
        try:
            made = one(value)
        except (ValueError, OverflowError, OSError, TypeError):
            if at - fits + 1 > allowed:
                return None
            continue
        fits += 1
        example = example or (text_of(value), text_of(made))
    if example is None:
        return None
    missed = len(values) - fits
    told = evidence if not missed else f"{evidence}; {missed:,} of {len(values):,} do not fit and stay as they are"
    return TypeGuess(kind, reads, told, example)


def _of_numbers(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    if not all(isinstance(value, int) or value.is_integer() for value in values):
        whole = False
    else:
        whole = True
    low, high = min(values), max(values)
    for word, part in (("seconds", 1), ("milliseconds", 1000)):
        if _SECONDS[0] * part <= low and high <= _SECONDS[1] * part and (whole or part == 1):
            near = abs(high / part - now.timestamp()) < 20 * 366 * 86_400
            if near or _TIME_NAME.search(name):
                first, last = (datetime.fromtimestamp(value / part, UTC).date() for value in (low, high))
                made = _made(
                    "date and time", Reads(dates=word), values, f"as {word} since 1970 they lie from {first} to {last}"
                )
                return [made] if made is not None else []
    if whole and {*values} <= {0, 1} and len({*values}) == 2:
        made = _made("yes/no", None, values, "only 0 and 1")
        return [made] if made is not None else []
    if whole and low >= 19000101 and high <= 21001231:
        made = _made("date", Reads(dates="%Y%m%d"), values, "eight digits that are days, year first")
        return [made] if made is not None else []
    return []


def _of_texts(values: list[str], name: str) -> list[TypeGuess]:
    first = values[0].strip()
    if ISO_DATE.fullmatch(first) or ISO_MOMENT.fullmatch(first):
        kind: Kind = "date" if len(first) == 10 else "date and time"
        made = _made(kind, None, values, "texts of ISO 8601", 0.9)
        return [made] if made is not None else []
    words = {value.strip().casefold() for value in values}
    if any(words <= pair for pair in _YES_NO):
        reads = Reads(yes=["t"], no=["f"]) if words & {"t", "f"} else None
        made = _made("yes/no", reads, values, "only yes/no words")
        return [made] if made is not None else []
    return _dates(values) or _numbers(values, name)


def _dates(values: list[str]) -> list[TypeGuess]:
    digits = sum(char.isdigit() for char in values[0])
    if not 3 <= digits <= 20 or len(values[0]) > 40:
        return []
    out: list[TypeGuess] = []
    for pattern in (*(day + time for day in _PATTERNS for time in _TIMES), *_WIRE):
        reads = Reads(dates=pattern)
        try:
            converter("date and time", reads)(values[0])
        except ValueError:
            continue
        kind: Kind = "date and time" if "%H" in pattern or "%I" in pattern else "date"
        made = _made(kind, reads, values, f"dates written as {pattern}", 0.9)
        if made is not None:
            out.append(made)
    if len(out) > 1:
        # 03/04 is two days; a value over 12 somewhere leaves one pattern, else a person must know.
        out = [
            TypeGuess(one.kind, one.reads, f"{one.evidence}; day and month could be the other way round", one.example)
            for one in out[:2]
        ]
    return out


def _numbers(values: list[str], name: str) -> list[TypeGuess]:
    plain = [value.strip() for value in values]
    # A nought in front, or sixteen digits, make a code: as a number it would lose something.
    if any(len(text.lstrip("+-")) > 1 and text.lstrip("+-").startswith("0") and text.isdecimal() for text in plain):
        return []
    if any(sum(char.isdigit() for char in text) > 15 for text in plain):
        return []
    percent = all(text.endswith("%") for text in plain)
    unit = ", each with a percent sign" if percent else ""
    comma = any("," in text for text in plain)
    if not comma or any("." in text[text.rfind(",") :] for text in plain if "," in text):
        kind: Kind = "whole number" if all("." not in text for text in plain) else "decimal"
        made = _made(kind, None, values, f"numbers written as text{unit}")
        if made is not None:
            return [made]
    reads = Reads(comma=True)
    made = _made("decimal", reads, values, f"numbers with a decimal comma{unit}")
    return [made] if made is not None else []
