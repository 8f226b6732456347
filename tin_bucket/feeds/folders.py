"""Where feeds may write: the workspace's own folder, and those that its owner allowed."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath, PureWindowsPath

from tin_bucket.core.problem import ProblemError, fail

_NO_NAME = set('<>:"|?*\0')


@dataclass(frozen=True, slots=True)
class Folders:
    """The folders that may be written.

    Attributes:
        own: the workspace's, which names without a folder are in.
        allowed: others.
    """

    own: Path
    allowed: Sequence[Path] = ()

    def resolve(self, name: str) -> Path:
        """The path of a file or folder that a feed names. Links on the way are followed, so none leads out.

        Raises:
            ProblemError: ``path-refused``, ``folder-refused``.
        """
        parts = PureWindowsPath(name).parts if "\\" in name else PurePosixPath(name).parts
        if ".." in parts:
            raise _refused(name, "it leads out of its folder with “..”", "Name the file without “..”.")
        if PureWindowsPath(name).drive and os.name != "nt":
            raise _refused(name, "it names a drive, which this machine has not", "Name a folder of this machine.")
        last = parts[-1] if parts else ""
        if not last.strip(". ") or _NO_NAME & set(last) or any(ord(char) < 32 for char in name):
            raise _refused(name, "it is no name of a file", 'Name it without < > : " | ? * and control characters.')
        path = Path(*parts)
        if not path.is_absolute():
            path = self.own / path
        try:
            real = path.parent.resolve() / path.name
            if real.is_symlink():
                real = real.resolve()
        except (OSError, RuntimeError) as error:
            raise _refused(name, "its folder cannot be found", "Name another.") from error
        for folder in (self.own, *self.allowed):
            if real.is_relative_to(folder.resolve()) and real != folder.resolve():
                return real
        raise fail(
            "folder-refused",
            f"Feeds may not write to the folder {real.parent}.",
            where=name[:300],
            do="Allow the folder with “tin-bucket folder --writing …”, or name a file without a folder.",
        )

    def make(self, path: Path) -> None:
        """Make the folders of a path that lies in the workspace's own folder, where they are missing.

        Raises:
            OSError: the disk does not take them.
        """
        if path.is_relative_to(self.own.resolve()):
            path.parent.mkdir(parents=True, exist_ok=True)


def _refused(name: str, why: str, do: str) -> ProblemError:
    return fail("path-refused", f"“{name[:200]}” cannot be written: {why}.", where="path", do=do)
