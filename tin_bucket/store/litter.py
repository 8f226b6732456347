"""What programs that were killed leave in a workspace's folder, and clearing it."""

from __future__ import annotations

import re
import time
from contextlib import suppress
from pathlib import Path

from .access import TOKEN_FILE
from .locks import LOCKS, PROCESS, release_dead
from .vault import KEY_FILE

_OWN = "|".join(map(re.escape, (KEY_FILE, TOKEN_FILE)))
_HALF_WRITTEN = re.compile(rf"\.({_OWN})\.[0-9a-f]+(\.new)?(\.[0-9a-f]+)?")
_AGE = 60.0  # Seconds: a file that is being written is younger.


def clear_litter(home: Path) -> int:
    """Delete the locks of processes that are gone and files that were never finished; gives how many."""
    cleared = 0
    with suppress(OSError):
        for path in list((home / LOCKS).iterdir()):
            if PROCESS.fullmatch(path.name):
                cleared += release_dead(path)
    with suppress(OSError):
        for path in list(home.iterdir()):
            if _HALF_WRITTEN.fullmatch(path.name) and time.time() - path.stat().st_mtime > _AGE:
                path.unlink(missing_ok=True)
                cleared += 1
    return cleared
