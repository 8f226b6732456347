"""Keys that were seen in a pasted text, held in memory for a while until they are put into the vault or forgotten."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from threading import Lock

from cachetools import TTLCache

SECONDS = 15 * 60
_MOST = 50


class Held:
    """What is held, by a handle that says nothing."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._kept: TTLCache[str, dict[str, str]] = TTLCache(_MOST, SECONDS)

    def hold(self, secret: Mapping[str, str]) -> str:
        """Hold a key; returns its handle."""
        handle = secrets.token_urlsafe(12)
        self.put_back(handle, secret)
        return handle

    def take(self, handle: str | None) -> dict[str, str]:
        """What is held under a handle, and releases it; nothing when it has expired."""
        with self._lock:
            return self._kept.pop(handle or "", {})

    def put_back(self, handle: str | None, secret: Mapping[str, str]) -> None:
        """Hold a key again under its handle: what it was taken for did not come to pass."""
        if handle:
            with self._lock:
                self._kept[handle] = dict(secret)
