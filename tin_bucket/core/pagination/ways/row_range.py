"""Pages by the numbers of their first and their last row."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.pagination.base import AT, UNTIL_TOTAL, PagedModel
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.members import flat_name
from tin_bucket.core.pagination.protocol import Paginator
from tin_bucket.core.pagination.tracker import PageTracker, past_the_end
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import ParameterLocation, put


class RowRangePagination(PagedModel):
    """Pages are asked for by the numbers of their first and their last row, both included."""

    by: Literal["row range"] = "row range"
    at: ParameterLocation = "address"
    start: str = Field(default="from", min_length=1, description="the parameter with the number of the first row")
    end: str = Field(default="to", min_length=1, description="the parameter with the number of the last row")
    size: int = Field(default=100, ge=1, description="rows a page to ask for")
    first: int = Field(default=1, ge=0, description="the number of the very first row")


def by_row_range(call: Call, pages: RowRangePagination, base: str = "") -> Paginator:
    """Pages by their first and last row, until the stated total, else an empty page."""
    tracker = PageTracker(pages)
    start = pages.first
    while True:
        window = {pages.start: start, pages.end: start + pages.size - 1}
        page = yield [put(call, pages.at, window, f"from row {start}")]
        if (why := past_the_end(page, tracker)) is not None:
            return tracker.stop("empty-page", f"the page from row {start} {why}", True)
        if (end := tracker.saw(page)) is not None:
            return end
        if page.failed is not None:
            return tracker.stop("failed-page", f"the page from row {start} could not be fetched", False)
        if tracker.met(page):
            return tracker.stop("stated-total", f"all {tracker.total:,} stated rows are here", True)
        if not page.size:
            return tracker.stop("empty-page", f"there is no row from row {start} on", True)
        if (end := tracker.enough()) is not None:
            return end
        start += page.size


_PAIRS = (("from", "to"), ("start", "end"), ("first", "last"), ("startrow", "endrow"), ("fromrow", "torow"))


def _detect(seen: Evidence) -> list[PaginationGuess]:
    """The call sends two row numbers, and the answer has as many rows as lie between them."""
    sent = {flat_name(name.rpartition(".")[2]): (name, value) for name, value in seen.sent.items()}
    for first, last in _PAIRS:
        (start, low), (end, high) = sent.get(first, ("", "")), sent.get(last, ("", ""))
        if not (low.isdigit() and high.isdigit()) or seen.is_all():
            continue
        size = int(high) - int(low) + 1
        if seen.page.size != size:
            continue
        pages = RowRangePagination(
            at=seen.at, start=seen.name(start), end=seen.name(end), size=size, first=min(int(low), 1), **seen.common()
        )
        evidence = [f"the call sends {start} = {low} and {end} = {high}, and {size:,} rows came", *seen.total_words()]
        return [PaginationGuess(pages, "by first and last row", evidence, 0.82, known=True)]
    return []


WAY = Way(
    key="row range",
    model=RowRangePagination,
    label="By the first and the last row",
    fields=(
        FormField("start", "Parameter with the first row", placeholder="from", required=True),
        FormField("end", "Parameter with the last row", placeholder="to", required=True),
        AT,
        FormField("size", "Rows a page to ask for", "number", required=True, least=1),
        FormField("first", "The first row is", "number", required=True, least=0),
    ),
    phrase="rows {start} to {end}{at}",
    until=UNTIL_TOTAL,
    paginate=by_row_range,
    asks_behind=True,
    detect=_detect,
)
