"""SQLite in memory, on a connection that can work out values and do nothing else.

It has no file, attaches none, reads no other table than those that were put into it, calls no function that is not on
the list, does not recurse, and stops when its time is up or nobody waits any more.
"""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable, Sequence
from threading import Event
from typing import Any

import orjson

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.work_out.expression.functions import FUNCTIONS, INNER_FUNCTIONS
from tin_bucket.core.work_out.sql import ROW, quoted

from .functions import register

MOST_SECONDS = 60.0
MOST_BYTES = 2 * 2**30  # Of the tables that are put into it.
_PAGE = 4096
_TOGETHER = 800  # Values that are put in by one statement.
_STEPS = 20_000  # Of SQLite's machine between two looks at the clock.
_LONGEST = 20_000_000  # Bytes of one value.
_READS = {sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ}
_FUNCTION = 31  # SQLITE_FUNCTION
_ALLOWED = frozenset(FUNCTIONS) | INNER_FUNCTIONS
LARGEST = 2**63
"""Whole numbers from here on, and below its negative, are texts to SQLite."""


GROUP = '"#g"'
"""The column with the numbers of groups, where a table lies in their order."""


class Stopped(Exception):
    """Nobody waits for the result any more."""


class Sandbox:
    """One connection, for one piece of work; it is closed behind it."""

    def __init__(self, stop: Event | None = None, seconds: float = MOST_SECONDS) -> None:
        self._stop = stop
        self._seconds = seconds
        self._until = time.monotonic() + seconds
        self._db = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
        self._db.execute("PRAGMA journal_mode = OFF")
        self._db.execute("PRAGMA secure_delete = OFF")
        self._db.execute(f"PRAGMA max_page_count = {MOST_BYTES // _PAGE}")
        self._db.execute("PRAGMA temp_store = MEMORY")
        self._db.setlimit(sqlite3.SQLITE_LIMIT_ATTACHED, 0)
        self._db.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST)
        register(self._db)
        # The first use of a table-valued function declares it, which no later statement may do.
        self._db.execute("SELECT value FROM json_each('[]')").fetchall()
        self._db.set_progress_handler(self._looks, _STEPS)
        self._columns: dict[str, dict[str, int]] = {}
        self._with_nul = False

    def __enter__(self) -> Sandbox:
        return self

    def __exit__(self, *_: object) -> None:
        self._db.close()

    def _looks(self) -> int:
        return int((self._stop is not None and self._stop.is_set()) or time.monotonic() > self._until)

    def load_groups(self, name: str, columns: Sequence[tuple[str, Sequence[Any]]], groups: Ints, rows: Ints) -> None:
        """Put columns in, as a table that lies in the order of its groups, so that these are made without sorting.

        Args:
            columns: names and values, each in the order of the table.
            groups: for each row the number of its group, ascending. Shape (rows,).
            rows: for each row its number. Shape (rows,).
        """
        self._db.set_authorizer(None)
        self._columns[name] = {column: at for at, (column, _) in enumerate(columns)}
        own = "".join(f", c{at}" for at in range(len(columns)))
        key = f"PRIMARY KEY ({GROUP}, {quoted(ROW)})"
        self._db.execute(f"CREATE TABLE {name} ({quoted(ROW)} INTEGER, {GROUP} INTEGER{own}, {key}) WITHOUT ROWID")
        parts = [groups.tolist(), *(self._bindable(values) for _, values in columns)]
        self._fill(name, [GROUP, *self._names(columns)], parts, rows.tolist())

    def load(self, name: str, columns: Sequence[tuple[str, Sequence[Any]]], height: int, first: int = 1) -> None:
        """Put columns in, as a table whose rows are numbered.

        Args:
            columns: names and values, each of `height`.
            first: the number of the first row.
        """
        self._db.set_authorizer(None)
        fresh = name not in self._columns
        self._columns[name] = {column: at for at, (column, _) in enumerate(columns)}
        if fresh:
            own = "".join(f", c{at}" for at in range(len(columns)))
            self._db.execute(f"CREATE TABLE {name} ({quoted(ROW)} INTEGER PRIMARY KEY{own})")
        else:
            self._db.execute(f"DELETE FROM {name}")
        parts = [self._bindable(values) for _, values in columns]
        self._fill(name, self._names(columns), parts, range(first, first + height))

    @staticmethod
    def _names(columns: Sequence[object]) -> list[str]:
        return [f"c{at}" for at in range(len(columns))]

    def _fill(self, name: str, names: list[str], parts: list[Sequence[Any]], numbers: Sequence[int]) -> None:
        """Put rows in, many with one statement."""
        height = len(numbers)
        # Rows that are numbered from 1 on number themselves.
        if not parts or numbers != range(1, height + 1):
            parts, names = [numbers, *parts], [quoted(ROW), *names]
        into = f"{name} ({', '.join(names)})"
        rows = max(1, _TOGETHER // len(names))
        one = f"({', '.join('?' * len(names))})"
        self._db.execute("BEGIN")
        try:
            for start in range(0, height, rows * 50):
                if self._looks():
                    raise self._interrupted()
                self._insert(into, one, rows, parts, start, min(height, start + rows * 50))
        except sqlite3.Error as error:
            raise self._told(error) from error
        self._db.execute("COMMIT")

    def _insert(self, into: str, one: str, rows: int, parts: list[Sequence[Any]], start: int, stop: int) -> None:
        width = len(parts)
        flat: list[Any] = [None] * ((stop - start) * width)
        for at, values in enumerate(parts):
            flat[at::width] = values[start:stop]
        full = (stop - start) // rows
        size = rows * width
        if full:
            text = f"INSERT INTO {into} VALUES {', '.join([one] * rows)}"
            self._db.executemany(text, (flat[at * size : (at + 1) * size] for at in range(full)))
        rest = flat[full * size :]
        if rest:
            self._db.execute(f"INSERT INTO {into} VALUES {', '.join([one] * (len(rest) // width))}", rest)

    def _bindable(self, values: Sequence[Any]) -> Sequence[Any]:
        """Values as SQLite takes them: what a lookup missed is nothing, whole numbers over 64 bits are texts."""
        values = values if isinstance(values, list) else list(values)
        types = set(map(type, values))
        if types <= {float, bool, type(None)}:
            return values
        if types <= {float, bool, int, type(None)}:
            return values if in_64_bits(values) else [_one(value) for value in values]
        text = _text_of(values)
        self._with_nul = self._with_nul or text is None or "\0" in text
        return values if text is not None and types <= {str, type(None)} else [_one(value) for value in values]

    def naming(self, name: str, alias: str = "") -> Callable[[str], str]:
        """How the columns of a table are written: by their numbers."""
        columns, prefix = self._columns[name], f"{alias}." if alias else ""
        return lambda column: f"{prefix}{quoted(ROW)}" if column == ROW else f"{prefix}c{columns[column]}"

    def rows(self, text: str, values: Sequence[Any] = ()) -> list[tuple[Any, ...]]:
        """The rows of a SELECT.

        Raises:
            ProblemError: ``work-out-stopped`` when its time is up, ``work-out-failed`` for anything else.
            Stopped: nobody waits any more.
        """
        self._db.set_authorizer(_authorize)
        try:
            return self._db.execute(text, values).fetchall()
        except sqlite3.Error as error:
            raise self._told(error) from error

    def columns(self, pieces: Sequence[str], source: str) -> list[list[Any]] | None:
        """The values of some SQL over rows in their order, a list each; ``None`` where they must be read row by row.

        They leave SQLite as JSON, which is much faster than row by row. Its decimals have fifteen digits there, which
        is what they hold for sure.

        Args:
            source: what stands behind FROM.
        """
        if self._with_nul:
            return None  # It would end a text.
        self._db.set_authorizer(_authorize)
        told = ", ".join(f"json_group_array({piece})" for piece in pieces)
        try:
            row = self._db.execute(f"SELECT {told} FROM {source}").fetchone()
            found = [orjson.loads(text) for text in row]
            # A value that is JSON itself would be a text, row by row.
            return None if any({dict, list} & set(map(type, values)) for values in found) else found
        except sqlite3.Error as error:
            if "interrupted" in str(error):
                raise self._told(error) from error
            return None
        except orjson.JSONDecodeError:
            return None  # A number that is no number, such as infinity.

    def column(self, text: str) -> list[Any]:
        """The values of a SELECT with one column."""
        return [value for (value,) in self.rows(text)]

    def _interrupted(self) -> Exception:
        if self._stop is not None and self._stop.is_set():
            return Stopped()
        return fail(
            "work-out-stopped",
            f"This line took longer than {self._seconds:g} seconds, and was stopped.",
            where="the line",
            do="Keep fewer rows before it, or make it simpler.",
        )

    def _told(self, error: sqlite3.Error) -> Exception:
        text = str(error)
        if "interrupted" in text:
            return self._interrupted()
        if "full" in text or isinstance(error, MemoryError):
            what, do = "This line needs more memory than it may use.", "Keep fewer rows or columns before it."
        elif "too big" in text:
            what, do = "A value of this line became too long.", "Make it shorter."
        elif "integer overflow" in text:
            what, do = "A sum of whole numbers became too large.", "Multiply the numbers by 1.0 in a column first."
        elif "malformed JSON" in text or "JSON path" in text:
            what, do = "A text is not JSON, or the place in it cannot be read.", "Test it with json_valid() first."
        elif "not authorized" in text or "prohibited" in text:
            what, do = "This expression wants something that a line cannot do.", "Use the functions of the list."
        else:
            what, do = "SQLite cannot work this expression out.", "Simplify it, and try its parts one by one."
        return fail("work-out-failed", what, where="the line", do=do)


def _authorize(action: int, one: str | None, two: str | None, *_: str | None) -> int:
    if action in _READS or (action == _FUNCTION and (two or "").lower() in _ALLOWED):
        return sqlite3.SQLITE_OK
    return sqlite3.SQLITE_DENY


def in_64_bits(values: Sequence[Any]) -> bool:
    """Whether all values are surely nothing or numbers within 64 bits; that is seen quickly."""
    filled = list(filter(None, values))
    try:
        return not filled or (min(filled) >= -LARGEST and max(filled) < LARGEST)
    except TypeError:
        return False  # Not only numbers.


def _text_of(values: Sequence[Any]) -> str | None:
    """All texts as one; ``None`` where they are not Unicode."""
    try:
        text = "".join(values)
    except TypeError:  # Not only texts.
        text = "".join(value for value in values if isinstance(value, str))
    try:
        text.encode()
    except UnicodeEncodeError:
        return None
    return text


def _one(value: Any) -> Any:
    if value is None or isinstance(value, float):
        return value
    if isinstance(value, Miss):
        return None
    if isinstance(value, int):
        return value if -LARGEST <= value < LARGEST else str(value)
    if isinstance(value, str):
        return value.encode("utf-8", "replace").decode()
    return str(value)
