"""Moments of time for formats whose cells have no zone: those of a column as they are in one zone, which is its first
one's."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime, timedelta, timezone, tzinfo
from typing import Any

_WITH_OFFSET = re.compile(r"\d[Tt ]\d\d.*(?:[Zz]|[+-]\d\d(?::?\d\d)?)$")


class ZonedColumn:
    """The moments of a column.

    Attributes:
        zone: the offset of the first moment that has one.
    """

    def __init__(self) -> None:
        self.zone: tzinfo | None = None

    def local(self, values: Sequence[Any]) -> Sequence[Any]:
        """Values whose moments are in the zone of the column, without an offset; what is no moment, or has no offset,
        stays as it is."""
        if not any(type(value) is str and value and (value[-1] in "Zz" or ":" in value) for value in values):
            return values
        return [self._local(value) if type(value) is str else value for value in values]

    def _local(self, text: str) -> str:
        if _WITH_OFFSET.search(text) is None:
            return text
        try:
            moment = datetime.fromisoformat(text)
        except ValueError:
            return text
        offset = moment.utcoffset()
        if offset is None:
            return text
        if self.zone is None:
            self.zone = timezone(offset)
        try:
            return moment.astimezone(self.zone).replace(tzinfo=None).isoformat(sep="T")
        except OverflowError:  # At the ends of the calendar.
            return text

    def minutes(self) -> int:
        """The zone in minutes east of UTC."""
        offset = self.zone.utcoffset(None) if self.zone is not None else None
        return (offset or timedelta(0)) // timedelta(minutes=1)

    def words(self) -> str:
        """How the zone is called: “UTC”, “UTC+01:00”; empty where no moment has one."""
        if self.zone is None:
            return ""
        offset = self.zone.utcoffset(None)
        if not offset:
            return "UTC"
        sign, size = ("−", -offset) if offset < timedelta(0) else ("+", offset)
        minutes = size // timedelta(minutes=1)
        return f"UTC{sign}{minutes // 60:02}:{minutes % 60:02}"
