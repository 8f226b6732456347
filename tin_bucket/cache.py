"""One cache for all that is kept in memory for a while: bounded, and safe to use from any thread."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class LockedCache(Generic[K, V]):
    """The latest values by key; those that were used longest ago go first.

    A key holds all that makes a value stale, such as the version of a snapshot: so nothing has to be cleared, and what
    is outdated is never found. Values are made outside of the lock: two threads may make the same one, and one of them
    is kept.
    """

    def __init__(self, most: int, size: Callable[[V], int] = lambda value: 1) -> None:
        """
        Args:
            most: how much is kept, as `size` counts it. The newest value is kept however large it is.
            size: the size of a value.
        """
        self._lock = Lock()
        self._kept: LRUCache[K, V] = LRUCache(most, getsizeof=lambda value: min(size(value), most))

    def get(self, key: K) -> V | None:
        """The value, if it is kept."""
        with self._lock:
            return self._kept.get(key)

    def put(self, key: K, value: V) -> None:
        """Keep a value."""
        with self._lock:
            self._kept[key] = value

    def get_or_make(self, key: K, make: Callable[[], V]) -> V:
        """The value; made when it is not kept."""
        known = self.get(key)
        if known is not None:
            return known
        made = make()
        with self._lock:
            # Another thread may have been quicker: all get the same value.
            return self._kept.setdefault(key, made)

    def pop(self, key: K) -> V | None:
        """Take a value out."""
        with self._lock:
            return self._kept.pop(key, None)

    def drop(self, stale: Callable[[K], bool]) -> None:
        """Let go of the values of some keys."""
        with self._lock:
            for key in [key for key in self._kept if stale(key)]:
                del self._kept[key]

    def __len__(self) -> int:
        with self._lock:
            return len(self._kept)
