"""The time, as the engine sees it: the machine's, or one that was set for making a demo's past."""

from __future__ import annotations

from datetime import UTC, date, datetime


class Clock:
    """The machine's clock."""

    def now(self) -> datetime:
        """This moment, in UTC."""
        return datetime.now(UTC)

    def today(self) -> date:
        """Today's date where this machine is."""
        return self.now().astimezone().date()


class SetClock(Clock):
    """A clock that shows what it was set to."""

    def __init__(self, moment: datetime) -> None:
        self.moment = moment

    def now(self) -> datetime:
        """The moment that was set."""
        return self.moment

    def today(self) -> date:
        """The date of that moment, in UTC."""
        return self.moment.date()
