"""Evidence against a table being whole: an answer that says itself that there is more. It wins over every sign that
there is not, but for an answer without rows."""

from __future__ import annotations

from typing import Any

from tin_bucket.core.formats.http import links

from .members import MORE_NAMES, members, next_address_in, shortened
from .protocol import Page, as_truth

NEXT_MARKS = {
    "nextcursor", "nextpagetoken", "nexttoken", "nextmarker", "nextpagecursor", "nextpage", "nextoffset", "nextstart",
    "nextcontinuationtoken",
}  # fmt: skip
_NOTHING = {"", "0", "-1", "null", "none", "nil", "undefined", "false"}


def says_more(page: Page) -> str | None:
    """What in an answer says that there are further rows, in words; ``None`` when nothing does.

    Looked at are the Link header (RFC 8288) and the members around the records: a record's own members are data.
    """
    target = links(page.headers.get("link", "")).get("next")
    if target is not None:
        return f"the Link header names a next page, {shortened(target)}"
    around = list(members(page.document, page.records))
    # Some APIs give a mark at the end too, and say beside it that nothing follows.
    none_follows = any(
        flat in MORE_NAMES and isinstance(value, bool | str) and as_truth(value) is False for flat, _, value in around
    )
    for flat, place, value in around:
        if flat in MORE_NAMES and isinstance(value, bool | str) and as_truth(value):
            return f"{place} is {value if isinstance(value, str) else 'true'}"
        address = next_address_in(flat, place, value)
        if address is not None:
            return f"{address[0]} is a next address, {shortened(address[1])}"
        if flat in NEXT_MARKS and is_mark(value) and not none_follows:
            return f"{place} holds “{str(value)[:24]}”"
    return None


def is_mark(value: Any) -> bool:
    """Whether a value can ask for a next page."""
    return isinstance(value, str | int) and not isinstance(value, bool) and str(value).strip().lower() not in _NOTHING
