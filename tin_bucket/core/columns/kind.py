"""An entry of the registry of column kinds."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from .reads import Reads
from .reduction import text_of

MOST_LOOKED_AT = 20_000
UNFIT = (ValueError, OverflowError, OSError, TypeError)  # What a conversion raises for a value that does not fit.
Convert = Callable[[Any], Any]


@dataclass(frozen=True, slots=True)
class TypeGuess:
    """What a column's values may mean.

    Attributes:
        kind: the kind that they would be turned into.
        reads: how.
        evidence: why, in words.
        example: a value before and after.
    """

    kind: str
    reads: Reads | None
    evidence: str
    example: tuple[str, str]


def no_own_way(reads: Reads) -> Convert | None:
    """The converter of a kind that has one way to read."""
    return None


def nothing_detected(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    """The detector of a kind that values are never taken for."""
    return []


Detect = Callable[[list[Any], str, datetime], list[TypeGuess]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnKind:
    """A kind of values.

    Attributes:
        name: what the brief calls it.
        label: what it is called where one is chosen; empty for one that is not offered.
        convert: turns one value into it in the usual way; raises one of :data:`UNFIT` for a value that does not fit.
        converter: turns one value into it as :class:`Reads` says; ``None`` where that is the usual way.
        at_once: turns many values at once, ``None`` where that cannot be; for a converter of its own.
        of_types: sets of JSON types that make a column of this kind by themselves.
        pattern: what all texts of a column look like that is of this kind by itself.
        read_with: the members of :class:`Reads` that matter.
        numeric: whether its values are numbers, which stand at the right and are compared as numbers.
        temporal: whether its values are ISO 8601 texts.
        sort_key: how its texts are ordered, where that is not by the alphabet.
        sheet_format: the number format of its cells in a workbook (ECMA-376 Part 1 §18.8.31).
        detect_texts, detect_numbers: what texts, or numbers, may mean: the guesses for this kind.
    """

    name: str
    label: str
    convert: Convert
    converter: Callable[[Reads], Convert | None] = no_own_way
    at_once: Callable[[Convert], Callable[[list[Any]], list[Any] | None] | None] = lambda convert: None
    of_types: tuple[frozenset[type], ...] = ()
    pattern: re.Pattern[str] | None = None
    read_with: tuple[str, ...] = ()
    numeric: bool = False
    temporal: bool = False
    sort_key: Callable[[str], Any] | None = None
    sheet_format: str = ""
    detect_texts: Detect = nothing_detected
    detect_numbers: Detect = nothing_detected


def guessed(
    kind: str,
    convert: Convert,
    reads: Reads | None,
    values: list[Any],
    evidence: str,
    share: float = 1.0,
) -> TypeGuess | None:
    """The guess that values are of a kind, if (nearly) all fit.

    Args:
        convert: turns one value into the kind, as `reads` says.
        share: the part of the values that must fit.
    """
    fits, example = 0, None
    allowed = len(values) - int(len(values) * share)
    for at, value in enumerate(values):
        try:
            made = convert(value)
        except UNFIT:
            if at - fits + 1 > allowed:
                return None
            continue
        fits += 1
        example = example or (text_of(value), text_of(made))
    if example is None:
        return None
    missed = len(values) - fits
    told = evidence if not missed else f"{evidence}; {missed:,} of {len(values):,} do not fit and stay as they are"
    return TypeGuess(kind, reads, told, example)


def as_list(guess: TypeGuess | None) -> list[TypeGuess]:
    """A guess as a list; nothing as an empty one."""
    return [] if guess is None else [guess]
