"""How many calls at once: fewer when a service slows down or refuses, more again when it is well."""

from __future__ import annotations

_SLOW_FACTOR, _SLOW_LEAST = 4.0, 1.0


class Throttle:
    """Additive increase, multiplicative decrease."""

    def __init__(self, most: int) -> None:
        """
        Args:
            most: how many calls may be under way at once.
        """
        self.most = most
        self.now = most
        self._well = 0
        self._usual = 0.0

    def set_most(self, most: int) -> None:
        """Another bound, from now on."""
        if most != self.most:
            self.now = most if self.now == self.most else min(self.now, most)
            self.most = most

    def answered(self, seconds: float, refused: bool) -> None:
        """Learn from an answer.

        Args:
            seconds: how long it took.
            refused: whether the service was not able or not willing (429, 503, a time-out and such).
        """
        if refused:
            self.now = max(1, self.now // 2)
            self._well = 0
            return
        slow = self._usual > 0 and seconds > _SLOW_LEAST and seconds > _SLOW_FACTOR * self._usual
        if slow and self.now > 1:
            self.now -= 1
            self._well = 0
        else:
            self._usual = seconds if not self._usual else self._usual * 0.95 + min(seconds, 2 * self._usual) * 0.05
            self._well += 1
            if self._well >= 2 * self.now and self.now < self.most:
                self.now += 1
                self._well = 0
