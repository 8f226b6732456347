"""Column kinds: what a column's values are, and turning them into another kind when asked.

A value that does not fit the wanted kind stays as it came and is counted; it is never dropped.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Miss:
    """A cell whose lookup gave nothing. `words` is for people; `reason` is ``none`` (no such thing),
    ``failed``, or ``unasked`` (no call was made for it yet)."""

    reason: str
    words: str
