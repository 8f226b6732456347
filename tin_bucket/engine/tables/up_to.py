"""The newest date of a table up to a day or a moment that somebody wrote."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, tzinfo

from tin_bucket.store.snapshot import Snapshot


def up_to(dates: Sequence[Snapshot], text: str, zone: tzinfo) -> Snapshot | None:
    """The newest date up to a day or a moment; nothing where all are later.

    Args:
        dates: the oldest first.
        text: a day, which counts to its end where this machine is, or a moment, ISO 8601; one without a zone is of this
            machine's.

    Raises:
        ValueError: it is neither.
    """
    if len(text) == 10:
        day = date.fromisoformat(text)
        found = [one for one in dates if datetime.fromisoformat(one.taken).astimezone(zone).date() <= day]
    else:
        moment = datetime.fromisoformat(text.replace(" ", "+"))
        moment = moment if moment.tzinfo else moment.replace(tzinfo=zone)
        found = [one for one in dates if datetime.fromisoformat(one.taken) <= moment]
    return found[-1] if found else None
