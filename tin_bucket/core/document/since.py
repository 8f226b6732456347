"""Whether a query asks only for what came since its last refresh."""

from __future__ import annotations

from .query import Brief

_SINCE = "last refresh"


def asks_since(brief: Brief) -> bool:
    """Whether a value that is asked with counts from the last refresh: each table has then only what came since, and
    dates that have no row in common miss nothing."""
    edges = [getattr(one, name, None) for one in brief.each for name in ("start", "end")]
    values = [*(parameter.default for parameter in brief.parameters), *edges]
    return any(getattr(one, "anchor", "") == _SINCE for one in values)
