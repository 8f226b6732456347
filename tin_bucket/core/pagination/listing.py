"""The ways that turn the pages of one list. A further one is a file in ``ways`` and a line here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import union_of
from tin_bucket.core.request.call import Call

from .base import PaginationModel
from .proof import heeding
from .protocol import Paginator
from .way import Way
from .ways import cursor, last_row, link, next_url, number, offset, row_range, single

SINGLE = single.WAY
LISTING_WAYS: tuple[Way[Any], ...] = (
    SINGLE,
    number.WAY,
    offset.WAY,
    cursor.WAY,
    next_url.WAY,
    link.WAY,
    last_row.WAY,
    row_range.WAY,
)
_BY_KEY = {way.key: way for way in LISTING_WAYS}

if TYPE_CHECKING:
    Listing = PaginationModel
else:
    Listing = union_of("by", LISTING_WAYS)


def listing_paginator(call: Call, pages: PaginationModel, base: str) -> Paginator:
    """The paginator of a list."""
    return heeding(_BY_KEY[pages.by].paginate(call, pages, base))
