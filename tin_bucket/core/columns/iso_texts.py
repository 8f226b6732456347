"""Dates and moments that are all written alike (ISO 8601): read as one array."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

import numpy as np
import numpy.typing as npt

DAY = 10
"""Characters of a day."""
# What stands between the digits, by its place; the time may begin with any sign.
_BETWEEN = {4: "-", 7: "-", 10: "", 13: ":", 16: ":"}
_SECONDS = 19  # Characters of a moment with seconds, without what says its time zone.


def days_alike(values: Sequence[Any]) -> npt.NDArray[np.datetime64] | None:
    """The days of texts that are all days, or that all begin with one and go on with a time alike; nothing for others.
    Shape (values,), in days."""
    found = _characters(values)
    if found is None or found.shape[1] not in (DAY, _SECONDS, _SECONDS + 6):
        return None
    try:
        days = _read(found[:, :DAY], "D")
        if found.shape[1] > DAY:
            _read(found[:, :_SECONDS], "s")  # What is no moment is told as odd.
            for zone in np.unique(_texts(found[:, _SECONDS:])).tolist() if found.shape[1] > _SECONDS else ():
                datetime.fromisoformat(f"2000-01-01T00:00:00{zone.decode()}")
    except ValueError:
        return None
    return days


def moments_alike(values: Sequence[Any]) -> tuple[npt.NDArray[np.datetime64], float] | None:
    """Texts that are all days, or moments with seconds and one offset, as they are written; and the offset in seconds;
    nothing for others. Days have none, and are in UTC. Shape (values,), in seconds."""
    found = _characters(values)
    if found is None or found.shape[1] not in (DAY, _SECONDS + 6):
        return None
    try:
        if found.shape[1] == DAY:
            return _read(found, "D").astype("datetime64[s]"), 0.0
        if (found[:, _SECONDS:] != found[0, _SECONDS:]).any():
            return None
        offset = datetime.fromisoformat(values[0]).utcoffset()
        if offset is None:
            return None
        return _read(found[:, :_SECONDS], "s"), offset.total_seconds()
    except ValueError:
        return None


def _characters(values: Sequence[Any]) -> npt.NDArray[np.bytes_] | None:
    """The characters of texts that are all of one length and of ASCII. Shape (values, length)."""
    if not len(values) or set(map(type, values)) != {str}:
        return None
    length = len(values[0])
    if not DAY <= length <= _SECONDS + 6 or set(map(len, values)) != {length}:
        return None
    joined = "".join(values)
    if not joined.isascii():
        return None
    return np.frombuffer(joined.encode(), dtype="S1").reshape(-1, length)


def _texts(characters: npt.NDArray[np.bytes_]) -> npt.NDArray[np.bytes_]:
    """The characters of each row as a text. Shape (rows,)."""
    return np.ascontiguousarray(characters).view(f"S{characters.shape[1]}")[:, 0]


def _read(characters: npt.NDArray[np.bytes_], unit: str) -> npt.NDArray[np.datetime64]:
    """
    Raises:
        ValueError: for what is none, such as a day of a month that has fewer.
    """
    # NumPy reads more than ISO 8601 writes: signs, names such as “today”, the year 0.
    codes = np.ascontiguousarray(characters).view(np.uint8)
    digits = codes[:, [at for at in range(codes.shape[1]) if at not in _BETWEEN]]
    alike = (digits >= ord("0")) & (digits <= ord("9"))
    marks = [codes[:, at] == ord(mark) for at, mark in _BETWEEN.items() if at < codes.shape[1] and mark]
    if not alike.all() or not all(found.all() for found in marks) or (codes[:, :4] == ord("0")).all(axis=1).any():
        raise ValueError("written in another way")
    return _texts(characters).astype(f"datetime64[{unit}]")
