"""Pausing Python's cycle collector while many values are made: parsed JSON holds no cycles, and looking for them
costs more than the parsing."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager

_YOUNG = 50_000  # Objects made since the last collection before there is another.


@contextmanager
def collector_paused() -> Iterator[None]:
    """No cycle collection inside the block; it is enabled behind it if it was before."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def collect_rarely() -> None:
    """Let the cycle collector look at young objects less often: a page of records alone makes thousands, and none of
    them is part of a cycle."""
    if gc.get_threshold()[0] < _YOUNG:
        gc.set_threshold(_YOUNG, 20, 20)
