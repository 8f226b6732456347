"""The row store: each distinct row of a query's table once, known by an id."""

from __future__ import annotations

import hashlib
import itertools
import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np
import orjson

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import Table
from tin_bucket.gc_pause import collector_paused

GONE_DIGEST = 0  # Both halves of the digest of a row that was deleted; no content has it.
_CHUNK = 900  # Placeholders in one statement; every SQLite takes 999.


def _special(value: Any) -> Any:
    if isinstance(value, Miss):
        return {"miss": value.reason, "words": value.words}
    raise TypeError


def encode_row(values: Sequence[Any]) -> bytes:
    """A row as JSON text. A missed lookup is an object, which no other cell ever is."""
    try:
        return orjson.dumps(values, default=_special, option=orjson.OPT_PASSTHROUGH_DATACLASS)
    except TypeError:
        # Whole numbers over 64 bits, and lone surrogates, are beyond orjson; the space in front says so.
        return b" " + json.dumps(list(values), default=_special, separators=(",", ":")).encode()


def encode_rows(rows: Iterable[Sequence[Any]]) -> list[bytes]:
    """Many rows; the usual ones without a call of our own for each."""
    rows = list(rows)
    dumps, option = orjson.dumps, orjson.OPT_PASSTHROUGH_DATACLASS
    try:
        return [dumps(row, _special, option) for row in rows]
    except TypeError:
        return [encode_row(row) for row in rows]


def encode_columns(columns: Sequence[Sequence[Any]], height: int, part: int) -> list[bytes]:
    """The rows of a table, given by its columns, encoded.

    Args:
        height: how many rows there are.
        part: how many are encoded together.
    """
    out: list[bytes] = []
    for encoded in _encoded(columns, height, part):
        # Copies, because the encoder's own bytes keep ten times the room that they need.
        out += [bytes(memoryview(one)) for one in encoded]
    return out


def decode_row(content: bytes) -> tuple[Any, ...]:
    """The row's values in the order of its layout."""
    values = json.loads(content) if content.startswith(b" ") else orjson.loads(content)
    if b'{"miss":' in content:
        values = [Miss(cell["miss"], cell["words"]) if type(cell) is dict else cell for cell in values]
    return tuple(values)


def decode_rows(contents: list[bytes]) -> list[tuple[Any, ...]]:
    """As :func:`decode_row`, of many rows; the usual ones in one call."""
    joined = b",".join(contents)
    # Neither stands in a row of the usual kind but in a text, where nothing is lost but time.
    if joined.startswith(b" ") or b", [" in joined or b'{"miss":' in joined:
        return [decode_row(content) for content in contents]
    return list(map(tuple, orjson.loads(b"[" + joined + b"]")))


def layout_id(db: sqlite3.Connection, names: Iterable[str]) -> int:
    """The id of a set of column names, whatever their order; made when it is new."""
    text = json.dumps(sorted(names))
    db.execute("INSERT OR IGNORE INTO layout (names) VALUES (?)", (text,))
    return int(db.execute("SELECT id FROM layout WHERE names = ?", (text,)).fetchone()[0])


def layout_names(db: sqlite3.Connection, layout: int) -> list[str]:
    """The sorted names of a layout."""
    names: list[str] = json.loads(db.execute("SELECT names FROM layout WHERE id = ?", (layout,)).fetchone()[0])
    return names


def store_rows(db: sqlite3.Connection, query_id: int, layout: int, contents: list[bytes]) -> Ints:
    """Give every row its id; content that the query's table has had before keeps the id it has.

    Args:
        contents: encoded rows, in the order of the table.

    Returns:
        The ids, shape (rows,).
    """
    if not contents:
        return np.zeros(0, dtype=np.int64)
    digests = digests_of(contents)
    _, first, inverse = np.unique(digests[:, 0], return_index=True, return_inverse=True)
    if not np.array_equal(digests[first[inverse], 1], digests[:, 1]):
        first, inverse = unique_by_digest(digests)
    ids, picked = _new_ids(db, query_id, layout, digests, first)
    new = zip(ids[picked].tolist(), map(contents.__getitem__, first[picked].tolist()), strict=True)
    db.executemany("INSERT INTO row VALUES (?, ?)", new)
    out: Ints = ids[inverse.reshape(-1)]
    return out


def content_ids(table: Table, part: int = 2_048) -> Ints:
    """A number for each row of a table, the same for rows of the same content; nothing is stored. Shape (rows,).

    Args:
        part: how many rows are encoded together.
    """
    names = [column.name for column in table.columns]
    columns = [table.data[at] for at in sorted(range(len(names)), key=names.__getitem__)]
    if not columns:
        return np.zeros(table.height, dtype=np.int64)
    digests = np.concatenate([np.zeros((0, 2), dtype="<i8"), *map(digests_of, _encoded(columns, table.height, part))])
    return unique_by_digest(digests)[1]


def store_long(
    db: sqlite3.Connection, query_id: int, layout: int, columns: Sequence[Sequence[Any]], height: int, part: int
) -> Ints:
    """As :func:`store_rows` for a long table, which is never in memory as a whole: its rows are encoded for their
    digests, and those that are new once more.

    Args:
        columns: the values of each column, in the order of the layout.
        height: how many rows there are.
        part: how many are encoded together.
    """
    digests = np.empty((height, 2), dtype="<i8")
    for start, encoded in zip(range(0, height, part), _encoded(columns, height, part), strict=True):
        digests[start : start + len(encoded)] = digests_of(encoded)
    _, first, inverse = np.unique(digests[:, 0], return_index=True, return_inverse=True)
    if not np.array_equal(digests[first[inverse], 1], digests[:, 1]):
        first, inverse = unique_by_digest(digests)
    ids, picked = _new_ids(db, query_id, layout, digests, first)
    if len(picked):
        # `picked` is in the order of the table, and so are the parts.
        wanted, numbers = first[picked], ids[picked]
        for start in range(0, height, part):
            low, high = np.searchsorted(wanted, (start, start + part))
            if low == high:
                continue
            places = (wanted[low:high] - start).tolist()
            parts = [values[start : start + part] for values in columns]
            if len(places) * 8 < part:
                chosen = encode_rows([tuple([values[at] for values in parts]) for at in places])
            else:
                cells = list(zip(*parts, strict=True))
                chosen = encode_rows(map(cells.__getitem__, places))
            db.executemany("INSERT INTO row VALUES (?, ?)", zip(numbers[low:high].tolist(), chosen, strict=True))
    out: Ints = ids[inverse.reshape(-1)]
    return out


def _encoded(columns: Sequence[Sequence[Any]], height: int, part: int) -> Iterator[list[bytes]]:
    """The rows of a long table, encoded, part by part."""
    rows = zip(*columns, strict=True)
    for _ in range(0, height, part):
        yield encode_rows(itertools.islice(rows, part))


def _new_ids(db: sqlite3.Connection, query_id: int, layout: int, digests: Ints, first: Ints) -> tuple[Ints, Ints]:
    """Ids for the distinct rows, and which of these are new, in the order of the table.

    Args:
        digests: of every row, shape (rows, 2).
        first: for each distinct row its first position in the table, shape (distinct,).

    Returns:
        The ids, shape (distinct,), and the indexes of the new ones.
    """
    distinct = digests[first]
    ids = _known_ids(db, query_id, layout, distinct)
    fresh = np.flatnonzero(ids < 0)
    if len(fresh):
        # In the order of the table, so that neighbours are stored side by side.
        fresh = fresh[np.argsort(first[fresh], kind="stable")]
        start = int(db.execute("SELECT coalesce(max(first_row + count), 1) FROM row_batch").fetchone()[0])
        ids[fresh] = np.arange(start, start + len(fresh))
        db.execute(
            "INSERT INTO row_batch VALUES (?, ?, ?, ?, ?)",
            (start, query_id, layout, len(fresh), distinct[fresh].tobytes()),
        )
    return ids, fresh


def write_again(db: sqlite3.Connection, query_id: int, ids: Ints, contents: Iterable[bytes]) -> int:
    """Write rows of a query again whose content is damaged or gone, where it is at hand; gives how many were written.

    Args:
        ids: the damaged rows. Shape (rows,).
        contents: encoded rows, in any order; a row is known by the digest that it was stored with.
    """
    wanted: dict[bytes, list[int]] = {}
    batches = "SELECT first_row, count, digests FROM row_batch WHERE query_id = ?"
    for batch in db.execute(batches, (query_id,)).fetchall():
        first, packed = int(batch["first_row"]), bytes(batch["digests"])
        for row_id in ids[(ids >= first) & (ids < first + int(batch["count"]))].tolist():
            at = 16 * (row_id - first)
            wanted.setdefault(packed[at : at + 16], []).append(row_id)
    written = 0
    for content in contents:
        for row_id in wanted.pop(hashlib.blake2b(content, digest_size=16).digest(), []):
            db.execute("INSERT OR REPLACE INTO row VALUES (?, ?)", (row_id, content))
            written += 1
    return written


def digests_of(contents: list[bytes]) -> Ints:
    """Two 64-bit halves of a 128-bit digest of each row, shape (rows, 2)."""
    blake = hashlib.blake2b
    joined = b"".join([blake(content, digest_size=16).digest() for content in contents])
    return np.frombuffer(joined, dtype="<i8").reshape(-1, 2)


def unique_by_digest(digests: Ints) -> tuple[Ints, Ints]:
    """By both halves, for the case that the first ones collide: the first position of each distinct row, and for each
    row which of them it is."""
    _, first, inverse = np.unique(digests, axis=0, return_index=True, return_inverse=True)
    return first.astype(np.int64), inverse.reshape(-1).astype(np.int64)


def _known_ids(db: sqlite3.Connection, query_id: int, layout: int, digests: Ints) -> Ints:
    """The ids that rows with these digests have, −1 for new ones. Shape (digests,)."""
    out = np.full(len(digests), -1, dtype=np.int64)
    batches = db.execute(
        "SELECT first_row, count, digests FROM row_batch WHERE query_id = ? AND layout_id = ?",
        (query_id, layout),
    ).fetchall()
    if not batches:
        return out
    known = np.frombuffer(b"".join([batch["digests"] for batch in batches]), dtype="<i8").reshape(-1, 2)
    ids = np.concatenate(
        [np.arange(batch["first_row"], batch["first_row"] + batch["count"], dtype=np.int64) for batch in batches]
    )
    order = np.argsort(known[:, 0], kind="stable")
    known, ids = known[order], ids[order]
    at = np.minimum(np.searchsorted(known[:, 0], digests[:, 0]), len(known) - 1)
    # Both halves must agree; a row whose first half collides is simply stored again.
    hit = np.all(known[at] == digests, axis=1)
    out[hit] = ids[at[hit]]
    return out


def load_rows(db: sqlite3.Connection, ids: Ints) -> list[tuple[Any, ...]]:
    """The rows with these ids, in the order of `ids`, each in the order of its layout."""
    wanted, inverse = np.unique(ids, return_inverse=True)
    found: list[tuple[Any, ...]] = []
    for start in range(0, len(wanted), _CHUNK):
        chunk = wanted[start : start + _CHUNK].tolist()
        if chunk[-1] - chunk[0] == len(chunk) - 1:
            ends = (chunk[0], chunk[-1])
            rows = db.execute("SELECT content FROM row WHERE id BETWEEN ? AND ? ORDER BY id", ends)
        else:
            marks = ",".join("?" * len(chunk))
            rows = db.execute(f"SELECT content FROM row WHERE id IN ({marks}) ORDER BY id", chunk)
        found += decode_rows([content for (content,) in rows])
    assert len(found) == len(wanted)
    order = inverse.reshape(-1)
    if len(order) == len(found) and bool((order == np.arange(len(order))).all()):
        return found
    return list(map(found.__getitem__, order.tolist()))


def load_column(db: sqlite3.Connection, ids: Ints, at: int) -> list[Any]:
    """One value of each of the rows with these ids, in the order of `ids`; `at` is its index in the layout."""
    return load_columns(db, ids, [at])[0]


def load_columns(db: sqlite3.Connection, ids: Ints, places: Sequence[int]) -> list[list[Any]]:
    """As :func:`load_column`, of several values, read in one pass."""
    if not len(ids):
        return [[] for _ in places]
    with collector_paused():
        return _load_columns(db, ids, places)


def _load_columns(db: sqlite3.Connection, ids: Ints, places: Sequence[int]) -> list[list[Any]]:
    wanted, inverse = np.unique(ids, return_inverse=True)
    columns: list[list[Any]] = [[] for _ in places]

    def take(contents: list[bytes]) -> None:
        parsed = _parsed(contents)
        for values, at in zip(columns, places, strict=True):
            values += [row[at] for row in parsed]

    if int(wanted[-1] - wanted[0]) <= 4 * len(wanted):
        # Nearly all rows of a stretch: one pass through it is faster than asking for each.
        ends = (int(wanted[0]), int(wanted[-1]))
        if ends[1] - ends[0] + 1 == len(wanted):
            cursor = db.execute("SELECT content FROM row WHERE id BETWEEN ? AND ? ORDER BY id", ends)
            while rows := cursor.fetchmany(4_096):
                take([content for (content,) in rows])
        else:
            chosen = set(wanted.tolist())
            cursor = db.execute("SELECT id, content FROM row WHERE id BETWEEN ? AND ? ORDER BY id", ends)
            while rows := cursor.fetchmany(4_096):
                take([content for row_id, content in rows if row_id in chosen])
    else:
        for start in range(0, len(wanted), _CHUNK):
            some = wanted[start : start + _CHUNK].tolist()
            marks = ",".join("?" * len(some))
            found = db.execute(f"SELECT content FROM row WHERE id IN ({marks}) ORDER BY id", some)
            take([content for (content,) in found])
    order = inverse.reshape(-1)
    if len(order) == len(wanted) and bool((order == np.arange(len(order))).all()):
        return columns
    return [list(map(values.__getitem__, order.tolist())) for values in columns]


def load_stretch(db: sqlite3.Connection, first: int, last: int, at: int | None) -> tuple[list[int], list[Any]]:
    """One value of every row that there is from an id to another, with the ids, ascending.

    Args:
        at: the value's index in the layout; nothing for a layout without it.
    """
    if at is None:
        found = [row_id for (row_id,) in db.execute("SELECT id FROM row WHERE id BETWEEN ? AND ?", (first, last))]
        return found, [None] * len(found)
    ids: list[int] = []
    values: list[Any] = []
    with collector_paused():
        cursor = db.execute("SELECT id, content FROM row WHERE id BETWEEN ? AND ? ORDER BY id", (first, last))
        while some := cursor.fetchmany(4_096):
            ids += [row_id for row_id, _ in some]
            values += _values_at([content for _, content in some], at)
    return ids, values


def ids_with_text(db: sqlite3.Connection, ids: Ints, text: str) -> Ints:
    """Those of some rows that may have a text in them, whatever its case; only ASCII letters are told apart from it so.

    Args:
        text: what is looked for, of ASCII characters.
    """
    if not len(ids):
        return ids
    escaped = json.dumps(text)[1:-1].lower()
    rows = db.execute(
        "SELECT id FROM row WHERE id BETWEEN ? AND ? AND (instr(lower(CAST(content AS TEXT)), ?) OR"
        " substr(content, 1, 1) = X'20')",
        (int(ids.min()), int(ids.max()), escaped),
    ).fetchall()
    found = np.array([row_id for (row_id,) in rows], dtype=np.int64)
    return np.intersect1d(found, ids)


def ids_starting(db: sqlite3.Connection, ids: Ints, starts: Sequence[str]) -> Ints:
    """Those of some rows that may have a text that starts with one of some characters."""
    if not len(ids):
        return ids
    likely = " OR ".join("instr(content, ?)" for _ in starts)
    rows = db.execute(
        f"SELECT id FROM row WHERE id BETWEEN ? AND ? AND ({likely})",
        (int(ids.min()), int(ids.max()), *(json.dumps(start)[:-1].encode() for start in starts)),
    ).fetchall()
    return np.intersect1d(np.array([row_id for (row_id,) in rows], dtype=np.int64), ids)


def _values_at(contents: list[bytes], at: int) -> list[Any]:
    """One value of each encoded row."""
    return [row[at] for row in _parsed(contents)]


def _parsed(contents: list[bytes]) -> list[Sequence[Any]]:
    """The values of encoded rows; the usual ones are parsed together, as in :func:`decode_rows`."""
    joined = b",".join(contents)
    if joined.startswith(b" ") or b", [" in joined or b'{"miss":' in joined:
        return [decode_row(content) for content in contents]
    parsed: list[Sequence[Any]] = orjson.loads(b"[" + joined + b"]")
    return parsed
