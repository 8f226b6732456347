"""Waiting in tests: for a condition, or on a clock whose pauses take no time."""

import asyncio
import time
from datetime import timedelta

from tin_bucket.engine.clock import SetClock

PATIENCE = 30  # Seconds after which a condition is taken to fail.


def until(condition, what="what was waited for did not come"):
    """Wait for a condition that other threads or processes bring about; gives its value."""
    deadline = time.monotonic() + PATIENCE
    while not (value := condition()):
        assert time.monotonic() < deadline, what
        time.sleep(0.01)
    return value


async def async_until(condition, what="what was waited for did not come"):
    """As :func:`until`, while the event loop goes on."""
    deadline = time.monotonic() + PATIENCE
    while not (value := condition()):
        assert time.monotonic() < deadline, what
        await asyncio.sleep(0.01)
    return value


class LeapingClock(SetClock):
    """A clock that leaps over pauses: whoever waits goes on at once, and then it is as late as if they had waited."""

    def __init__(self, moment):
        super().__init__(moment)
        self.leapt = 0.0

    def elapsed(self):
        return super().elapsed() + self.leapt

    def leap(self, seconds):
        if seconds > 0:
            self.set(self.now() + timedelta(seconds=seconds))
            self.leapt += seconds

    async def sleep(self, seconds):
        await asyncio.sleep(0)
        self.leap(seconds)

    def call_later(self, seconds, callback):
        due = self.elapsed() + seconds

        def leap_and_call():
            self.leap(due - self.elapsed())
            callback()

        # A moment, so that whoever watches sees the wait.
        return asyncio.get_running_loop().call_later(0.03, leap_and_call)
