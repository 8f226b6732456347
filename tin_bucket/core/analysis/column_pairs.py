"""Which column of one table is which column of another: by name, by place in the answers, by hand; and which look as
if they were the same under another name."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.alike.judge import same_value
from tin_bucket.core.alike.rule import number_of
from tin_bucket.core.table.table import TableColumn

LIKELY = 0.8  # Share of equal values from which two columns look the same.
_NUMBERS = {"whole number", "decimal"}
FOUND = 0.6  # Share of values of a column that are found in another from which the two may be one.
_SMALL = 1_000
_FEWEST = 3  # Values that say something.


@dataclass(frozen=True, slots=True)
class LikelyPair:
    """Two columns of different names that hold the same values.

    Attributes:
        then, now: their names.
        equal: in how many of the rows that both tables have their values are equal; where they have none together, how
            many values of the one are found in the other.
        compared: in how many rows at least one of them has a value; or how many values were looked for.
        in_rows: whether rows were laid beside each other.
    """

    then: str
    now: str
    equal: int
    compared: int
    in_rows: bool = True


def renamed(
    then: Sequence[TableColumn], now: Sequence[TableColumn], by_hand: Mapping[str, str] | None = None
) -> dict[str, str]:
    """Older columns that have another name in the newer table: those that are paired by hand, and those that are taken
    from the same place (RFC 9535) of the same source while their own names are gone and new.

    Args:
        by_hand: name in the older table → name in the newer one; pairs of columns that are not there are left out.
    """
    old_names, new_names = {one.name for one in then}, {one.name for one in now}
    out = {
        old: new
        for old, new in (by_hand or {}).items()
        if old != new and old in old_names and new in new_names and new not in old_names
    }
    taken = set(out.values())
    gone = [one for one in then if one.name not in new_names and one.name not in out]
    places: dict[tuple[str, str], list[str]] = {}
    for one in now:
        if one.name not in old_names and one.name not in taken and one.place:
            places.setdefault((one.origin, one.place), []).append(one.name)
    for one in gone:
        found = places.get((one.origin, one.place), [])
        alike = [other for other in gone if (other.origin, other.place) == (one.origin, one.place)]
        # Of one place several columns may be made, and which is which is not known then.
        if one.place and len(found) == 1 and len(alike) == 1:
            out[one.name] = found[0]
    return out


def likely_pairs(then: Mapping[str, Sequence[Any]], now: Mapping[str, Sequence[Any]]) -> list[LikelyPair]:
    """Which columns that went and which that came hold the same values; each is in one pair, the surest first.

    Args:
        then, now: the values of these columns in rows that both tables have, in the same order.
    """
    found = []
    for old, before in then.items():
        for new, after in now.items():
            pairs = [(a, b) for a, b in zip(before, after, strict=True) if a is not None or b is not None]
            equal = sum(same_value(a, b) for a, b in pairs)
            if len(pairs) >= _FEWEST and equal >= LIKELY * len(pairs) and len({repr(a) for a, _ in pairs}) > 1:
                found.append(LikelyPair(old, new, equal, len(pairs)))
    return _each_once(found)


def _each_once(found: list[LikelyPair]) -> list[LikelyPair]:
    out: list[LikelyPair] = []
    for one in sorted(found, key=lambda pair: (-pair.equal / pair.compared, -pair.compared, pair.then, pair.now)):
        if all(one.then != other.then and one.now != other.now for other in out):
            out.append(one)
    return out


def pairs_by_values(
    then: Mapping[str, Sequence[Any]], now: Mapping[str, Sequence[Any]], most: int = 2_000
) -> list[LikelyPair]:
    """Which columns that went and that came have values in common, where no row of the two tables is known to be the
    same: most of the values of the one are found in the other.

    Args:
        then, now: all values of these columns.
        most: how many values are looked for.
    """
    old_sets, new_sets = ({name: _told(values) for name, values in side.items()} for side in (then, now))
    found = []
    for old, before in old_sets.items():
        for new, after in new_sets.items():
            fewer, more = (before, after) if len(before) <= len(after) else (after, before)
            looked = sorted(fewer)[:most]
            equal = sum(value in more for value in looked)
            if len(looked) >= _FEWEST and equal >= FOUND * len(looked):
                found.append(LikelyPair(old, new, equal, len(looked), in_rows=False))
    return _each_once(found)


def _told(values: Sequence[Any]) -> set[str]:
    """The distinct values as texts; small numbers and yes and no are in every table and say nothing."""
    return {str(value) for value in values if (isinstance(value, str) and value) or abs(number_of(value) or 0) > _SMALL}


def other_kinds(then: Sequence[TableColumn], now: Sequence[TableColumn]) -> list[tuple[str, str, str]]:
    """The columns of both that are of another kind now: name, kind then, kind now. A number is a number, with decimals
    and without."""
    before = {one.name: one.kind for one in then}
    return [
        (one.name, before[one.name], one.kind)
        for one in now
        if before.get(one.name, one.kind) != one.kind and {before[one.name], one.kind} != _NUMBERS
    ]
