"""Whether a service leaves answers 304 out of its count, proved by the calls that it says are left."""

from __future__ import annotations

_ENOUGH = 3  # Answers 304 from which on there is a proof.


class UnchangedCount:
    """Watches the calls that are left. Answers may come in another order than that in which they were counted."""

    def __init__(self) -> None:
        self._first = self._least = 0
        self._made = self._unchanged = 0
        self._seen = False

    def answered(self, status: int, left: int) -> None:
        """A call was answered.

        Args:
            left: how many calls are left, as the answer says.
        """
        if not self._seen or left > self._first:
            # The first one, or a window that began anew.
            self._seen = True
            self._first = self._least = left
            self._made = self._unchanged = 0
            return
        self._made += 1
        self._unchanged += status == 304
        self._least = min(self._least, left)

    @property
    def are_free(self) -> bool:
        """Whether no more calls were counted than those that were not answered 304."""
        counted = self._first - self._least
        return self._unchanged >= _ENOUGH and counted <= self._made - self._unchanged
