"""Which rows an answer brings, held against those of the first one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.formats.json import json_bytes
from tin_bucket.core.formats.jsonpath import format_place
from tin_bucket.core.pagination.members import flat_name

_KEYS = ("id", "key", "code", "uuid", "number", "no", "name")


@dataclass(frozen=True, slots=True)
class Sight:
    """What an answer brings.

    Attributes:
        count: how many rows.
        start: the place of its first row among the rows of the first answer; ``None`` when it is none of them.
        known: how many of its rows are among those of the first answer.
        in_order: whether those that are known follow each other as they did there.
        again: whether they are the rows that were seen behind the first page; ``None`` before any were.
        same_count: whether they are as many as those.
    """

    count: int
    start: int | None
    known: int
    in_order: bool
    again: bool | None = None
    same_count: bool = False


class FirstRows:
    """The rows of the first answer, told apart by an id of theirs where they have one."""

    def __init__(self, records: Sequence[Any]) -> None:
        self.records = records
        self.count = len(records)
        self.key = key_of(records)
        self._ids = [self._id(record) for record in records]
        self._at = {one: at for at, one in reversed(list(enumerate(self._ids)))}
        self._second: list[bytes] = []

    @property
    def distinct(self) -> bool:
        """Whether no two of them are alike, so that places can be told."""
        return len(self._at) == self.count

    def sight(self, records: Sequence[Any], size: int) -> Sight:
        """Hold an answer against the first one.

        Args:
            records: its records.
            size: how many items it has, before a condition left some out.
        """
        ids = [self._id(record) for record in records]
        places = [self._at.get(one) for one in ids]
        known = [place for place in places if place is not None]
        start = places[0] if places else None
        order = [None if start is None or start + at >= self.count else start + at for at in range(len(places))]
        in_order = places == order if start is not None else not known
        least = min(len(ids), len(self._second))
        again = bool(ids) and ids[:least] == self._second[:least] if self._second else None
        same_count = len(ids) == len(self._second)
        if ids and not known and not self._second:
            self._second = ids
        return Sight(size, start, len(known), in_order, again, same_count)

    def _id(self, record: Any) -> bytes:
        key, value = self.key, record
        if isinstance(key, str) and isinstance(record, dict):
            value = record.get(key)
        elif isinstance(key, int) and isinstance(record, list) and key < len(record):
            value = record[key]
        return json_bytes(value)


def key_of(records: Sequence[Any]) -> str | int | None:
    """The member that tells the records apart: different in each of them, and called like an id; of lists the first
    item, where it does."""
    if records and all(isinstance(record, list) and record for record in records):
        return 0 if _differ([record[0] for record in records]) else None
    if not records or not all(isinstance(record, dict) for record in records):
        return None
    names = [name for name in records[0] if isinstance(name, str)]
    likely = sorted(
        (name for name in names if flat_name(name) in _KEYS or flat_name(name).endswith(("id", "code", "key"))),
        key=lambda name: (_KEYS.index(flat_name(name)) if flat_name(name) in _KEYS else len(_KEYS), names.index(name)),
    )
    for name in likely:
        if _differ([record.get(name) for record in records]):
            return name
    return None


def _differ(values: Sequence[Any]) -> bool:
    plain = all(isinstance(value, str | int) and not isinstance(value, bool) for value in values)
    return plain and len({json_bytes(value) for value in values}) == len(values)


def place_of(key: str | int) -> str:
    """The place of a member in its record."""
    return format_place((key,))
