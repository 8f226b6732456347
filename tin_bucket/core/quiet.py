"""Pausing Python's cycle collector while many values are made: parsed JSON holds no cycles, and looking for them
costs more than the parsing."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def collector_paused() -> Iterator[None]:
    """No cycle collection inside the block; it goes on behind it if it was on before."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()
