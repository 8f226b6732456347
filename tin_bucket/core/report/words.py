"""Numbers, changes and dates as a report's sentences have them."""

from __future__ import annotations

import math
from datetime import date, datetime, tzinfo
from typing import Any

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.columns.readings import is_empty

_MINUS = "−"
_FINE = 1e-9


def decimals_of(value: float, unit: str) -> int:
    """How many decimals suit a number that nobody said them for."""
    if value == round(value, 6) and float(value).is_integer():
        return 0
    if unit == "%" or abs(value) >= 100:
        return 1
    return 2 if abs(value) >= 0.095 else min(8, 2 - math.floor(math.log10(abs(value))) - 1) if value else 0


def number_words(value: float, unit: str = "", decimals: int | None = None) -> str:
    """“1,227”, “29.6 %”, “31.40 SKC”: with separators, and the unit behind a space that does not break."""
    if not math.isfinite(value):
        return "no finite number"
    places = decimals_of(value, unit) if decimals is None else decimals
    text = f"{value:,.{places}f}".replace("-", _MINUS)
    if float(text.replace(",", "").replace(_MINUS, "-")) == 0:
        text = text.replace(_MINUS, "")
    return f"{text}\u00a0{unit}" if unit else text


def _difference(now: float, then: float, unit: str, decimals: int | None) -> tuple[float, str]:
    """The difference, and how large it is, in words: of percentages it is points."""
    by = now - then
    places = decimals
    if places is None:
        places = 0 if float(now).is_integer() and float(then).is_integer() else max(
            decimals_of(now, unit), decimals_of(then, unit)
        )  # fmt: skip
    if abs(by) < 0.5 * 10.0**-places:
        return 0.0, ""
    size = number_words(abs(by), "" if unit == "%" else unit, places)
    return by, f"{size}\u00a0point{'' if size == '1' else 's'}" if unit == "%" else size


def change_words(now: float, then: float, unit: str = "", counts: bool = False, decimals: int | None = None) -> str:
    """“14 fewer”, “3.1 points more”, “0.45 SKC less”; “unchanged” where it is the same to the last decimal shown."""
    by, size = _difference(now, then, unit, decimals)
    if not by:
        return "unchanged"
    return f"{size} {'more' if by > 0 else 'fewer' if counts else 'less'}"


def moved_words(now: float, then: float, unit: str = "", decimals: int | None = None) -> str:
    """“rose by 3.1 points”, “fell by 14”, “did not change”."""
    by, size = _difference(now, then, unit, decimals)
    return f"{'rose' if by > 0 else 'fell'} by {size}" if by else "did not change"


def percent_words(now: float, then: float) -> str:
    """“12.5 % more”; nothing where the earlier number is 0 or below."""
    if then <= 0:
        return ""
    by = 100 * (now - then) / then
    if abs(by) < 0.05:
        return "unchanged"
    return f"{number_words(abs(by), '%')} {'more' if by > 0 else 'less'}"


def day_words(moment: date, this_year: int) -> str:
    """“18 November”, with the year where it is another one."""
    return f"{moment.day} {moment:%B}" + ("" if moment.year == this_year else f" {moment.year}")


def moment_words(text: str, zone: tzinfo | None, now: datetime, clock: bool = True) -> str:
    """A moment in this machine's zone: “Wed 25 Nov 05:30”."""
    moment = datetime.fromisoformat(text)
    moment = moment.astimezone(zone) if moment.tzinfo is not None else moment
    year = "" if moment.year == now.year else f" {moment.year}"
    return f"{moment:%a} {moment.day} {moment:%b}{year}" + (f" {moment:%H:%M}" if clock else "")


def cell_words(value: Any, kind: str, now: datetime, decimals: int | None = None) -> str:
    """A cell of an exhibit: dates readable and with the clock that they are written with, numbers with separators,
    codes and ids as they are."""
    if isinstance(value, Miss):
        return value.words
    if is_empty(value):
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        # Without separators, as tables on screen have numbers: some of them are codes.
        return number_words(value, "", decimals).replace(",", "") if isinstance(value, float) else str(value)
    text = str(value)
    if kind_of(kind).temporal:
        try:
            if len(text) == 10:
                return moment_words(text, None, now, clock=False)
            moment = datetime.fromisoformat(text)
        except ValueError:
            return text
        return moment_words(moment.replace(tzinfo=None).isoformat(), None, now)
    return text


def date_value_words(text: str, zone: tzinfo | None, now: datetime) -> str:
    """A date that stands in a sentence: “18 November”, “18 November, 05:30”; other texts as they are."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        return text
    if len(text) == 10:
        return day_words(moment.date(), now.year)
    local = moment.astimezone(zone) if moment.tzinfo is not None and zone is not None else moment
    return f"{day_words(local.date(), now.year)}, {local:%H:%M}"
