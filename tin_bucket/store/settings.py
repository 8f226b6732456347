"""The workspace's settings: a name and a text each."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

from .database import Database

_FOLDER = "files folder"
_WRITTEN = "written folders"


class Settings:
    """Reads and writes settings."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, name: str) -> str | None:
        """A setting, or ``None`` when it was never made."""
        with self._database.read() as db:
            row = db.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
        return None if row is None else str(row["value"])

    def put(self, name: str, value: str) -> None:
        """Make a setting."""
        with self._database.write() as db:
            db.execute("INSERT INTO setting VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = ?2", (name, value))

    @property
    def folder(self) -> Path:
        """The one folder whose files queries may read; a folder of the workspace unless another was allowed."""
        return Path(self.get(_FOLDER) or self._database.home / "files")

    def allow_folder(self, path: Path) -> None:
        """Let queries read the files of a folder, in place of the one before."""
        self.put(_FOLDER, str(path.resolve()))

    @property
    def own_folder(self) -> Path:
        """The workspace's own folder for what is handed over."""
        return self._database.home.absolute() / "handed-over"

    @property
    def written_folders(self) -> list[Path]:
        """The other folders that feeds may write to."""
        return [Path(one) for one in json.loads(self.get(_WRITTEN) or "[]")]

    def allow_writing(self, folders: Sequence[Path]) -> None:
        """Let feeds write to folders, in place of those before."""
        self.put(_WRITTEN, json.dumps([str(one.resolve()) for one in folders]))
