"""Every row that was ever seen, once: as it was last, with when it was seen first and last."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np

from tin_bucket.core.table.row_expansion import Ints


@dataclass(frozen=True, slots=True)
class EverSeen:
    """The rows of many dates, each thing once.

    Attributes:
        last: for each thing the number of its newest row, in the order in which the things came. Shape (things,).
        first_date, last_date: the indices of the first and the last date that has it. Shape (things,).
        dates: on how many dates it is. Shape (things,).
        breaks: the indices of the dates that have no thing of the date before, though both have rows: what came and
            went between them was not seen.
    """

    last: Ints
    first_date: Ints
    last_date: Ints
    dates: Ints
    breaks: list[int]


def ever_seen(keys: Sequence[Hashable], heights: Sequence[int]) -> EverSeen:
    """Each thing once.

    Args:
        keys: what each row is known by, date after date, the oldest first.
        heights: how many rows each date has.
    """
    things: dict[Hashable, int] = {}
    last: list[int] = []
    first_date: list[int] = []
    last_date: list[int] = []
    dates: list[int] = []
    breaks: list[int] = []
    row, before = 0, 0
    for date, height in enumerate(heights):
        known = False
        for key in keys[row : row + height]:
            at = things.setdefault(key, len(last))
            if at == len(last):
                last.append(row)
                first_date.append(date)
                last_date.append(date)
                dates.append(1)
            else:
                if last_date[at] != date:
                    known = known or last_date[at] == date - 1
                    dates[at] += 1
                last[at], last_date[at] = row, date
            row += 1
        if date and height and before and not known:
            breaks.append(date)
        before = height
    return EverSeen(_ints(last), _ints(first_date), _ints(last_date), _ints(dates), breaks)


def _ints(values: list[int]) -> Ints:
    return np.array(values, dtype=np.int64)
