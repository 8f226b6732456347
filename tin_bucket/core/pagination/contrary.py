"""Evidence against a table being whole: an answer that says itself that there is more. It wins over every sign that
there is not, but for an answer without rows."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from tin_bucket.core.formats.http import links

from .evidence import MORE_NAMES, members, next_address_in, shortened
from .protocol import Page, PaginationEnd, Paginator, as_truth

_NEXT_CURSOR = {"nextcursor", "nextpagetoken", "nexttoken", "nextmarker", "nextpagecursor", "nextpage", "nextoffset"}
_NOTHING = {"", "0", "-1", "null", "none", "nil", "undefined", "false"}
# Stops that show nothing of what the API itself calls the end.
_UNPROVED = ("single", "short-page")


def says_more(page: Page) -> str | None:
    """What in an answer says that there are further rows, in words; ``None`` when nothing does.

    Looked at are the Link header (RFC 8288) and the members around the records: a record's own members are data.
    """
    target = links(page.headers.get("link", "")).get("next")
    if target is not None:
        return f"the Link header names a next page, {shortened(target)}"
    for flat, place, value in members(page.document, page.records):
        if flat in MORE_NAMES and isinstance(value, bool | str) and as_truth(value):
            return f"{place} is {value if isinstance(value, str) else 'true'}"
        address = next_address_in(flat, place, value)
        if address is not None:
            return f"{address[0]} is a next address, {shortened(address[1])}"
        if flat in _NEXT_CURSOR and _is_cursor(value):
            return f"{place} holds “{str(value)[:24]}”"
    return None


def _is_cursor(value: Any) -> bool:
    return isinstance(value, str | int) and not isinstance(value, bool) and str(value).strip().lower() not in _NOTHING


def heeding(paginator: Paginator) -> Paginator:
    """A paginator whose end is no complete one where the last answer says that there is more."""
    last: Page | None = None
    try:
        calls = next(paginator)
        while True:
            page = yield calls
            last = page if page.failed is None else last
            calls = paginator.send(page)
    except StopIteration as done:
        end: PaginationEnd = done.value
    if end.complete and end.reason in _UNPROVED and last is not None and last.size:
        more = says_more(last)
        if more is not None:
            return replace(end, reason="more", evidence=f"the answer says that there is more: {more}", complete=False)
    return end
