"""How the moments of a report are told where this machine is."""

from __future__ import annotations

from collections.abc import Callable

from tin_bucket.core.report.words import moment_words
from tin_bucket.engine.clock import Clock


def moments_of(clock: Clock) -> Callable[[str], str]:
    """Gives a moment, ISO 8601, in words: “Wed 25 Nov 05:30”. It stays true in a file that is read later."""
    zone, now = clock.zone(), clock.here()
    return lambda text: moment_words(text, zone, now) if text else ""
