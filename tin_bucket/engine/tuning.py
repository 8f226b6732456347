"""Sizes from which on the engine works in another way. Tests make them small."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class EngineTuning:
    """Sizes in bytes.

    Attributes:
        most_body: a larger answer is not held in memory, and a compressed one swells no further.
        spooled_from: an answer that may be read piece by piece is put on disk from here on.
        most_spooled: the largest answer on disk.
        cached_from: answers of a run whose records stay cached for another reading.
    """

    most_body: int = 256 * 2**20
    spooled_from: int = 64 * 2**20
    most_spooled: int = 4 * 2**30
    cached_from: int = 500_000


USUAL = EngineTuning()
