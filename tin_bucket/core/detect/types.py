"""What texts and numbers may mean: dates, numbers written as text, yes/no words, each offered with its evidence.

Nothing is turned into anything before a person asks for it: a code such as 007 is a text until then.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from itertools import islice
from typing import Any

from tin_bucket.core.columns.kind import MOST_LOOKED_AT, TypeGuess
from tin_bucket.core.columns.kind_registry import DETECTED


def detect_types(values: Iterable[Any], name: str, now: datetime) -> list[TypeGuess]:
    """What a column's values may mean, the likeliest first; nothing when they are no more than they seem.

    Args:
        values: the values; the first twenty thousand that are there are looked at.
        name: the column's name or place, which distinguishes times from counts.
        now: for judging which dates are near.
    """
    found = list(islice((value for value in values if value is not None and value != ""), MOST_LOOKED_AT))
    if not found:
        return []
    texts = all(type(value) is str for value in found)
    if not texts and not all(type(value) in (int, float) for value in found):
        return []
    for kind in DETECTED:
        guesses = (kind.detect_texts if texts else kind.detect_numbers)(found, name, now)
        if guesses:
            return guesses
    return []
