"""Sizes from which on tables are stored in another way. Tests make them small."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class StoreTuning:
    """Numbers of rows.

    Attributes:
        long_from: a table is stored part by part from here on.
        part: rows of a part.
        copied_from: a table's columns are copied from here on; fewer are read from their rows quickly enough.
    """

    long_from: int = 150_000
    part: int = 2_048
    copied_from: int = 300_000


USUAL = StoreTuning()
