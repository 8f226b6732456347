"""Answers that are written while they are sent: one thread writes, the loop sends, and neither runs far ahead."""

from __future__ import annotations

import asyncio
import io
import queue
import threading
from collections.abc import AsyncIterator, Callable
from typing import Any

_AHEAD = 8  # Pieces that are written before they are sent.
_FIRST, _PIECE = 1 << 10, 1 << 18  # Bytes of the first piece, which is sent at once, and of the others.


class _Gone(Exception):
    """Nobody reads any more."""


class _Out(io.RawIOBase):
    """A file that is written from the beginning to the end; its pieces go to a queue."""

    def __init__(self, pieces: queue.Queue[Any], gone: threading.Event) -> None:
        self._pieces, self._gone = pieces, gone
        self._held = bytearray()
        self._most = _FIRST

    def writable(self) -> bool:
        """It is."""
        return True

    def write(self, data: Any) -> int:
        """Take some bytes."""
        self._held += data
        if len(self._held) >= self._most:
            self.pass_on()
            self._most = _PIECE
        return len(data)

    def pass_on(self) -> None:
        """Send what is held."""
        if self._held:
            self.put(bytes(self._held))
            self._held = bytearray()

    def put(self, piece: Any) -> None:
        while not self._gone.is_set():
            try:
                self._pieces.put(piece, timeout=0.5)
                return
            except queue.Full:
                continue
        raise _Gone


async def streamed(write: Callable[[Any], object]) -> AsyncIterator[bytes]:
    """What a function writes into a file, in a thread of its own, which stays the same for all of it.

    Raises:
        Exception: what `write` raises.
    """
    pieces: queue.Queue[Any] = queue.Queue(_AHEAD)
    gone = threading.Event()
    out = _Out(pieces, gone)

    def work() -> None:
        try:
            try:
                write(out)
                out.pass_on()
                out.put(None)
            except Exception as error:
                out.put(error)
        except _Gone:
            return

    threading.Thread(target=work, daemon=True).start()
    try:
        while True:
            piece = await asyncio.to_thread(pieces.get)
            if piece is None:
                return
            if isinstance(piece, BaseException):
                raise piece
            yield piece
    finally:
        gone.set()


async def begun(pieces: AsyncIterator[bytes]) -> AsyncIterator[bytes]:
    """The same pieces, when the first of them is there: so what is wrong is said before an answer begins."""
    first = await anext(pieces, b"")

    async def all_of_them() -> AsyncIterator[bytes]:
        if first:
            yield first
        async for piece in pieces:
            yield piece

    return all_of_them()
