"""Pages by their number."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.jsonpath import known_source
from tin_bucket.core.pagination.base import AT, AT_ONCE, SIZE, STATED, UNTIL_TOTAL, PlacedModel, parameter_field
from tin_bucket.core.pagination.contrary import says_more
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.members import flat_name
from tin_bucket.core.pagination.names import NUMBER
from tin_bucket.core.pagination.protocol import Paginator
from tin_bucket.core.pagination.tracker import PageTracker, past_the_end
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put


class NumberPagination(PlacedModel):
    """Pages are asked for by their number."""

    by: Literal["number"] = "number"
    parameter: str = Field(default="page", min_length=1)
    first: int = Field(default=1, ge=0)
    last_page: str | None = Field(default=None, description=STATED + "the number of the last page")

    _last = field_validator("last_page")(known_source)


def numbered(call: Call, pages: NumberPagination, base: str = "") -> Paginator:
    """Pages by their number, until the stated last page, else the stated total, else an empty page."""
    tracker = PageTracker(pages)
    announced = pages.first - 1
    number = pages.first

    def ask(upto: int) -> list[Call]:
        nonlocal announced
        upto = min(upto, pages.first + pages.most - 1, announced + AT_ONCE)
        calls = [
            put(call, pages.at, {pages.parameter: at, **pages.sizing()}, f"page {at}")
            for at in range(announced + 1, upto + 1)
        ]
        announced = max(announced, upto)
        return calls

    calls = ask(number)
    while True:
        page = yield calls
        behind = tracker.last is None or number >= pages.first + tracker.last
        if behind and (why := past_the_end(page, tracker)) is not None:
            return tracker.stop("empty-page", f"page {number} {why}", True)
        stop = tracker.saw(page)
        if stop is not None:
            return stop
        last = pages.first + tracker.last - 1 if tracker.last is not None else None
        # Pages may be counted for another size than they have.
        agreed = tracker.total is not None and tracker.rows == tracker.total and number > pages.first
        done = number == last and page.size > 0 and (not tracker.full or agreed) and says_more(page) is None
        if done or (last is not None and number >= last and page.failed is not None):
            return tracker.stop(
                "stated-pages", f"the API states {tracker.last:,} page{'' if tracker.last == 1 else 's'}", True
            )
        if last is None and tracker.met(page):
            return tracker.stop("stated-total", f"all {tracker.total:,} stated rows are here", True)
        if page.failed is None and not page.size:
            if last is not None and number <= last and tracker.rows and tracker.total != tracker.rows:
                why = f"page {number} is empty, though the API states {tracker.last:,} pages"
                return tracker.stop("empty-page", why, True, doubt=True)
            return tracker.stop("empty-page", f"page {number} is empty", True)
        if page.failed is not None and number >= announced:
            return tracker.stop("failed-page", f"page {number} could not be fetched, so what follows is unknown", False)
        if (stop := tracker.enough()) is not None:
            return stop
        number += 1
        known = number
        if last is not None and number <= last:
            known = last
        elif tracker.total is not None and tracker.first_size:
            known = pages.first - 1 + -(-tracker.total // tracker.first_size)
        calls = ask(max(known, number))


_PAGE = {flat_name(name) for name in NUMBER}


def _by_number(seen: Evidence) -> list[PaginationGuess]:
    page_at, page = seen.number(_PAGE | {"number"})
    sent = seen.parameter(_PAGE)
    if sent is not None and not seen.sent.get(sent.removeprefix("$."), "").isdigit():
        sent = None
    # An API that counts its pages has more of them for another question, and one that is asked for a page has pages.
    if seen.last is None and sent is None and (seen.is_all() or page is None or seen.total is None):
        return []
    evidence = [f"{seen.last_at} is {seen.last:,}"] if seen.last is not None else []
    evidence += [f"{page_at} is {page:,}"] if page is not None else []
    if sent is not None and not evidence:
        evidence = [f"the call sends {sent} = {seen.sent[sent.removeprefix('$.')]}"]
    evidence += seen.total_words() + seen.size_words()
    pages = NumberPagination(
        at=seen.at,
        parameter=sent or "page",
        first=0 if (page == 0 if sent is None else _sent_zero(seen, sent)) else 1,
        last_page=seen.last_at,
        **seen.sizing(),
        **seen.common(),
    )
    return [
        PaginationGuess(
            pages,
            "by number",
            evidence,
            # Where neither the call nor the answer says so, pages may be counted from nought.
            0.2 if seen.is_all() else 0.8 if sent or (seen.last is not None and page is not None) else 0.6,
            known=sent is not None,
        )
    ]


def _sent_zero(seen: Evidence, sent: str) -> bool:
    return seen.sent.get(sent.removeprefix("$."), "") == "0"


def _by_total(seen: Evidence) -> list[PaginationGuess]:
    """Rows are missing, and nothing says how to get them: a page number is what most APIs take."""
    if seen.total is None or seen.total <= seen.page.size or not seen.page.size:
        return []
    evidence = [*seen.total_words(), "nothing says how pages are turned; most often it is a parameter “page”"]
    pages = NumberPagination(at=seen.at, **seen.sizing(), **seen.common())
    return [PaginationGuess(pages, "by number", evidence, 0.3)]


WAY = Way(
    key="number",
    model=NumberPagination,
    label="By page number",
    fields=(
        parameter_field("Parameter with the number", "page"),
        AT,
        FormField("first", "The first page is", "number", required=True, least=0),
        FormField("last_page", "Place of the last page’s number", placeholder="$.meta.pages"),
        *SIZE,
    ),
    phrase="page number{at}",
    until=(("last_page", "the stated last page"), *UNTIL_TOTAL),
    paginate=numbered,
    detect=_by_number,
    detect_weakly=_by_total,
    can_skip=True,
    asks_behind=True,
)
