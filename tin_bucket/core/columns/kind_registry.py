"""The registry of column kinds: what a column's values are, and turning them into another kind when asked.

A value that does not fit the wanted kind stays as it came and is counted; it is never dropped. A further kind is a file
in ``kinds`` and a line here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any, Literal

from .compressed import Packed
from .empties import without
from .kind import UNFIT, ColumnKind, Convert
from .kinds import date, decimal, json, moment, text, whole_number, yes_no
from .missing import Miss
from .reads import Reads

# In the order in which they are offered.
KINDS: tuple[ColumnKind, ...] = (
    text.KIND,
    whole_number.KIND,
    decimal.KIND,
    yes_no.KIND,
    date.KIND,
    moment.KIND,
    json.KIND,
)
# In the order in which values are taken for them.
DETECTED = (moment.KIND, yes_no.KIND, date.KIND, decimal.KIND)
_BY_NAME = {kind.name: kind for kind in KINDS}
_BY_TYPES = {types: kind.name for kind in KINDS for types in kind.of_types}
_BY_PATTERN = [(kind.name, kind.pattern) for kind in KINDS if kind.pattern is not None]
NOTHING = type(None)

if TYPE_CHECKING:
    Kind = str
else:
    Kind = Literal[tuple(_BY_NAME)]


def kind_of(name: str) -> ColumnKind:
    """The entry of a kind."""
    return _BY_NAME[name]


def guess_kind(values: list[Any] | Packed, types: frozenset[type] | None = None) -> str:
    """The kind of a column by the JSON types of all its values. Texts stay text, whatever they look like, but for
    dates of ISO 8601, which are recognised and left unchanged.

    Args:
        types: the types of the values, where they are known.
    """
    if types is None:
        types = frozenset(values.all_types() if isinstance(values, Packed) else set(map(type, values)))
    types = frozenset(types - {NOTHING, Miss})
    if types == {str}:
        return _text_kind(values)
    return _BY_TYPES.get(types, "text")


def _text_kind(values: Iterable[Any]) -> str:
    """Whether all texts look like one of the kinds with a pattern. The first one says at once that most are not."""
    kind, pattern = "text", None
    for value in values:
        if type(value) is not str:
            continue
        if pattern is None:
            kind, pattern = next((pair for pair in _BY_PATTERN if pair[1].fullmatch(value)), ("text", None))
            if pattern is None:
                return "text"
        elif pattern.fullmatch(value) is None:
            return "text"
    return kind


def convert(values: list[Any] | Packed, kind: str, reads: Reads | None = None) -> tuple[list[Any] | Packed, int]:
    """Turn values into a kind.

    Args:
        reads: how they are read; the usual way when absent.

    Returns:
        The new values and how many did not fit (those stay as they came).
    """
    if reads is not None and reads.empty:
        values = without(values, reads.empty)
    one = converter(kind, reads)
    at_once = kind_of(kind).at_once(one)
    if isinstance(values, Packed):
        made, unfit = Packed(stretch=values.stretch), 0
        for start in range(0, len(values), 4_096):
            some, wrong = _converted(values[start : start + 4_096], one, at_once)
            made.extend(some)
            unfit += wrong
        return made, unfit
    return _converted(values, one, at_once)


def _converted(
    values: list[Any], one: Callable[[Any], Any], at_once: Callable[[list[Any]], list[Any] | None] | None = None
) -> tuple[list[Any], int]:
    made = at_once(values) if at_once is not None else None
    if made is not None:
        return made, 0
    if Miss not in set(map(type, values)):
        try:
            # As a rule all values fit.
            return [None if value is None else one(value) for value in values], 0
        except UNFIT:
            pass
    out: list[Any] = []
    unfit = 0
    for value in values:
        if value is None or type(value) is Miss:
            out.append(value)
            continue
        try:
            out.append(one(value))
        except UNFIT:
            out.append(value)
            unfit += 1
    return out, unfit


def converter(kind: str, reads: Reads | None = None) -> Convert:
    """A function that turns one value into a kind; it raises ``ValueError`` for one that does not fit."""
    entry = kind_of(kind)
    return (entry.converter(reads) if reads is not None else None) or entry.convert
