"""The page paginators. :data:`PAGINATORS` is the one table of them; each is a generator as :mod:`paging` says."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any
from urllib.parse import urljoin, urlsplit

from tin_bucket.core.formats.http import links
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.request.build import build_address
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put
from tin_bucket.core.request.variables import Value

from .date_range import date_pieces
from .models import (
    CursorPagination,
    DatePagination,
    IdPagination,
    LastRowPagination,
    LinkPagination,
    NextUrlPagination,
    NoPagination,
    NumberPagination,
    OffsetPagination,
    Pagination,
)
from .protocol import Page, PageTracker, PaginationEnd, Paginator, as_listing, stated, stated_number

_AT_ONCE = 2_000  # Calls that are announced together, at most.


def one_answer(call: Call, pages: NoPagination, base: str = "") -> Paginator:
    """The answer to one call is all there is."""
    page = yield [call]
    total = stated_number(page, pages.total)
    return PaginationEnd(
        "single", "one call, no pages", page.failed is None, total, failed_pages=int(page.failed is not None)
    )


def _sized(pages: NumberPagination | OffsetPagination | CursorPagination | LastRowPagination) -> dict[str, Any]:
    return {pages.size_parameter: pages.size} if pages.size_parameter and pages.size is not None else {}


def numbered(call: Call, pages: NumberPagination, base: str = "") -> Paginator:
    """Pages by their number, until the stated last page, else the stated total, else an empty or a short page."""
    watch = PageTracker(pages)
    announced = pages.first - 1
    number = pages.first

    def ask(upto: int) -> list[Call]:
        nonlocal announced
        upto = min(upto, pages.first + pages.most - 1, announced + _AT_ONCE)
        calls = [
            put(call, pages.at, {pages.parameter: at, **_sized(pages)}, f"page {at}")
            for at in range(announced + 1, upto + 1)
        ]
        announced = max(announced, upto)
        return calls

    calls = ask(number)
    while True:
        page = yield calls
        if _is_past_the_end(page, watch):
            return watch.stop("empty-page", f"page {number} is not there (status 404)", True)
        stop = watch.saw(page)
        if stop is not None:
            return stop
        last = pages.first + watch.last - 1 if watch.last is not None else None
        if last is not None and number >= last:
            return watch.stop(
                "stated-pages", f"the API states {watch.last:,} page{'' if watch.last == 1 else 's'}", True
            )
        if last is None and watch.total is not None and watch.rows >= watch.total:
            return watch.stop("stated-total", f"all {watch.total:,} stated rows are here", True)
        if page.failed is None and not page.size:
            if last is not None:
                return watch.stop(
                    "empty-page", f"page {number} is empty, though the API states {watch.last:,} pages", False
                )
            return watch.stop("empty-page", f"page {number} is empty", True)
        if page.failed is None and last is None and watch.total is None and page.size < watch.first_size:
            return watch.stop("short-page", f"page {number} has fewer rows than the first", True)
        if page.failed is not None and number >= announced:
            return watch.stop("failed-page", f"page {number} could not be had, and what follows is not known", False)
        if (stop := watch.enough()) is not None:
            return stop
        number += 1
        known = number
        if last is not None:
            known = last
        elif watch.total is not None and watch.first_size:
            known = pages.first - 1 + -(-watch.total // watch.first_size)
        calls = ask(max(known, number)) if pages.most_rows is None else ask(number)


def _is_past_the_end(page: Page, watch: PageTracker) -> bool:
    """Some APIs answer 404 after the last page; that is its end where nothing else was stated."""
    not_there = page.failed is not None and page.failed.kind == "not-found"
    return not_there and watch.asked > 0 and watch.last is None and watch.total is None


def by_offset(call: Call, pages: OffsetPagination, base: str = "") -> Paginator:
    """Pages by the number of rows before them, until the stated total, else an empty or a short page."""
    watch = PageTracker(pages)
    open_at: list[int] = []
    following = pages.first

    def ask(offset: int) -> Call:
        open_at.append(offset)
        return put(call, pages.at, {pages.parameter: offset, **_sized(pages)}, f"from row {offset}")

    calls = [ask(following)]
    while True:
        page = yield calls
        offset = open_at.pop(0)
        if _is_past_the_end(page, watch):
            return watch.stop("empty-page", f"the page from row {offset} is not there (status 404)", True)
        stop = watch.saw(page)
        if stop is not None:
            return stop
        # The step is what the API really gives, whatever was asked for.
        step = watch.first_size
        if page.failed is None:
            if watch.total is not None and watch.rows >= watch.total:
                return watch.stop("stated-total", f"all {watch.total:,} stated rows are here", True)
            if not page.size:
                enough = watch.total is None or offset - pages.first >= watch.total
                return watch.stop("empty-page", f"there is no row from row {offset} on", enough)
            if watch.total is None and page.size < step:
                return watch.stop("short-page", f"the page from row {offset} has fewer rows than the first", True)
        elif not open_at:
            return watch.stop("failed-page", f"the page from row {offset} could not be had", False)
        if (stop := watch.enough()) is not None:
            return stop
        if watch.total is not None and pages.most_rows is None:
            following = max(following, offset + step)
            calls = []
            while following < watch.total + pages.first and watch.asked + len(open_at) < pages.most:
                if len(open_at) >= _AT_ONCE:
                    break
                calls.append(ask(following))
                following += step
            if not open_at:
                # All that was announced is here, and the total is not: rows are counted in another way.
                calls = [ask(following)]
        else:
            calls = [ask(offset + page.size)]


def by_cursor(call: Call, pages: CursorPagination, base: str = "") -> Paginator:
    """Pages by a mark that each answer holds, until there is none."""
    watch = PageTracker(pages)
    mark: Any = pages.first
    seen = {json_text(mark)}
    while True:
        page = yield [put(call, pages.at, {pages.parameter: mark, **_sized(pages)}, f"page {watch.asked + 1}")]
        stop = watch.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return watch.stop("failed-page", f"page {watch.asked} could not be had", False)
        mark, more = stated(page, pages.cursor), _truth(stated(page, pages.more))
        if more is False:
            return watch.stop("no-more", f"{pages.more} is false", True)
        if mark is None or mark is False or mark == "":
            if more:
                return watch.stop("cursor-missing", f"{pages.more} is true, and {pages.cursor} holds no mark", False)
            return watch.stop("null-cursor", f"there is no further mark at {pages.cursor}", True)
        if json_text(mark) in seen:
            return watch.stop("repeated-cursor", f"the mark of page {watch.asked} came before", False)
        seen.add(json_text(mark))
        if (stop := watch.enough()) is not None:
            return stop


def by_next_address(call: Call, pages: NextUrlPagination, base: str = "") -> Paginator:
    """Pages by the address that each answer holds, until there is none."""
    return (yield from _by_address(call, pages, lambda page: stated(page, pages.next), "no-next", pages.next))


def by_link(call: Call, pages: LinkPagination, base: str = "") -> Paginator:
    """Pages by the Link header of each answer (RFC 8288), until it names no next one."""

    def follow(page: Page) -> Any:
        return links(page.headers.get("link", "")).get(pages.relation.lower())

    return (yield from _by_address(call, pages, follow, "no-link", f"“{pages.relation}” in the Link header"))


def _by_address(
    call: Call, pages: NextUrlPagination | LinkPagination, follow: Callable[[Page], Any], end: str, where: str
) -> Paginator:
    watch = PageTracker(pages)
    seen = {call.address}
    home = urlsplit(call.address)
    while True:
        page = yield [replace(call, label=f"page {watch.asked + 1}")]
        stop = watch.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return watch.stop("failed-page", f"page {watch.asked} could not be had", False)
        target = follow(page)
        if target is None or target is False or target == "":
            return watch.stop(end, f"there is no further address at {where}", True)
        address = _next_address(call.address, target)
        if address is None:
            return watch.stop("elsewhere", f"what stands at {where} is no address", False)
        parts = urlsplit(address)
        if (parts.hostname, parts.port) != (home.hostname, home.port) and parts.hostname != home.hostname:
            return watch.stop("elsewhere", f"the next address leads to another host, {parts.hostname}", False)
        if address in seen:
            return watch.stop("repeated-cursor", f"the next address of page {watch.asked} came before", False)
        seen.add(address)
        if (stop := watch.enough()) is not None:
            return stop
        call = replace(call, address=address)


def _next_address(now: str, target: Any) -> str | None:
    """A next address, whole or relative (RFC 3986 §5), from what an answer holds."""
    if isinstance(target, dict):
        target = target.get("href")
    if not isinstance(target, str):
        return None
    try:
        address = urljoin(now, target.strip()).partition("#")[0]
        parts, here = urlsplit(address), urlsplit(now)
        if parts.scheme not in ("http", "https") or not parts.hostname or parts.port == 0:
            return None
    except ValueError:
        return None
    if parts.hostname == here.hostname and parts.scheme == "http" and here.scheme == "https":
        # Behind a proxy many APIs write http; the key never goes there.
        address = "https" + address[4:]
    return address.replace(" ", "%20")


def by_last_row(call: Call, pages: LastRowPagination, base: str = "") -> Paginator:
    """Pages by a value of the last row, until a page is empty or short."""
    watch = PageTracker(pages)
    mark: Any = None
    seen: set[str] = set()
    while True:
        changes = {pages.parameter: mark, **_sized(pages)} if mark is not None else _sized(pages)
        page = yield [put(call, pages.at, changes, f"page {watch.asked + 1}")]
        stop = watch.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return watch.stop("failed-page", f"page {watch.asked} could not be had", False)
        more = _truth(stated(page, pages.more))
        if more is False:
            return watch.stop("no-more", f"{pages.more} is false", True)
        if watch.total is not None and watch.rows >= watch.total:
            return watch.stop("stated-total", f"all {watch.total:,} stated rows are here", True)
        if not page.records:
            return watch.stop("empty-page", f"page {watch.asked} is empty", not more and not watch.total)
        if more is None and watch.total is None and page.size < watch.first_size:
            return watch.stop("short-page", f"page {watch.asked} has fewer rows than the first", True)
        found = pick(page.records[-1], pages.value).values
        mark = found[0] if found else None
        if mark is None or isinstance(mark, dict | list):
            return watch.stop("cursor-missing", f"the last row of page {watch.asked} has no {pages.value}", False)
        if json_text(mark) in seen:
            return watch.stop("repeated-cursor", f"page {watch.asked} ends with the row of an earlier page", False)
        seen.add(json_text(mark))
        if (stop := watch.enough()) is not None:
            return stop


def by_dates(call: Call, pages: DatePagination, base: str = "") -> Paginator:
    """A range of dates, piece by piece."""
    watch = PageTracker(pages)
    pieces = date_pieces(call, pages)
    calls = [put(call, pages.at, {pages.start: start, pages.end: end}, label) for start, end, label in pieces]
    stated_totals: list[int | None] = []
    left = len(calls)
    for at in range(0, len(calls), _AT_ONCE):
        batch = calls[at : at + _AT_ONCE]
        for step in range(len(batch)):
            page = yield batch if step == 0 else []
            watch.saw(page)  # Two pieces of a range may well be the same.
            if page.failed is None:
                stated_totals.append(watch.total)
            left -= 1
            if left and (stop := watch.enough()) is not None:
                return stop
    known = [total for total in stated_totals if total is not None]
    total = sum(known) if known and len(known) == len(calls) else None
    stop = watch.stop("last-window", f"all {len(calls):,} pieces of the range were asked for", True)
    return replace(stop, stated_total=total, first_total=total)


def by_ids(call: Call, pages: IdPagination, base: str = "") -> Paginator:
    """Ids first, then the rows of some of them at a time."""
    ids: list[Any] = []
    inner = PAGINATORS[pages.listing.by](call, pages.listing, base)
    calls = next(inner)
    while True:
        page = yield [as_listing(one) for one in calls]
        ids.extend(page.records)
        try:
            calls = inner.send(page)
        except StopIteration as done:
            listed: PaginationEnd = done.value
            break
    ids = list({json_text(one): one for one in ids}.values())
    watch = PageTracker(pages)
    batches = [ids[at : at + pages.batch] for at in range(0, len(ids), pages.batch)]
    details = [_detail(call, pages, batch, base) for batch in batches]
    for at in range(0, len(details), _AT_ONCE):
        batch_of_calls = details[at : at + _AT_ONCE]
        for step in range(len(batch_of_calls)):
            page = yield batch_of_calls if step == 0 else []
            watch.saw(page)
            if watch.asked < len(details) and (stop := watch.enough()) is not None:
                return stop
    ids_words = f"{len(ids):,} id{'' if len(ids) == 1 else 's'}"
    stop = watch.stop("last-ids", f"the rows of {ids_words} were asked for", listed.complete)
    if not listed.complete:
        stop = replace(stop, evidence=f"{stop.evidence}, and the list of ids broke off because {listed.evidence}")
    short = listed.stated_total is not None and listed.stated_total != len(ids)
    if short:
        stop = replace(stop, complete=False, evidence=f"{ids_words} of the {listed.stated_total:,} stated were listed")
    return stop


def _detail(call: Call, pages: IdPagination, ids: list[Any], base: str) -> Call:
    texts = [one if isinstance(one, str) else json_text(one) for one in ids]
    scope = {"id": Value(tuple(texts), tuple(ids), pages.batch > 1)}
    address = build_address(base or call.address, pages.path, [], scope, "name")
    label = texts[0] if len(texts) == 1 else f"{texts[0]} and {len(texts) - 1} more"
    made = replace(call, address=address, label=label, body=None)
    if pages.place is None:
        return replace(made, method="GET" if call.method != "HEAD" else "HEAD", headers=_without_body(call))
    made = replace(made, method="POST", body=call.body or b"{}")
    headers = (*_without_body(call), ("Content-Type", "application/json"))
    return put(replace(made, headers=headers), "body", {pages.place: ids}, label)


def _without_body(call: Call) -> tuple[tuple[str, str], ...]:
    return tuple(pair for pair in call.headers if pair[0].lower() != "content-type")


def _truth(value: Any) -> bool | None:
    """Yes or no, as APIs say it; ``None`` when it is neither."""
    if isinstance(value, str):
        return {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False}.get(value.lower())
    return bool(value) if isinstance(value, bool | int) else None


PAGINATORS: dict[str, Callable[[Call, Any, str], Paginator]] = {
    "none": one_answer,
    "number": numbered,
    "offset": by_offset,
    "cursor": by_cursor,
    "next": by_next_address,
    "link": by_link,
    "last row": by_last_row,
    "dates": by_dates,
    "ids": by_ids,
}
# Paginators that can go on without a page that could not be had.
CAN_SKIP = ("number", "offset", "dates", "ids")


def paginate(call: Call, pages: Pagination, base: str = "") -> Paginator:
    """The paginator that the brief asks for.

    Args:
        call: the question's call.
        base: the service's base address, for further calls that are made below it.
    """
    return PAGINATORS[pages.by](call, pages, base)


def first_calls(paginator: Paginator) -> list[Call]:
    """The calls that a paginator begins with; none when there is nothing to ask for."""
    try:
        return next(paginator)
    except StopIteration:
        return []
