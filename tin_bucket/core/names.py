"""Names that are free: the first of “x”, “x 2”, “x 3” … that nothing else has."""

from __future__ import annotations


def free_name(name: str, taken: set[str]) -> str:
    """The name, or the name with a number behind it when it is taken, in any case of letters."""
    lower = {one.lower() for one in taken}
    free, number = name, 2
    while free.lower() in lower:
        free, number = f"{name} {number}", number + 1
    return free
