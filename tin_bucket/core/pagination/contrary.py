"""Evidence against a table being whole: an answer that says itself that there is more. It wins over every sign that
there is not, but for an answer without rows."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from itertools import islice
from typing import Any

from tin_bucket.core.formats.http import links
from tin_bucket.core.formats.jsonpath import format_place

from .evidence import MORE_NAMES, flat_name, shortened
from .protocol import Page, PaginationEnd, Paginator, as_truth

_NEXT_ADDRESS = {"next", "nexturl", "nextpageurl", "nextlink", "nextpage", "nexthref", "nexturi"}
_NEXT_CURSOR = {"nextcursor", "nextpagetoken", "nexttoken", "nextmarker", "nextpagecursor", "nextpage", "nextoffset"}
_NOTHING = {"", "0", "-1", "null", "none", "nil", "undefined", "false"}
# Stops that show nothing of what the API itself calls the end.
_UNPROVED = ("single", "short-page")
_DEPTH, _MANY = 3, 500


def says_more(page: Page) -> str | None:
    """What in an answer says that there are further rows, in words; ``None`` when nothing does.

    Looked at are the Link header (RFC 8288) and the members around the records: a record's own members are data.
    """
    target = links(page.headers.get("link", "")).get("next")
    if target is not None:
        return f"the Link header names a next page, {shortened(target)}"
    for flat, place, value in _around(page):
        if flat in MORE_NAMES and isinstance(value, bool | str) and as_truth(value):
            return f"{place} is {value if isinstance(value, str) else 'true'}"
        inner = value.get("href") if isinstance(value, dict) else value
        if flat in _NEXT_ADDRESS and isinstance(inner, str) and re.match(r"https?://|/|\?", inner):
            return f"{place} is a next address, {shortened(inner)}"
        if flat in _NEXT_CURSOR and _is_cursor(value):
            return f"{place} holds “{str(value)[:24]}”"
    return None


def _is_cursor(value: Any) -> bool:
    return isinstance(value, str | int) and not isinstance(value, bool) and str(value).strip().lower() not in _NOTHING


def _around(page: Page) -> Iterator[tuple[str, str, Any]]:
    """Flat name, place and value of the members of the outer objects that are no records, outer ones first."""
    records = {id(record) for record in page.records}
    level: list[tuple[tuple[str, ...], Any]] = [((), page.document)]
    for _ in range(_DEPTH):
        following = []
        for place, value in level:
            if not isinstance(value, dict) or id(value) in records:
                continue
            for key, item in islice(value.items(), _MANY):
                if isinstance(key, str):
                    yield flat_name(key), format_place((*place, key)), item
                    following.append(((*place, key), item))
        level = following


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
