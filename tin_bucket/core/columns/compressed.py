"""A long column of plain values, kept small: full stretches are packed (Zstandard, RFC 8878) and unpacked when read."""

from __future__ import annotations

import marshal
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, overload

import zstandard

_MOST = 2**31


@dataclass(frozen=True, slots=True)
class TableTuning:
    """How a table is held while it is made. It changes speed and memory; the values are the same with any.

    Attributes:
        together: records flattened together: few enough for the processor's cache.
        packed_from: records from which on a table's columns are kept packed.
        stretch: values packed together.
    """

    together: int = 256
    packed_from: int = 150_000
    stretch: int = 4_096


USUAL = TableTuning()


class Packed(Sequence[Any]):
    """Values that are appended and read, most often from front to back: whatever JSON can hold."""

    __slots__ = ("_open", "_packs", "_tail", "stretch", "types")

    def __init__(self, values: Iterable[Any] = (), stretch: int = USUAL.stretch) -> None:
        """
        Args:
            stretch: how many values are packed together.
        """
        self.stretch = stretch
        self._packs: list[bytes] = []
        self._tail: list[Any] = []
        # The stretch that is unpacked now, with its number: replaced in one step, as several threads may read.
        self._open: tuple[int, list[Any]] = (-1, [])
        self.types: set[type] = set()
        self.extend(values)

    def extend(self, values: Iterable[Any]) -> None:
        """Append values."""
        self._tail.extend(values)
        if len(self._tail) < self.stretch:
            return
        waiting, at = self._tail, 0
        while len(waiting) - at >= self.stretch:
            full = waiting[at : at + self.stretch]
            at += self.stretch
            self.types.update(map(type, full))
            packed = zstandard.ZstdCompressor(level=1).compress(marshal.dumps(full))
            # A copy, because the compressor's own bytes keep the room that the unpacked ones would have needed.
            self._packs.append(bytes(memoryview(packed)))
        self._tail = waiting[at:]

    def _stretch(self, at: int) -> list[Any]:
        if at == len(self._packs):
            return self._tail
        unpacked = self._open
        if at != unpacked[0]:
            packed = zstandard.ZstdDecompressor().decompress(self._packs[at], max_output_size=_MOST)
            unpacked = self._open = at, marshal.loads(packed)
        return unpacked[1]

    def all_types(self) -> set[type]:
        """The types of all values."""
        return self.types | set(map(type, self._tail))

    def __len__(self) -> int:
        return len(self._packs) * self.stretch + len(self._tail)

    def __iter__(self) -> Iterator[Any]:
        for pack in self._packs:
            yield from marshal.loads(zstandard.ZstdDecompressor().decompress(pack, max_output_size=_MOST))
        yield from self._tail

    @overload
    def __getitem__(self, at: int) -> Any: ...
    @overload
    def __getitem__(self, at: slice) -> list[Any]: ...
    def __getitem__(self, at: int | slice) -> Any:
        if isinstance(at, slice):
            start, stop, step = at.indices(len(self))
            if step != 1:
                return [self[index] for index in range(start, stop, step)]
            out: list[Any] = []
            for stretch in range(start // self.stretch, -(-stop // self.stretch) if stop > start else 0):
                first = stretch * self.stretch
                out += self._stretch(stretch)[max(0, start - first) : stop - first]
            return out
        at = at + len(self) if at < 0 else at
        if not 0 <= at < len(self):
            raise IndexError(at)
        return self._stretch(at // self.stretch)[at % self.stretch]
