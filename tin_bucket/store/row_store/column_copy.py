"""Copies of a long table's columns, so that it is sorted and filtered without reading its rows."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from itertools import chain
from typing import Any

import numpy as np
import orjson
import zstandard

from tin_bucket.core.table.table import Table

_STRETCH = 8_192
_MOST_BYTES = 256 * 2**20
_MOST_UNPACKED = 2**31


def pack_values(values: Sequence[Any], stretch: int = _STRETCH) -> bytes | None:
    """A column as stretches of JSON, each compressed; ``None`` when it has values that JSON does not hold as they are,
    or is too large."""
    compressor = zstandard.ZstdCompressor(level=1)
    parts: list[bytes] = []
    total = 0
    for start in range(0, len(values), stretch):
        try:
            text = orjson.dumps(values[start : start + stretch], option=orjson.OPT_PASSTHROUGH_DATACLASS)
        except TypeError:
            return None
        part = compressor.compress(text)
        # A copy, because the compressor's own bytes keep the room that the unpacked ones would have needed.
        parts.append(bytes(memoryview(part)))
        total += len(part)
        if total > _MOST_BYTES:
            return None
    sizes = np.array([len(parts), *map(len, parts)], dtype="<i8").tobytes()
    return sizes + b"".join(parts)


def unpack_values(data: bytes) -> list[Any]:
    """The column again."""
    out: list[Any] = []
    for stretch in _stretches(data):
        out += stretch
    return out


def _stretches(data: bytes) -> Iterator[list[Any]]:
    """The column, one stretch after the other."""
    return map(_unpack, _packed(data))


def _packed(data: bytes) -> Iterator[bytes]:
    """The stretches of a column as they are stored."""
    count = int(np.frombuffer(data[:8], dtype="<i8")[0])
    at = 8 + 8 * count
    for size in np.frombuffer(data[8:at], dtype="<i8").tolist():
        yield data[at : at + size]
        at += size


def _unpack(part: bytes) -> list[Any]:
    values: list[Any] = orjson.loads(zstandard.ZstdDecompressor().decompress(part, max_output_size=_MOST_UNPACKED))
    return values


def rows_of(db: sqlite3.Connection, snapshot_id: int, names: Sequence[str]) -> Iterator[tuple[Any, ...]] | None:
    """The rows of a table whose columns were all copied, in order, unpacked a stretch at a time; ``None`` where one was
    not."""
    packs = []
    for name in names:
        row = db.execute(
            "SELECT packs FROM column_copy WHERE snapshot_id = ? AND name = ?", (snapshot_id, name)
        ).fetchone()
        if row is None:
            return None
        packs.append(row["packs"])
    if not packs:
        return None
    stretches = zip(*map(_stretches, packs), strict=True)
    return chain.from_iterable(zip(*columns, strict=True) for columns in stretches)


def store(db: sqlite3.Connection, query_id: int, snapshot_id: int, table: Table, copied_from: int) -> None:
    """Copy a long table's columns, in the place of those of the query's other snapshots; inside the caller's
    transaction."""
    db.execute("DELETE FROM column_copy WHERE snapshot_id IN (SELECT id FROM snapshot WHERE query_id = ?)", (query_id,))
    if table.height < copied_from:
        return
    for column, values in zip(table.columns, table.data, strict=True):
        packs = pack_values(values)
        if packs is not None:
            db.execute("INSERT INTO column_copy VALUES (?, ?, ?)", (snapshot_id, column.name, packs))


def exists(db: sqlite3.Connection, snapshot_id: int, name: str) -> bool:
    """Whether a column was copied."""
    found = db.execute("SELECT 1 FROM column_copy WHERE snapshot_id = ? AND name = ?", (snapshot_id, name)).fetchone()
    return found is not None


def that_differ(
    db: sqlite3.Connection, one: tuple[int, str], other: tuple[int, str]
) -> Iterator[tuple[int, list[Any], list[Any]]] | None:
    """The stretches in which the copies of two columns of one length differ: where each begins, and its values in both.
    What is the same to the byte is not unpacked. ``None`` where one of them was not copied.

    Args:
        one, other: a snapshot, and the name of a column of it.
    """
    found = [
        db.execute("SELECT packs FROM column_copy WHERE snapshot_id = ? AND name = ?", place).fetchone()
        for place in (one, other)
    ]
    if any(row is None for row in found):
        return None
    return (
        (at * _STRETCH, _unpack(before), _unpack(after))
        for at, (before, after) in enumerate(zip(*(_packed(row["packs"]) for row in found), strict=True))
        if before != after
    )


def load(db: sqlite3.Connection, snapshot_id: int, name: str) -> list[Any] | None:
    """The values of a column that was copied, in the order of rows; ``None`` when it was not."""
    row = db.execute("SELECT packs FROM column_copy WHERE snapshot_id = ? AND name = ?", (snapshot_id, name)).fetchone()
    return None if row is None else unpack_values(row["packs"])
