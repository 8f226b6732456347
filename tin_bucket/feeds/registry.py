"""The code of each kind of feed. A further kind is a file in ``kinds`` and a line here, and its model in ``core``."""

from __future__ import annotations

from typing import Any

from tin_bucket.core.hand_over.feed import FeedModel

from .delivery import FeedCode
from .kinds import address, database, file, history, sheet

CODES: dict[str, FeedCode[Any]] = {
    "sheet": sheet.CODE,
    "file": file.CODE,
    "address": address.CODE,
    "database": database.CODE,
    "history": history.CODE,
}


def code_of(feed: FeedModel) -> FeedCode[Any]:
    """The code of a feed."""
    return CODES[feed.to]
