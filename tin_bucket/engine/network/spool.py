"""A body on disk: what an answer that is too large to hold is put into while it comes."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator

_PART = 2**20


class Spool:
    """A temporary file that goes when it is closed. Read by one reader at a time."""

    def __init__(self, first: Iterable[bytes]) -> None:
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 its reader closes it
        self._file.writelines(first)

    def write(self, part: bytes) -> None:
        """Append a part."""
        self._file.write(part)

    def parts(self) -> Iterator[bytes]:
        """Its bytes, from the start."""
        self._file.seek(0)
        while part := self._file.read(_PART):
            yield part

    @property
    def size(self) -> int:
        """How many bytes there are."""
        self._file.seek(0, 2)
        return self._file.tell()

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()
