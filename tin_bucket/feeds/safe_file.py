"""Files written so that what was there is whole until what is new is whole: beside, and moved into place."""

from __future__ import annotations

import errno
import fcntl
import os
import re
import secrets
import shutil
import stat
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import BinaryIO, TypeVar

from tin_bucket.core.problem import ProblemError, fail

T = TypeVar("T")
VERSIONS = 3  # Of a file that is replaced, so many are kept.
_TURN_SECONDS = 120.0
_PAUSE = 0.05
_FULL = (errno.ENOSPC, errno.EDQUOT)
_NAME_BESIDE = r"\.{name}\.([0-9]+)\.[0-9a-f]{{8}}"


@dataclass(frozen=True, slots=True)
class FileState:
    """What tells whether a file was changed: when, how long it is, which one it is; ``None`` for none."""

    marks: tuple[int, int, int] | None

    @classmethod
    def of(cls, path: Path) -> FileState:
        """The state of a file now."""
        try:
            found = path.stat()
        except OSError:
            return cls(None)
        return cls((found.st_mtime_ns, found.st_size, found.st_ino))


def replace_file(
    path: Path,
    write: Callable[[BinaryIO], T],
    before: FileState | None = None,
    versions: Path | None = None,
    now: datetime | None = None,
) -> T:
    """Write a file whole, or not at all.

    Args:
        write: writes the open file.
        before: what the file was when it was read; where it is something else when the new one is whole, the new one
            is thrown away.
        versions: the folder in which what was there is kept.
        now: the moment that a kept version is named after.

    Raises:
        ProblemError: ``file-open``, ``file-read-only``, ``file-changed``, ``disk-full``, ``file-unwritable``, or what
            `write` raises. What was there is whole then.
    """
    check_free(path)
    beside = _beside(path)
    with told_in_words(path):
        try:
            clear_litter(path)
            with beside.open("xb") as file:
                made = write(file)
                file.flush()
                os.fsync(file.fileno())
            if path.exists():
                shutil.copymode(path, beside)
            check_free(path)
            _check_unchanged(path, before)
            if versions is not None and path.exists():
                keep_version(path, versions, now or datetime.now())
                _check_unchanged(path, before)  # Copying a long file takes a moment.
            beside.replace(path)
        finally:
            with suppress(OSError):
                beside.unlink(missing_ok=True)
    return made


def _check_unchanged(path: Path, before: FileState | None) -> None:
    if before is not None and FileState.of(path) != before:
        raise fail(
            "file-changed",
            "The file was changed by somebody while it was being written.",
            where=str(path),
            do="Nothing was lost: it is tried again with what is there now.",
        )


@contextmanager
def taking_turns(path: Path, seconds: float = _TURN_SECONDS) -> Iterator[None]:
    """Wait while another process of Tin Bucket changes a file (flock), so that each finds what the other wrote.

    Where the file's system has no such locks, or the other takes longer, it goes on all the same: what was changed
    meanwhile is seen before the file is replaced.
    """
    held: BinaryIO | None = None
    until = time.monotonic() + seconds
    try:
        with suppress(OSError):
            while held is None:
                found = path.open("rb")
                if _is_mine(found, path):
                    held = found
                    continue
                found.close()
                if time.monotonic() > until:
                    break
                time.sleep(_PAUSE)
        yield
    finally:
        if held is not None:
            held.close()


def _is_mine(file: BinaryIO, path: Path) -> bool:
    """Whether the lock was free, and of the file that is at the path: whoever had it may have replaced the file."""
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:
        return True  # There are no locks here.
    return os.path.samestat(os.fstat(file.fileno()), path.stat())


def keep_version(path: Path, folder: Path, now: datetime) -> None:
    """Keep what a file is now; of the versions that are kept, the oldest goes."""
    folder.mkdir(parents=True, exist_ok=True)
    name = f"{now:%Y-%m-%d %H%M%S} {path.name}"
    shutil.copy2(path, folder / name)
    for old in versions_of(path, folder)[VERSIONS:]:
        old.unlink(missing_ok=True)


def versions_of(path: Path, folder: Path) -> list[Path]:
    """The versions of a file that are kept, the newest first."""
    pattern = re.compile(r"\d{4}-\d\d-\d\d \d{6} " + re.escape(path.name))
    found = [one for one in folder.iterdir() if pattern.fullmatch(one.name)] if folder.is_dir() else []
    return sorted(found, key=lambda one: one.name, reverse=True)


def check_free(path: Path) -> None:
    """
    Raises:
        ProblemError: ``file-open`` where a spreadsheet program has the file open, ``file-read-only``.
    """
    for lock in (f"~${path.name}", f"~${path.name[2:]}", f".~lock.{path.name}#"):
        if path.with_name(lock).exists():
            raise _open_elsewhere(path, f"Its lock file {lock} is there.")
    with suppress(OSError):
        mode = path.stat().st_mode
        if not stat.S_ISREG(mode):
            raise fail("file-unwritable", "This is no file.", where=str(path), do="Name a file.")
        if not mode & 0o222 or not os.access(path, os.W_OK):
            raise fail(
                "file-read-only",
                "The file is read-only.",
                where=str(path),
                do="Allow this user to write it, or name another file.",
            )


def check_writable(path: Path) -> None:
    """See whether a file can be written, by a file beside it.

    Raises:
        ProblemError: as :func:`replace_file`.
    """
    check_free(path)
    beside = _beside(path)
    with told_in_words(path):
        try:
            beside.open("xb").close()
        finally:
            beside.unlink(missing_ok=True)


def _beside(path: Path) -> Path:
    return path.with_name(f".{path.name}.{os.getpid()}.{secrets.token_hex(4)}")


def _open_elsewhere(path: Path, why: str) -> ProblemError:
    return fail(
        "file-open",
        f"The file is open in another program. {why}",
        where=str(path),
        do="Close it there; it is tried again.",
    )


@contextmanager
def told_in_words(path: Path) -> Iterator[None]:
    """Say in words why a file cannot be written."""
    try:
        yield
    except OSError as error:
        raise _in_words(error, path) from error


def _in_words(error: OSError, path: Path) -> ProblemError:
    where = str(path)
    if error.errno in _FULL:
        return fail(
            "disk-full", "The disk is full; the file stays as it was.", where=where, do="Make room on the disk."
        )
    if error.errno == errno.ENOENT and not path.parent.is_dir():
        return fail(
            "folder-missing", "The folder does not exist.", where=str(path.parent), do="Make it, or name another."
        )
    if error.errno == errno.ETXTBSY or getattr(error, "winerror", None) in (32, 33):
        return _open_elsewhere(path, "It cannot be replaced now.")
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return fail(
            "file-unwritable",
            "The file cannot be written: this user may not.",
            where=where,
            do="Allow this user to write the folder and the file, or name another.",
        )
    why = (error.strerror or "the disk failed").lower()
    return fail("file-unwritable", f"The file cannot be written: {why}.", where=where, do="Name another, or try again.")


def clear_litter(path: Path) -> None:
    """Delete half-written files that killed programs left beside a file."""
    pattern = re.compile(_NAME_BESIDE.format(name=re.escape(path.name)))
    for left in path.parent.iterdir():
        found = pattern.fullmatch(left.name)
        if found and not _runs(int(found[1])):
            left.unlink(missing_ok=True)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except PermissionError:  # Somebody else's.
        return True
    return True
