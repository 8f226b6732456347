"""Sizes from which on the engine works in another way. Tests make them small."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class EngineTuning:
    """Sizes in bytes where nothing else is said.

    Attributes:
        most_body: a larger answer is not held in memory, and a compressed one swells no further.
        spooled_from: an answer that may be read piece by piece is put on disk from here on.
        most_spooled: the largest answer on disk.
        most_sheet: the largest file that is read as a sheet, and the longest table of one, as JSON.
        sheet_memory: what a file may take more while it is read.
        sheet_seconds: how long it may take, in seconds.
        cached_from: answers of a run whose records stay cached for another reading.
    """

    most_body: int = 256 * 2**20
    spooled_from: int = 64 * 2**20
    most_spooled: int = 4 * 2**30
    most_sheet: int = 512 * 2**20
    sheet_memory: int = 2**30
    sheet_seconds: float = 60.0
    cached_from: int = 500_000


USUAL = EngineTuning()
