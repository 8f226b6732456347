"""Answers of lookups that are kept for a while, so that a refresh asks only for values that it has not seen."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping
from datetime import datetime
from typing import Any

from tin_bucket.core.formats.json import json_text
from tin_bucket.core.table.lookup import Kept, Key

from .archive import pack, unpack
from .database import Database

_CHUNK = 400


class LookedUp:
    """Reads and writes kept answers of lookups."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def known(self, question: bytes, keys: Collection[Key], since: datetime) -> dict[Key, Kept]:
        """Those of some values whose answers were asked for since a moment.

        Args:
            question: what tells the answers of a lookup from those of others.
        """
        texts = {json_text(list(key)): key for key in keys}
        out: dict[Key, Kept] = {}
        names = list(texts)
        with self._database.read() as db:
            for start in range(0, len(names), _CHUNK):
                some = names[start : start + _CHUNK]
                marks = ",".join("?" * len(some))
                rows = db.execute(
                    "SELECT value, asked, found FROM looked_up"
                    f" WHERE question = ? AND asked >= ? AND value IN ({marks})",
                    (question, since.isoformat(timespec="seconds"), *some),
                ).fetchall()
                for row in rows:
                    found = None if row["found"] is None else json.loads(unpack(row["found"]))
                    out[texts[row["value"]]] = Kept(found, row["asked"])
        return out

    def keep(self, question: bytes, found: Mapping[Key, Any], now: datetime) -> None:
        """Keep what was found for some values; nothing is a result too."""
        asked = now.isoformat(timespec="seconds")
        rows = [
            (question, json_text(list(key)), asked, None if one is None else pack(json_text(one).encode())[1])
            for key, one in found.items()
        ]
        with self._database.write() as db:
            db.executemany("INSERT OR REPLACE INTO looked_up VALUES (?, ?, ?, ?)", rows)

    def forget(self, question: bytes) -> None:
        """Let go of all that is kept for a lookup."""
        with self._database.write() as db:
            db.execute("DELETE FROM looked_up WHERE question = ?", (question,))
