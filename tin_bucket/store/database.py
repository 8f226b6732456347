"""A workspace's file: connections, transactions, schema, and the locks of the processes that use it."""

from __future__ import annotations

import errno
import os
import secrets
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from importlib import resources
from pathlib import Path
from typing import IO

from tin_bucket.core.problem import ProblemError, fail

from .locks import LOCKS, hold, is_held, process_lock, release_dead

FILE_NAME = "workspace.sqlite"
_PATIENCE = 3.0  # Seconds that questions under way have when the file is closed.
BUSY_SECONDS = 5.0
_SERVING = "serve.lock"


# What SQLite reports (https://sqlite.org/rescode.html) → what happened, and what to do.
_IN_WORDS = {
    "FULL": ("The disk is full; nothing was stored.", "Make room on the disk, then try again."),
    "READONLY": ("The workspace cannot be written to.", "Allow this user to write to its folder and its files."),
    "CANTOPEN": (
        "The workspace's file cannot be opened.",
        "Allow this user to read and write its folder and its files.",
    ),
    "IOERR": ("The disk failed while the workspace was read or written.", "Check the disk, then try again."),
    "TOOBIG": ("This is too large to be stored.", "Ask for a smaller part of it."),
}


class Database:
    """An open workspace's file. Each thread gets a connection of its own; writers never block readers (WAL)."""

    def __init__(self, home: Path, *, create: bool = False, busy_seconds: float = BUSY_SECONDS) -> None:
        """Open the workspace in a folder.

        Args:
            busy_seconds: how long to wait for another program that writes.

        Raises:
            ProblemError: ``workspace-missing``, ``workspace-locked``, ``workspace-newer`` or ``workspace-unreadable``.
        """
        self.home = home
        self._busy_seconds = busy_seconds
        self.path = home / FILE_NAME
        if not self.path.exists():
            if not create:
                raise fail(
                    "workspace-missing",
                    "There is no workspace in this folder.",
                    where=str(home),
                    do="Name its folder with --home, or make one there with “tin-bucket serve --home …”.",
                )
            try:
                home.mkdir(parents=True, exist_ok=True, mode=0o700)
            except OSError as error:
                raise fail(
                    "workspace-unreadable",
                    f"The folder cannot be made: {error.strerror}.",
                    where=str(home),
                    do="Name another folder with --home.",
                ) from error
        self._keep_private()
        self._local = threading.local()
        self._connections: list[tuple[int, sqlite3.Connection]] = []
        self._in_use: dict[int, int] = {}  # Thread → how many of its questions are under way.
        self._closing = threading.Lock()
        self.process = secrets.token_hex(8)
        self._locks: list[IO[str]] = []
        try:
            with self._said():
                self._migrate()
            self._hold(process_lock(self.home, self.process))
        except ProblemError:
            self.close()
            raise

    # Connections -----------------------------------------------------------------------------------------------

    @property
    def db(self) -> sqlite3.Connection:
        """This thread's connection."""
        connection = getattr(self._local, "connection", None)
        if connection is None:
            connection = sqlite3.connect(
                self.path, timeout=self._busy_seconds, isolation_level=None, check_same_thread=False
            )
            connection.row_factory = sqlite3.Row
            connection.executescript("PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;")
            self._local.connection = connection
            with self._closing:
                self._connections.append((threading.get_ident(), connection))
        return connection

    @contextmanager
    def read(self) -> Iterator[sqlite3.Connection]:
        """This thread's connection, with SQLite's errors said in words."""
        with self._said():
            yield self.db

    @contextmanager
    def read_together(self) -> Iterator[sqlite3.Connection]:
        """One view of the file for several questions: what others write meanwhile is not seen (WAL). Within another one
        of the same thread, or within a transaction, it is part of that."""
        with self._said():
            db = self.db
            if db.in_transaction:
                yield db
                return
            db.execute("BEGIN")
            try:
                yield db
            finally:
                db.execute("COMMIT")

    @contextmanager
    def write(self) -> Iterator[sqlite3.Connection]:
        """One transaction: all of it is stored, or nothing. Within another one of the same thread it is part of that.

        Raises:
            ProblemError: ``workspace-locked`` when another program keeps the file locked.
        """
        with self._said():
            db = self.db
            if getattr(self._local, "writing", False):
                yield db
                return
            db.execute("BEGIN IMMEDIATE")
            self._local.writing = True
            try:
                yield db
            except BaseException:
                if db.in_transaction:  # A full disk ends it by itself.
                    db.execute("ROLLBACK")
                raise
            finally:
                self._local.writing = False
            db.execute("COMMIT")

    @contextmanager
    def _said(self) -> Iterator[None]:
        own = threading.get_ident()
        # Only this thread changes its own entry.
        self._in_use[own] = self._in_use.get(own, 0) + 1
        try:
            yield
        except sqlite3.OperationalError as error:
            if "locked" in str(error) or "busy" in str(error):
                raise fail(
                    "workspace-locked",
                    f"The workspace is locked by another program; waited {self._busy_seconds:.0f} seconds.",
                    where=str(self.path),
                    do="Close the program that has the file open, then try again.",
                ) from error
            what, do = _IN_WORDS.get(
                error.sqlite_errorname.split("_")[1],
                ("The workspace's file cannot be used.", "Check that its folder can be written to, then try again."),
            )
            raise fail("workspace-unreadable", what, where=str(self.path), do=do) from error
        except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
            # The names in a damaged file need not be text any more.
            if isinstance(error, sqlite3.IntegrityError):
                raise
            raise fail(
                "workspace-unreadable",
                "The workspace's file is damaged, or is not a workspace.",
                where=str(self.path),
                do="Put a backup of the file in its place, or name another folder with --home.",
            ) from error
        finally:
            self._in_use[own] -= 1
            if not self._in_use[own]:
                del self._in_use[own]

    def copy_to(self, path: Path) -> None:
        """Write the file as it is at one moment to another one, whatever is written meanwhile; what was deleted is not
        in it. The new file is its owner's alone.

        Raises:
            ProblemError: ``workspace-unreadable``.
        """
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        with self._said():
            self.db.execute("VACUUM INTO ?", (str(path),))

    def settle(self) -> None:
        """Leave all in the one file, without a trace of what was deleted: for a copy that nobody else uses."""
        with self._said():
            self.db.execute("VACUUM")
            self.db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self.db.execute("PRAGMA journal_mode=DELETE")

    # Schema ----------------------------------------------------------------------------------------------------

    def _migrate(self) -> None:
        steps = sorted(
            (int(entry.name.split(".")[0]), entry.read_text())
            for entry in resources.files("tin_bucket.store").joinpath("migrations").iterdir()
            if entry.name.endswith(".sql")
        )
        newest = steps[-1][0]
        version = int(self.db.execute("PRAGMA user_version").fetchone()[0])
        if version > newest:
            raise fail(
                "workspace-newer",
                f"The workspace is of version {version}; this program knows versions up to {newest}.",
                where=str(self.path),
                do="Use a newer Tin Bucket; nothing was changed.",
            )
        db = self.db
        for number, sql in steps:
            if number <= version:
                continue
            # A step that makes a table again must not take with it what refers to the table.
            db.execute("PRAGMA foreign_keys=OFF")
            try:
                db.executescript(f"BEGIN IMMEDIATE; {sql}; PRAGMA user_version={number}; COMMIT;")
            finally:
                if db.in_transaction:
                    db.execute("ROLLBACK")
                db.execute("PRAGMA foreign_keys=ON")

    def _keep_private(self) -> None:
        """Let nobody else read the folder and the file, whatever the system's defaults are. SQLite gives the files
        beside it the same permissions."""
        with suppress(OSError):
            if not self.path.exists():
                os.close(os.open(self.path, os.O_CREAT | os.O_WRONLY, 0o600))
            for path, mode in ((self.home, 0o700), (self.path, 0o600)):
                found = path.stat()
                if found.st_uid == os.getuid() and found.st_mode & 0o077:
                    path.chmod(mode)

    # Locks -----------------------------------------------------------------------------------------------------

    def _hold(self, path: Path) -> bool:
        try:
            handle = hold(path)
        except OSError as error:
            what, do = _IN_WORDS["FULL" if error.errno == errno.ENOSPC else "READONLY"]
            raise fail("workspace-unreadable", what, where=str(path.parent), do=do) from error
        if handle is None:
            return False
        self._locks.append(handle)
        return True

    def is_alive(self, process: str) -> bool:
        """Whether the process that took that name still runs: its lock ends with it, however it ends."""
        if process == self.process:
            return True
        path = process_lock(self.home, process)
        return path.exists() and not release_dead(path)

    def hold_for_serving(self) -> None:
        """Make this the one process that serves the workspace and runs its schedule.

        Raises:
            ProblemError: ``workspace-locked`` when another process does.
        """
        if not self._hold(self.home / LOCKS / _SERVING):
            raise fail(
                "workspace-locked",
                "Another Tin Bucket already serves this workspace.",
                where=str(self.home),
                do="Open the running one at the address that “tin-bucket address” prints, stop it, or name another"
                " folder with --home.",
            )

    def serving_at(self, address: str) -> None:
        """Note where this process serves the workspace, for other processes to read."""
        (self.home / LOCKS / _SERVING).write_text(address, encoding="utf-8")

    def served_at(self) -> str | None:
        """Where a running process serves the workspace; ``None`` when none does."""
        path = self.home / LOCKS / _SERVING
        return (path.read_text(encoding="utf-8") or None) if is_held(path) else None

    def close(self) -> None:
        """Close every connection and release the locks. What other threads ask is interrupted; a connection that is in
        use all the same is left to its thread: SQLite does not stand its being closed."""
        with self._closing:
            others = [one for one in self._connections if one[0] != threading.get_ident()]
            deadline = time.monotonic() + _PATIENCE
            while any(thread in self._in_use for thread, _ in others) and time.monotonic() < deadline:
                for thread, connection in others:
                    if thread in self._in_use:
                        connection.interrupt()
                time.sleep(0.01)
            for thread, connection in self._connections:
                if thread == threading.get_ident() or thread not in self._in_use:
                    connection.close()
            self._connections.clear()
        self._local = threading.local()
        for handle in self._locks:
            own = handle.name == str(process_lock(self.home, self.process))
            handle.close()
            if own:
                with suppress(OSError):
                    os.unlink(handle.name)
        self._locks.clear()
