"""Answers for the browser: long lists are cut so that the tree opens at once; how much there is is always said."""

from __future__ import annotations

from typing import Any

from .cells import shown

MOST_ITEMS = 100
MOST_MEMBERS = 500
MOST_TEXT = 2_000
MOST_DEPTH = 60


def tree(value: Any, depth: int = 0) -> Any:
    """A JSON value as nodes: ``["list", length, items]``, ``["object", length, [[name, node], …]]``, or the value."""
    if isinstance(value, list):
        if depth >= MOST_DEPTH:
            return ["list", len(value), []]
        return ["list", len(value), [tree(item, depth + 1) for item in value[:MOST_ITEMS]]]
    if isinstance(value, dict):
        if depth >= MOST_DEPTH:
            return ["object", len(value), []]
        members = [[shown(name), tree(value[name], depth + 1)] for name in list(value)[:MOST_MEMBERS]]
        return ["object", len(value), members]
    if isinstance(value, int) and not isinstance(value, bool) and shown(value) is not value:
        return ["number", str(value)]
    if isinstance(value, str) and len(value) > MOST_TEXT:
        return shown(value[:MOST_TEXT] + "…")
    return shown(value)
