"""Ordered lists of row ids as small byte strings: whole, or by what they share with another list.

A whole list is its differences, in little-endian 64-bit whole numbers laid out byte by byte, compressed. A list
told by another one (its base) is two bitmaps — which ids of the base are kept, in their order, and where between
them ids of its own stand — and those own ids. That form is only used when it gives the list back exactly.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import zstandard

from tin_bucket.core.analysis.compare import difference
from tin_bucket.core.table.row_expansion import Ints

Bytes = np.ndarray[tuple[int], np.dtype[np.uint8]]
_WHOLE, _SHARED = b"W", b"S"


def encode(ids: Ints, base: Ints | None) -> bytes:
    """Write a list; with a base, the smaller of the two forms.

    Args:
        ids: shape (rows,), any order, repeats allowed.
        base: the list to encode it against, shape (base rows,).
    """
    whole = _WHOLE + _pack_ints(ids)
    if base is None or not len(base) or not len(ids):
        return whole
    split = difference(base, ids)
    kept = np.ones(len(base), dtype=bool)
    kept[split.only_then] = False
    own = np.zeros(len(ids), dtype=bool)
    own[split.only_now] = True
    if not np.array_equal(base[kept], ids[~own]):
        return whole  # The kept rows changed their order.
    parts = [_pack_bits(kept), _pack_bits(own), _pack_ints(ids[own])]
    shared = _SHARED + np.array([len(ids), *map(len, parts)], dtype="<i8").tobytes() + b"".join(parts)
    return shared if len(shared) < len(whole) else whole


def is_shared(data: bytes) -> bool:
    """Whether a written list is encoded against its base."""
    return data[:1] == _SHARED


def decode(data: bytes, base: Ints | None) -> Ints:
    """Read a list that :func:`encode` wrote with the same base. Returns shape (rows,)."""
    if data[:1] == _WHOLE:
        return _unpack_ints(data[1:])
    assert base is not None
    head = np.frombuffer(data[1:33], dtype="<i8")
    rows, sizes = int(head[0]), head[1:].tolist()
    first, second = 33 + sizes[0], 33 + sizes[0] + sizes[1]
    kept = _unpack_bits(data[33:first], len(base))
    own = _unpack_bits(data[first:second], rows)
    ids = np.empty(rows, dtype=np.int64)
    ids[own] = _unpack_ints(data[second:])
    ids[~own] = base[kept]
    return ids


@dataclass(frozen=True, slots=True)
class SharedList:
    """A list that is told by its base, unpacked so far that rows can be followed through it.

    Attributes:
        kept: a bit for each id of the base, the first one highest. Shape (base rows / 8,).
        own: where ids of its own stand, ascending. Shape (own,).
        own_ids: these ids. Shape (own,).
    """

    kept: Bytes
    own: Ints
    own_ids: Ints

    @property
    def size(self) -> int:
        """Bytes that it takes up in memory."""
        return self.kept.nbytes + self.own.nbytes + self.own_ids.nbytes


def shared(data: bytes) -> SharedList:
    """Unpack a list that is encoded against its base."""
    sizes = np.frombuffer(data[9:33], dtype="<i8").tolist()
    first, second = 33 + sizes[0], 33 + sizes[0] + sizes[1]
    return SharedList(_unpack(data[33:first]), _set_bits(_unpack(data[first:second])), _unpack_ints(data[second:]))


def follow(one: SharedList, places: Ints, held: Ints, wanted: Ints) -> tuple[Ints, Ints]:
    """Where a few rows stand in a list that is told by its base, found without the whole list.

    Args:
        places, held: where these rows stand in the base, and their ids.
        wanted: the ids that are looked for.

    Returns:
        Their positions in the list, ascending, and their ids.
    """
    kept, own, own_ids = one.kept, one.own, one.own_ids
    came = np.zeros(len(own_ids), dtype=bool)
    for row_id in wanted.tolist():
        came |= own_ids == row_id
    out = list(zip(own[came].tolist(), own_ids[came].tolist(), strict=True))
    # How many rows of the base stand before each own one.
    before = own - np.arange(len(own))
    for place, row_id in zip(places.tolist(), held.tolist(), strict=True):
        byte, bit = divmod(place, 8)
        if not int(kept[byte]) >> (7 - bit) & 1:
            continue
        rank = int(np.bitwise_count(kept[:byte]).sum(dtype=np.int64)) + (int(kept[byte]) >> (8 - bit)).bit_count()
        out.append((rank + int(np.searchsorted(before, rank, side="right")), row_id))
    found = np.array(sorted(out), dtype=np.int64).reshape(-1, 2)
    return found[:, 0], found[:, 1]


def pack_columns(columns: list[Ints | None]) -> bytes:
    """Several lists of whole numbers of any length as one byte string."""
    parts = [b"" if column is None else _pack_ints(column) for column in columns]
    return np.array([len(part) for part in parts], dtype="<i8").tobytes() + b"".join(parts)


def unpack_columns(data: bytes) -> list[Ints | None]:
    """The lists that :func:`pack_columns` wrote."""
    # Only the true number of sizes adds up to the whole.
    count, total = 0, 0
    while 8 * count + total != len(data):
        total += int(np.frombuffer(data[8 * count : 8 * count + 8], dtype="<i8")[0])
        count += 1
    out: list[Ints | None] = []
    at = 8 * count
    for size in np.frombuffer(data[: 8 * count], dtype="<i8").tolist():
        out.append(_unpack_ints(data[at : at + size]) if size else None)
        at += size
    return out


def _pack_ints(values: Ints) -> bytes:
    # Differences of neighbours are mostly 1; with equal bytes side by side they compress to almost nothing.
    steps = np.diff(values, prepend=0).astype("<i8")
    planes = steps.view(np.uint8).reshape(-1, 8).T
    return zstandard.ZstdCompressor(level=3).compress(np.ascontiguousarray(planes).tobytes())


def _unpack_ints(data: bytes) -> Ints:
    raw = zstandard.ZstdDecompressor().decompress(data)
    planes = np.frombuffer(raw, dtype=np.uint8).reshape(8, -1).T
    steps = np.ascontiguousarray(planes).view("<i8").reshape(-1)
    return np.cumsum(steps, dtype=np.int64)


def _pack_bits(mask: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> bytes:
    return zstandard.ZstdCompressor(level=3).compress(np.packbits(mask).tobytes())


def _unpack_bits(data: bytes, count: int) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    return np.unpackbits(_unpack(data), count=count).view(bool)


def _unpack(data: bytes) -> Bytes:
    return np.frombuffer(zstandard.ZstdDecompressor().decompress(data), dtype=np.uint8)


def _set_bits(packed: Bytes) -> Ints:
    """The places of the bits that are set, of which there are few. Shape (set,)."""
    some = np.flatnonzero(packed != 0)
    found = np.flatnonzero(np.unpackbits(packed[some]).view(bool))
    out: Ints = (some[found >> 3] * 8 + (found & 7)).astype(np.int64)
    return out
