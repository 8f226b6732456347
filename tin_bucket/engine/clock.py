"""The time, as the engine sees it: the machine's, or one that was set for making a demo's past."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta, tzinfo

from tzlocal import get_localzone


class Clock:
    """The machine's clock."""

    def now(self) -> datetime:
        """This moment, in UTC."""
        return datetime.now(UTC)

    def here(self) -> datetime:
        """This moment, in the time zone of this machine."""
        return self.now().astimezone(get_localzone())

    def zone(self) -> tzinfo:
        """The time zone of this machine."""
        return self.here().tzinfo or UTC

    def today(self) -> date:
        """Today's date where this machine is."""
        return self.here().date()

    def elapsed(self) -> float:
        """Seconds since some moment in the past; they never run backwards."""
        return time.monotonic()

    async def sleep(self, seconds: float) -> None:
        """Wait."""
        await asyncio.sleep(seconds)

    def call_later(self, seconds: float, callback: Callable[[], None]) -> asyncio.Handle:
        """Have the event loop call something after a while, unless the handle is cancelled."""
        return asyncio.get_running_loop().call_later(seconds, callback)


class SetClock(Clock):
    """A clock that was set to a moment and runs on from there."""

    def __init__(self, moment: datetime) -> None:
        self.set(moment)

    def set(self, moment: datetime) -> None:
        """Set the clock."""
        self._moment, self._since = moment, time.monotonic()

    def now(self) -> datetime:
        """The moment that was set, and the time that has gone by since."""
        return self._moment + timedelta(seconds=time.monotonic() - self._since)

    def here(self) -> datetime:
        """That moment, in UTC."""
        return self.now()
