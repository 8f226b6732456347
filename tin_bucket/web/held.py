"""Keys that were seen in a pasted text, held in memory for a while until they are put into the vault or forgotten."""

from __future__ import annotations

import secrets
import time
from collections import OrderedDict
from collections.abc import Mapping

SECONDS = 15 * 60
_MOST = 50


class Held:
    """What is held, by a handle that says nothing."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, tuple[float, dict[str, str]]] = OrderedDict()

    def hold(self, secret: Mapping[str, str]) -> str:
        """Hold a key; returns its handle."""
        handle = secrets.token_urlsafe(12)
        self._kept[handle] = (time.monotonic(), dict(secret))
        while len(self._kept) > _MOST or (self._kept and self._too_old()):
            self._kept.popitem(last=False)
        return handle

    def take(self, handle: str | None) -> dict[str, str]:
        """What is held under a handle, which then is held no more; nothing when it was let go."""
        since, secret = self._kept.pop(handle or "", (0.0, {}))
        return secret if time.monotonic() - since < SECONDS else {}

    def put_back(self, handle: str | None, secret: Mapping[str, str]) -> None:
        """Hold a key again under its handle: what it was taken for did not come to pass."""
        if handle:
            self._kept[handle] = (time.monotonic(), dict(secret))

    def _too_old(self) -> bool:
        return time.monotonic() - next(iter(self._kept.values()))[0] > SECONDS
