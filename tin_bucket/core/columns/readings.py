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
_PLAIN = {int, float, type(None)}


def is_empty(value: Any) -> bool:
    """Whether a cell has no value: none, an empty text, or what a lookup missed."""
    return value is None or value == "" or isinstance(value, Miss)


def group_text(value: Any) -> str:
    """A cell as the text of its group; empty for cells without a value, which are one group."""
    return "" if is_empty(value) else text_of(value)


def numbers_of(values: Sequence[Any]) -> tuple[Floats, int]:
    """Cells as numbers, NaN where there is none, and how many have a value that is no finite number. Yes and no are no
    numbers. Shape (values,)."""
    if set(map(type, values)) <= _PLAIN:
        with suppress(OverflowError):
            plain = np.array(values, dtype=np.float64)
            endless = np.isinf(plain)
            plain[endless] = np.nan
            return plain, int(endless.sum())
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
