"""The locks of a workspace's folder: each process holds one by its name, the one that serves another.

A lock ends with its process, however it ends (flock). Its file may outlive it.
"""

from __future__ import annotations

import fcntl
import os
import re
import time
from contextlib import suppress
from pathlib import Path
from typing import IO

LOCKS = "locks"
PROCESS = re.compile(r"process-([0-9a-f]+)\.lock")
_TRIES = 100
_PAUSE = 0.01  # Seconds; another process that looks at a lock holds it for less.


def process_lock(home: Path, process: str) -> Path:
    """The lock of a process."""
    return home / LOCKS / f"process-{process}.lock"


def hold(path: Path) -> IO[str] | None:
    """Hold a lock until the file is closed; ``None`` where another process holds it.

    Raises:
        OSError: the file cannot be made.
    """
    path.parent.mkdir(exist_ok=True, mode=0o700)
    for _ in range(_TRIES):
        handle = open(path, "a+", opener=_private)  # noqa: SIM115 held until the end
        if _locked(handle, fcntl.LOCK_EX):
            # Somebody may have deleted the file between the two steps; then the lock would be nobody's.
            with suppress(FileNotFoundError):
                if os.path.samestat(os.fstat(handle.fileno()), path.stat()):
                    return handle
        elif not PROCESS.fullmatch(path.name):
            handle.close()
            return None
        handle.close()
        time.sleep(_PAUSE)
    return None


def is_held(path: Path) -> bool:
    """Whether another process holds a lock."""
    try:
        with path.open("a+") as handle:
            return not _locked(handle, fcntl.LOCK_SH)
    except OSError:
        return False


def release_dead(path: Path) -> bool:
    """Delete the lock of a process that is gone; gives whether it was."""
    try:
        with path.open("a+") as handle:
            if not _locked(handle, fcntl.LOCK_EX):
                return False
            path.unlink(missing_ok=True)
            return True
    except OSError:
        return False


def _locked(handle: IO[str], how: int) -> bool:
    try:
        fcntl.flock(handle, how | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _private(path: str, flags: int) -> int:
    return os.open(path, flags, 0o600)
