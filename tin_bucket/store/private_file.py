"""Small files that only their owner may read: written whole, or not at all."""

from __future__ import annotations

import os
import secrets
from contextlib import suppress
from pathlib import Path


def write_private(path: Path, content: bytes) -> None:
    """Write a new file of mode 0600 whatever the umask is; it appears under its name when its bytes are on the disk.

    Raises:
        FileExistsError: there is one.
        OSError: the disk does not take it; nothing is left of it.
    """
    beside = path.with_name(f".{path.name}.{secrets.token_hex(4)}")
    try:
        with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        os.link(beside, path)
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)


def replace_private(path: Path, content: bytes) -> None:
    """As :func:`write_private`, in place of the file that is there.

    Raises:
        OSError: the disk does not take it; what was there stays.
    """
    beside = path.with_name(f".{path.name}.{secrets.token_hex(4)}.new")
    write_private(beside, content)
    os.replace(beside, path)
