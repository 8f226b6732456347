"""Snapshots as a command line names them: by their number, a day, or a moment."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from tin_bucket.core.problem import fail
from tin_bucket.engine.clock import Clock
from tin_bucket.store.snapshot import Snapshot


def snapshot_at(name: str, kept: Sequence[Snapshot], text: str | None, where: str) -> Snapshot:
    """The newest snapshot up to a day or a moment of this machine's zone, or the one of a number (``#12``).

    Args:
        name: what the query is called.
        kept: its snapshots, the oldest first.
        text: nothing for the newest one.

    Raises:
        ProblemError: ``date-unreadable``, ``snapshot-unknown``.
    """
    zone = Clock().zone()
    found: Sequence[Snapshot] = kept
    told = text or ""
    if told.startswith("#"):
        found = [one for one in kept if str(one.id) == told[1:]]
    elif told:
        try:
            if len(told) == 10:
                day = date.fromisoformat(told)
                found = [one for one in kept if datetime.fromisoformat(one.taken).astimezone(zone).date() <= day]
            else:
                moment = datetime.fromisoformat(told)
                moment = moment if moment.tzinfo else moment.replace(tzinfo=zone)
                # A snapshot of the same second counts, whatever its fraction.
                found = [one for one in kept if datetime.fromisoformat(one.taken).replace(microsecond=0) <= moment]
        except ValueError as error:
            raise fail(
                "date-unreadable",
                f"“{told[:40]}” is no date.",
                where=where,
                do="Write 2026-11-20, 2026-11-20T14:30, or #12 for the snapshot of that number.",
            ) from error
    if not found:
        raise fail(
            "snapshot-unknown",
            f"“{name}” has no snapshot"
            + (f" {told}." if told.startswith("#") else f" up to {told}." if told else " yet."),
            where=where,
            do="“tin-bucket snapshots” lists them." if kept else "Refresh the query first.",
        )
    return found[-1]
