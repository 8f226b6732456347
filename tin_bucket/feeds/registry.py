"""The code of each kind of feed. A further kind is a file in ``kinds`` and a line here, and its model in ``core``."""

from __future__ import annotations

from importlib import import_module
from typing import Any

from tin_bucket.core.hand_over.feed import FeedModel

from .delivery import FeedCode

# The modules of ``kinds``. Each is imported when a table is handed over so: they bring large packages along.
CODES = {"sheet": "sheet", "file": "file", "address": "address", "database": "database", "history": "history"}


def code_of(feed: FeedModel) -> FeedCode[Any]:
    """The code of a feed."""
    code: FeedCode[Any] = import_module(f"tin_bucket.feeds.kinds.{CODES[feed.to]}").CODE
    return code
