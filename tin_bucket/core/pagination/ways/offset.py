"""Pages by the number of rows before them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.pagination.base import AT, AT_ONCE, SIZE, UNTIL_TOTAL, PlacedModel, parameter_field
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.members import flat_name
from tin_bucket.core.pagination.names import OFFSET
from tin_bucket.core.pagination.protocol import Paginator
from tin_bucket.core.pagination.tracker import PageTracker, past_the_end
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put


class OffsetPagination(PlacedModel):
    """Pages are asked for by the number of rows before them."""

    by: Literal["offset"] = "offset"
    parameter: str = Field(default="offset", min_length=1)
    first: int = Field(default=0, ge=0)


def by_offset(call: Call, pages: OffsetPagination, base: str = "") -> Paginator:
    """Pages by the number of rows before them, until the stated total, else an empty page."""
    tracker = PageTracker(pages)
    open_at: list[int] = []
    following = pages.first

    def ask(offset: int) -> Call:
        open_at.append(offset)
        return put(call, pages.at, {pages.parameter: offset, **pages.sizing()}, f"from row {offset}")

    calls = [ask(following)]
    while True:
        page = yield calls
        offset = open_at.pop(0)
        if (why := past_the_end(page, tracker)) is not None:
            return tracker.stop("empty-page", f"the page from row {offset} {why}", True)
        stop = tracker.saw(page)
        if stop is not None:
            return stop
        # The step is what the API really gives, whatever was asked for.
        step = tracker.first_size
        if page.failed is None:
            if tracker.met(page):
                return tracker.stop("stated-total", f"all {tracker.total:,} stated rows are here", True)
            if not page.size:
                enough = tracker.total is None or offset - pages.first >= tracker.total
                return tracker.stop("empty-page", f"there is no row from row {offset} on", enough)
        elif not open_at:
            return tracker.stop("failed-page", f"the page from row {offset} could not be fetched", False)
        if (stop := tracker.enough()) is not None:
            return stop
        if tracker.total is not None:
            following = max(following, offset + step)
            calls = []
            while following < tracker.total + pages.first and tracker.asked + len(open_at) < pages.most:
                if len(open_at) >= AT_ONCE:
                    break
                calls.append(ask(following))
                following += step
            if not open_at:
                # All that was announced is here, and the total is not: rows are counted in another way.
                calls = [ask(following)]
        else:
            calls = [ask(offset + page.size)]


_OFFSET = {flat_name(name) for name in OFFSET} | {"first"}


def _by_offset(seen: Evidence) -> list[PaginationGuess]:
    sent = seen.parameter(_OFFSET)
    value = seen.sent.get((sent or "").removeprefix("$."), "")
    if sent is not None and flat_name(sent.rpartition(".")[2]) == "first" and value not in ("0", "1"):
        sent, value = None, ""  # That many rows are asked for.
    at, number = seen.number(_OFFSET)
    if seen.is_all() or ((sent is None or not value.isdigit()) and number is None):
        return []
    plain = sent is not None and flat_name(sent.rpartition(".")[2]) in ("offset", "skip", "startat", "startindex")
    if not seen.total and not seen.sizing() and not plain:
        return []
    if not value.isdigit():
        sent = None
    first = 1 if number == 1 or value == "1" else 0
    evidence = [f"{at} is {number:,}"] if number is not None else [f"the call sends {sent} = {value}"]
    evidence += seen.total_words() + seen.size_words()
    pages = OffsetPagination(
        at=seen.at, parameter=sent or (at or "").rpartition(".")[2], first=first, **seen.sizing(sent), **seen.common()
    )
    return [
        PaginationGuess(pages, "by the number of rows before", evidence, 0.75 if seen.total else 0.5, sent is not None)
    ]


WAY = Way(
    key="offset",
    model=OffsetPagination,
    label="By the number of rows before",
    fields=(
        parameter_field("Parameter with the rows before", "offset"),
        AT,
        FormField("first", "The first row is", "number", required=True, least=0),
        *SIZE,
    ),
    phrase="rows before{at}",
    until=UNTIL_TOTAL,
    paginate=by_offset,
    detect=_by_offset,
    can_skip=True,
    asks_behind=True,
)
