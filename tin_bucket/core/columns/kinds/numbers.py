"""Numbers and texts that are numbers: what the kinds of numbers share."""

from __future__ import annotations

import math
import re
from typing import Any

_DECIMAL = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?\Z")


# 1.234,56 and 1 234,56: full stops, spaces (also those that do not break) and apostrophes group digits.
_COMMA = re.compile(r"[+-]?(\d{1,3}([.\u0020\u00a0\u202f'\u2019]\d{3})+|\d+)(,\d+)?\Z")


_GROUPED = re.compile(r"[+-]?\d{1,3}([,\u0020\u00a0\u202f'\u2019]\d{3})+(\.\d+)?\Z")


_GROUPS = re.compile(r"[\u0020\u00a0\u202f'\u2019]")


def plain_number(value: str) -> str:
    """A number's text without its groups, and without a percent sign behind it."""
    text = value.strip()
    if text.endswith("%"):
        text = text[:-1].rstrip()
    return _GROUPS.sub("", text).replace(",", "") if _GROUPED.match(text) else text


def without_comma(value: Any) -> Any:
    """A number's text with a decimal comma as one with a point; anything else as it is.

    Raises:
        ValueError: the text is no such number.
    """
    if not isinstance(value, str):
        return value
    text = value.strip()
    percent = text.endswith("%")
    text = text[:-1].rstrip() if percent else text
    if not _COMMA.match(text):
        raise ValueError
    return _GROUPS.sub("", text).replace(".", "").replace(",", ".")


def as_decimal(value: Any) -> Any:
    """A number, also of a text that is one.

    Raises:
        ValueError: it is none.
    """
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int | float):
        return value
    if isinstance(value, str) and _DECIMAL.match(text := plain_number(value)):
        number = float(text)
        if math.isfinite(number):
            return number
    raise ValueError


_WHOLE = re.compile(r"[+-]?\d+\Z")


def as_whole(value: Any) -> Any:
    """A whole number, also of a text that is one.

    Raises:
        ValueError: it is none.
    """
    if isinstance(value, bool):
        raise ValueError
    if isinstance(value, int):
        return value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, str) and _WHOLE.match(text := plain_number(value)):
        return int(text)
    raise ValueError
