"""Texts that stand where there is no value: declared by a person, and proposed where they are seen."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from .compressed import Packed

# What tables of many sources write for “no value”. None of them is read as empty unasked.
_LIKELY = frozenset(
    {
        "-", "--", "---", "–", "—", ".", "..", "...", "…", "?", "n/a", "na", "n.a.", "n.a", "#n/a", "#na",
        "nan", "null", "none", "nil", "(null)", "<null>", "(none)", "missing", "unknown", "k.a.", "s.d.",
        "not available", "not-available", "no data", "no value", "not known",
    }
)  # fmt: skip


def is_likely_empty(text: str) -> bool:
    """Whether a text says, in many tables, that there is no value."""
    return text.strip().casefold() in _LIKELY


def without(values: list[Any] | Packed, empty: Sequence[str]) -> list[Any] | Packed:
    """The values with nothing in the place of the texts that mean so, whatever spaces are around them."""
    meant = {text.strip() for text in empty}

    def cleared(some: Iterable[Any]) -> list[Any]:
        return [None if type(value) is str and value.strip() in meant else value for value in some]

    if isinstance(values, Packed):
        made = Packed(stretch=values.stretch)
        for start in range(0, len(values), 4_096):
            made.extend(cleared(values[start : start + 4_096]))
        return made
    return cleared(values)
