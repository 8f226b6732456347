"""Cells read as what they are drawn, added and grouped by: as numbers, and as the text of a group."""

from __future__ import annotations

import math
from collections.abc import Sequence
from contextlib import suppress
from typing import Any

import numpy as np
import numpy.typing as npt

from .missing import Miss
from .reduction import text_of

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Codes = tuple[Ints, list[str]]
EXACT = 2**53  # Below it a whole number is the same one as a double (IEEE 754).
_PLAIN = {int, float, type(None)}


def is_empty(value: Any) -> bool:
    """Whether a cell has no value: none, an empty text, or what a lookup missed."""
    return value is None or value == "" or isinstance(value, Miss)


def group_text(value: Any) -> str:
    """A cell as the text of its group; empty for cells without a value, which are one group."""
    return "" if is_empty(value) else text_of(value)


def group_codes(values: Sequence[Any], empty: str = "") -> Codes:
    """For each cell the number of its group, and the groups as texts, in the order in which they come. Shape (values,).

    Args:
        empty: the text of the group of cells without a value.
    """
    if set(map(type, values)) == {str} and "" not in (plain := dict.fromkeys(values)):
        # Texts are their own groups.
        numbers = dict(zip(plain, range(len(plain)), strict=True))
        return np.fromiter(map(numbers.__getitem__, values), dtype=np.int64, count=len(values)), list(plain)
    known: dict[str, int] = {}
    codes = [known.setdefault(group_text(value) or empty, len(known)) for value in values]
    return np.array(codes, dtype=np.int64), list(known)


def plain_numbers(values: Sequence[Any]) -> Floats | None:
    """Cells that are numbers or nothing, as doubles that are the same numbers, NaN where there is none; nothing where
    one of them is anything else. Shape (values,)."""
    values = values if isinstance(values, list) else list(values)
    if not set(map(type, values)) <= _PLAIN:
        return None
    try:
        found = np.array(values, dtype=np.float64)
    except OverflowError:
        return None
    nothing = np.isnan(found)
    large = np.abs(found[~nothing]) >= EXACT
    return None if large.any() or int(nothing.sum()) != values.count(None) else found


def numbers_of(values: Sequence[Any]) -> tuple[Floats, int]:
    """Cells as numbers, NaN where there is none, and how many have a value that is no finite number. Yes and no are no
    numbers. Shape (values,)."""
    values = values if isinstance(values, list) else list(values)
    if set(map(type, values)) <= _PLAIN:
        with suppress(OverflowError):
            plain = np.array(values, dtype=np.float64)
            plain[np.isinf(plain)] = np.nan
            return plain, int(np.isnan(plain).sum()) - values.count(None)
    out = np.full(len(values), np.nan)
    odd = 0
    for at, value in enumerate(values):
        if is_empty(value):
            continue
        number = math.inf
        if isinstance(value, int | float) and not isinstance(value, bool):
            with suppress(OverflowError):
                number = float(value)
        if math.isfinite(number):
            out[at] = number
        else:
            odd += 1
    return out, odd
