"""A workspace as one file and back: a zip archive with a list of what is in it, with digests.

The archive holds a copy of the workspace as it was at one moment, whatever is written meanwhile. Stored keys are in it
only sealed under a passphrase: the key file that opens a vault without one is never in the same archive.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import secrets
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path, PurePosixPath
from typing import Any
from urllib.parse import quote, unquote_to_bytes

from tin_bucket.core.problem import ProblemError, fail

from .database import FILE_NAME
from .vault import KEY_FILE
from .workspace import Workspace

MANIFEST = "tin-bucket-backup.json"
FORMAT = 1
_FILES = "files"
_PART = 2**20
_MOST_MANIFEST = 50 * 2**20


@dataclass(frozen=True, slots=True)
class BackupSummary:
    """What a backup holds.

    Attributes:
        keys: how many stored keys are in it, sealed.
        size: bytes of the archive, or of what was restored.
    """

    made: str
    queries: int
    snapshots: int
    keys: int
    files: int
    size: int


def write_backup(
    workspace: Workspace,
    target: Path,
    now: datetime,
    *,
    keys: bool = True,
    passphrase: str | None = None,
    tell: Callable[[int, int], None] = lambda done, of: None,
) -> BackupSummary:
    """Write a workspace to a file; the file is there as a whole, or not at all.

    Args:
        keys: whether the stored keys go along.
        passphrase: what they are sealed under in the backup, where the vault has none of its own.
        tell: called with how many bytes are written, and of all.

    Raises:
        ProblemError: ``backup-passphrase`` when keys are to go along and nothing would seal them; ``file-unwritable``;
            ``vault-closed``; or as :class:`Database`.
    """
    if keys and workspace.vault.key_count() and not workspace.vault.has_passphrase and passphrase is None:
        raise fail(
            "backup-passphrase",
            "The stored keys need a passphrase to be sealed under in the backup.",
            where=str(target),
            do="Give one, or leave the keys out.",
        )
    try:
        with tempfile.TemporaryDirectory(prefix=f".{target.name}.", dir=target.parent) as name:
            folder = Path(name)
            copy = folder / "copy"
            summary = _copy(workspace, copy, now, keys, passphrase)
            archive = folder / "archive"
            _pack(copy, _own_files(workspace), archive, summary, tell)
            os.replace(archive, target)
    except OSError as error:
        raise fail(
            "file-unwritable", f"The backup cannot be written: {error.strerror}.", where=str(target), do="Name another."
        ) from error
    return BackupSummary(**{**summary, "size": target.stat().st_size})


def _copy(workspace: Workspace, copy: Path, now: datetime, keys: bool, passphrase: str | None) -> dict[str, Any]:
    """Copy the database, with the keys sealed or left out; gives what is in it."""
    copy.mkdir(mode=0o700)
    workspace.copy_to(copy / FILE_NAME)
    key_file = workspace.home / KEY_FILE
    if keys and key_file.exists():
        shutil.copyfile(key_file, copy / KEY_FILE)
    made = Workspace(copy)
    try:
        if not keys:
            made.vault.forget_all()
        elif made.vault.key_count() and not made.vault.has_passphrase:
            made.vault.set_passphrase(passphrase)
        summary = {
            "made": now.isoformat(timespec="seconds"),
            "queries": len(made.queries.names()),
            "snapshots": made.snapshots.count(),
            "keys": made.vault.key_count(),
            "files": 0,
            "size": 0,
        }
        made.settle()
    finally:
        made.close()
    (copy / KEY_FILE).unlink(missing_ok=True)
    return summary


def _own_files(workspace: Workspace) -> list[tuple[str, Path]]:
    """The files of the workspace's own folder for queries; another allowed folder is somebody else's."""
    folder = workspace.home / _FILES
    found = sorted(path for path in folder.rglob("*") if path.is_file() and not path.is_symlink())
    # A name need not be text of any encoding.
    return [(f"{_FILES}/{quote(os.fsencode(path.relative_to(folder)), safe='/ ()')}", path) for path in found]


def _pack(
    copy: Path, files: list[tuple[str, Path]], archive: Path, summary: dict[str, Any], tell: Callable[[int, int], None]
) -> None:
    parts = [(FILE_NAME, copy / FILE_NAME), *files]
    whole = sum(path.stat().st_size for _, path in parts)
    summary["files"], listed, done = len(files), {}, 0
    with (
        os.fdopen(os.open(archive, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed,
    ):
        for name, path in parts:
            digest, size = hashlib.sha256(), 0
            with path.open("rb") as source, packed.open(name, "w", force_zip64=True) as target:
                while part := source.read(_PART):
                    digest.update(part)
                    target.write(part)
                    size += len(part)
                    tell(done + size, max(whole, done + size))
            done += size
            listed[name] = {"sha256": digest.hexdigest(), "size": size}
        document = {"tin_bucket_backup": FORMAT, **summary, "contents": listed}
        packed.writestr(MANIFEST, json.dumps(document, indent=1))


# Restoring ---------------------------------------------------------------------------------------------------------


def restore_backup(source: Path, home: Path, tell: Callable[[int, int], None] = lambda done, of: None) -> BackupSummary:
    """Make a workspace of a backup, in a folder that has none: all of it, or nothing.

    Raises:
        ProblemError: ``workspace-exists``; ``backup-unreadable`` when the file is damaged or is no backup;
            ``backup-newer``; ``file-unwritable``; or as :class:`Database`.
    """
    if home.exists() and (not home.is_dir() or any(home.iterdir())):
        raise fail(
            "workspace-exists",
            "There is something in this folder already.",
            where=str(home),
            do="Name an empty or a new folder with --home, or move that one away first.",
        )
    beside = home.with_name(f".{home.name}.{secrets.token_hex(4)}.restoring")
    try:
        beside.mkdir(parents=True, mode=0o700)
        with _opened(source) as packed:
            summary = _unpack(packed, source, beside, tell)
        # What cannot be opened is no workspace.
        Workspace(beside).close()
        if home.exists():
            home.rmdir()
        os.replace(beside, home)
    except OSError as error:
        raise fail(
            "file-unwritable",
            f"The backup cannot be restored: {error.strerror}.",
            where=str(home),
            do="Check that the disk has room, or name another folder with --home.",
        ) from error
    finally:
        shutil.rmtree(beside, ignore_errors=True)
    return summary


class _Archive(io.BufferedReader):
    """An open backup. A place before its beginning, which a damaged list of entries may name, is damage of the file
    and no fault of the disk."""

    def seek(self, target: int, whence: int = os.SEEK_SET, /) -> int:
        try:
            return super().seek(target, whence)
        except OSError as error:
            raise zipfile.BadZipFile("A place outside of the file.") from error


@contextmanager
def _opened(source: Path) -> Iterator[zipfile.ZipFile]:
    try:
        file = _Archive(io.FileIO(source))
    except OSError as error:
        raise fail(
            "file-unreadable", f"The file cannot be read: {error.strerror}.", where=str(source), do="Check its path."
        ) from error
    with file:
        try:
            with zipfile.ZipFile(file) as packed:
                yield packed
        except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
            raise _unreadable(source, "The file is damaged, or is no backup of a workspace.") from error


def _unreadable(source: Path, what: str) -> ProblemError:
    return fail("backup-unreadable", what, where=str(source), do="Take another backup; nothing was changed.")


def _unpack(packed: zipfile.ZipFile, source: Path, target: Path, tell: Callable[[int, int], None]) -> BackupSummary:
    manifest = _manifest(packed, source)
    contents: dict[str, Any] = manifest["contents"]
    whole, done = sum(one["size"] for one in contents.values()), 0
    there = set(packed.namelist())
    for name, one in contents.items():
        if name not in there:
            raise _unreadable(source, f"“{name}” is missing in it.")
        path = target / os.fsdecode(unquote_to_bytes(name))
        for folder in reversed(path.relative_to(target).parents[:-1]):
            (target / folder).mkdir(exist_ok=True, mode=0o700)
        digest, size = hashlib.sha256(), 0
        with (
            packed.open(name) as entry,
            os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out,
        ):
            while part := entry.read(_PART):
                size += len(part)
                if size > one["size"]:
                    raise _unreadable(source, f"“{name}” in it is larger than the backup says.")
                digest.update(part)
                out.write(part)
                tell(done + size, whole)
        done += size
        if digest.hexdigest() != one["sha256"]:
            raise _unreadable(source, f"“{name}” in it is not what was written.")
    members = {key: manifest[key] for key in ("made", "queries", "snapshots", "keys", "files")}
    return BackupSummary(**members, size=done)


def _manifest(packed: zipfile.ZipFile, source: Path) -> dict[str, Any]:
    try:
        info = packed.getinfo(MANIFEST)
    except KeyError as error:
        raise _unreadable(source, "The file is no backup of a workspace.") from error
    if info.file_size > _MOST_MANIFEST:
        raise _unreadable(source, "The list of what is in it is too long.")
    document = json.loads(packed.read(info))
    version = document.get("tin_bucket_backup") if isinstance(document, dict) else None
    if isinstance(version, int) and version > FORMAT:
        raise fail(
            "backup-newer",
            f"The backup is of format {version}; this program knows formats up to {FORMAT}.",
            where=str(source),
            do="Use a newer Tin Bucket; nothing was changed.",
        )
    contents = document.get("contents") if version == FORMAT else None
    fits = isinstance(contents, dict) and FILE_NAME in contents and all(map(_is_own, contents, contents.values()))
    counts = (
        all(isinstance(document.get(key), int) for key in ("queries", "snapshots", "keys", "files")) if fits else False
    )
    if not counts or not isinstance(document.get("made"), str):
        raise _unreadable(source, "The list of what is in it cannot be read.")
    return dict(document)


def _is_own(name: str, one: Any) -> bool:
    """Whether an entry is one that a backup has; its name leads nowhere else."""
    decoded = os.fsdecode(unquote_to_bytes(name))
    path = PurePosixPath(decoded)
    inside = name == FILE_NAME or (
        path.parts[:1] == (_FILES,) and len(path.parts) > 1 and ".." not in path.parts and "\0" not in decoded
    )
    return (
        inside
        and not path.is_absolute()
        and isinstance(one, dict)
        and isinstance(one.get("size"), int)
        and isinstance(one.get("sha256"), str)
    )
