"""Patterns of dates: strftime conversions (POSIX.1-2017), read with English names whatever the machine's locale."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime, timedelta, timezone
from functools import lru_cache

_MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"]
_FULL = ["january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
         "december"]  # fmt: skip
_DAYS = "mon|tue|wed|thu|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday"
# Conversion → regular expression and the name of its part; nameless ones are read and not used.
_CONVERSIONS: dict[str, tuple[str, str]] = {
    "Y": (r"\d{4}", "year"),
    "y": (r"\d{2}", "short_year"),
    "m": (r"\d{1,2}", "month"),
    "d": (r"\d{1,2}", "day"),
    "e": (r" ?\d{1,2}", "day"),
    "b": ("|".join([*_FULL, *_MONTHS, "sept"]), "month_name"),
    "B": ("|".join([*_FULL, *_MONTHS, "sept"]), "month_name"),
    "H": (r"\d{1,2}", "hour"),
    "I": (r"\d{1,2}", "hour"),
    "M": (r"\d{2}", "minute"),
    "S": (r"\d{2}", "second"),
    "f": (r"\d{1,9}", "fraction"),
    "p": (r"[ap]\.?m\.?", "half"),
    "z": (r"Z|[+-]\d{2}:?\d{2}", "offset"),
    "a": (_DAYS, ""),
    "A": (_DAYS, ""),
    "j": (r"\d{1,3}", "day_of_year"),
}


def check_pattern(pattern: str) -> None:
    """Make sure that a pattern can be read.

    Raises:
        ValueError: with words that say what is wrong with it.
    """
    _compiled(pattern)


@lru_cache(256)
def _compiled(pattern: str) -> tuple[re.Pattern[str], frozenset[str]]:
    out, names, at = [], set(), 0
    while at < len(pattern):
        char = pattern[at]
        if char != "%":
            out.append(r"\s+" if char.isspace() else re.escape(char))
            at += 1
            continue
        letter = pattern[at + 1 : at + 2]
        if letter == "%":
            out.append("%")
        elif letter in _CONVERSIONS:
            expression, name = _CONVERSIONS[letter]
            if name in names:
                raise ValueError(f"the pattern “{pattern}” has %{letter} where its {name} is already known")
            if name:
                names.add(name)
            out.append(f"(?P<{name}>{expression})" if name else f"(?:{expression})")
        else:
            raise ValueError(
                f"the pattern “{pattern}” has %{letter} at character {at + 1}; known are "
                + ", ".join(f"%{one}" for one in _CONVERSIONS)
            )
        at += 2
    if not names & {"year", "short_year"} or not (names & {"month", "month_name"} or "day_of_year" in names):
        raise ValueError(f"the pattern “{pattern}” needs a year (%Y) and a month (%m or %b)")
    return re.compile("".join(out), re.IGNORECASE), frozenset(names)


def reader_of(pattern: str) -> Callable[[str], datetime]:
    """A function that reads texts of a pattern; it raises ``ValueError`` for one that does not fit.

    The result has an offset when the pattern has one (``%z``). A missing day is the first.
    """
    expression, names = _compiled(pattern)

    def read(text: str) -> datetime:
        found = expression.fullmatch(text.strip())
        if found is None:
            raise ValueError
        part = found.groupdict()
        year = int(part["year"]) if "year" in names else _century(int(part["short_year"]))
        if "day_of_year" in names:
            made = datetime(year, 1, 1) + timedelta(days=int(part["day_of_year"]) - 1)
            if made.year != year:
                raise ValueError
        else:
            month = _month(part["month_name"]) if "month_name" in names else int(part["month"])
            made = datetime(year, month, int(part["day"]) if "day" in names else 1)
        hour = int(part.get("hour") or 0)
        if "half" in names:
            if not 1 <= hour <= 12:
                raise ValueError
            hour = hour % 12 + (12 if part["half"].lower().startswith("p") else 0)
        fraction = (part.get("fraction") or "0").ljust(6, "0")[:6]
        made = made.replace(
            hour=hour,
            minute=int(part.get("minute") or 0),
            second=int(part.get("second") or 0),
            microsecond=int(fraction),
        )
        return made.replace(tzinfo=_offset(part["offset"])) if "offset" in names else made

    return read


def _century(year: int) -> int:
    # As POSIX has it: 69 to 99 are of the twentieth century.
    return 1900 + year if year >= 69 else 2000 + year


def _month(name: str) -> int:
    return _MONTHS.index(name.lower()[:3]) + 1


def _offset(text: str) -> timezone:
    if text in ("Z", "z"):
        return timezone.utc  # noqa: UP017 the type is timezone
    digits = text[1:].replace(":", "")
    span = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return timezone(-span if text[0] == "-" else span)
