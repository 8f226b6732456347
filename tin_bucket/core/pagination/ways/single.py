"""One answer is all there is."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.pagination.base import PaginationModel
from tin_bucket.core.pagination.protocol import PaginationEnd, Paginator, stated_number
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call


class NoPagination(PaginationModel):
    """The answer to one call is all there is."""

    by: Literal["none"] = "none"


def one_answer(call: Call, pages: NoPagination, base: str = "") -> Paginator:
    """The answer to one call is all there is."""
    page = yield [call]
    total = stated_number(page, pages.total)
    return PaginationEnd(
        "single", "one call, no pages", page.failed is None, total, failed_pages=int(page.failed is not None)
    )


WAY = Way(
    key="none",
    model=NoPagination,
    label="One answer is all",
    phrase="not at all",
    paginate=one_answer,
)
