"""What proves that a table is whole: the end of one answer, and of pages that were turned."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from tin_bucket.core.formats.http import links
from tin_bucket.core.request.call import Call

from .base import PaginationModel
from .contrary import NEXT_MARKS, is_mark, says_more
from .evidence import Evidence
from .members import MORE_NAMES, NEXT_ADDRESS, members
from .protocol import Page, PaginationEnd, Paginator, as_truth, stated_number
from .tracker import usual_size

# Ends that an answer which says that there is more does away with. An empty page and a “no more” do not yield to it.
_YIELDING = ("single", "null-cursor", "no-next", "no-link", "stated-pages", "stated-total", "repeated-page")
_END_MARKS = {"cursor", "endcursor", "continuation", "continuationtoken"}
_DEEP = 4


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
    if end.complete and end.reason in _YIELDING and last is not None and last.size:
        more = says_more(last)
        if more is not None:
            return replace(end, reason="more", evidence=f"the answer says that there is more: {more}", complete=False)
    return end


def end_of_one(page: Page, call: Call, pages: PaginationModel) -> PaginationEnd:
    """What one answer shows of being all there is.

    Args:
        call: the call that it answers.
        pages: what the brief says; `total`, and what a person has `said` of it.
    """
    if page.failed is not None:
        return PaginationEnd("single", "one call, no pages", False, failed_pages=1)
    seen = Evidence(page, call)
    said = getattr(pages, "said", None)
    total = stated_number(page, pages.total)
    if total is None and seen.total is not None and (said is None or seen.total_at not in said.apart):
        # What is no place of the brief is looked at, and only held against the table.
        total = seen.total if seen.total > page.size else None
    if total is not None and total > page.size:
        return PaginationEnd("single", "one call, no pages", True, total)
    if pages.total_proved and total == page.size:
        return PaginationEnd("single", f"all {total:,} stated rows are here", True, total)
    proof = _proof(page, seen)
    if proof is not None:
        return PaginationEnd("single", proof, True, total)
    asked = seen.sizing().get("size")
    many = usual_size(page.size) or page.size == asked
    rows = f"{page.size:,} row{'' if page.size == 1 else 's'}"
    if said is not None and not (many and page.size > said.rows):
        return PaginationEnd("single", f"one answer is all there is, as was said on {said.on:%d %b %Y}", True, total)
    if said is not None:
        doubt = (
            f"one answer was said to be all on {said.on:%d %b %Y}, with {said.rows:,} rows; it has grown to {rows}, "
            "as many as a page often has"
        )
    elif seen.total == page.size:
        doubt = f"{seen.total_at} is {page.size:,}, which may be the number of this answer's own rows"
    elif page.size == asked:
        doubt = f"{rows} were asked for and came; nothing tells whether there is more"
    elif many:
        doubt = f"{rows}, as many as a page often has; nothing tells whether there is more"
    else:
        doubt = "nothing in the answer tells whether there is more"
    return PaginationEnd("single", doubt, True, total, doubt=True)


def _proof(page: Page, seen: Evidence) -> str | None:
    """What in an answer says that nothing follows it, in words."""
    if page.one and not _has_list(page.document):
        return "the answer is one record, not a list"
    if not page.size:
        return "the answer is empty"
    for flat, place, value in members(page.document, page.records):
        if flat in MORE_NAMES and isinstance(value, bool | str) and as_truth(value) is False:
            return f"{place} is false"
        leads = flat in NEXT_ADDRESS or flat in NEXT_MARKS or flat in _END_MARKS
        if leads and not isinstance(value, dict) and not is_mark(value):
            return f"there is no further page at {place}"
    if seen.last == 1 and page.size != seen.sizing().get("size"):
        return "the API states 1 page"
    related = links(page.headers.get("link", ""))
    if "next" not in related and related.keys() & {"prev", "previous", "first", "last"}:
        return "the Link header names no next page"
    return None


def _has_list(value: Any, depth: int = 0) -> bool:
    """Whether there is a list of several items somewhere in a record."""
    if isinstance(value, list):
        return len(value) > 1 or any(_has_list(item, depth + 1) for item in value)
    if isinstance(value, dict) and depth < _DEEP:
        return any(_has_list(item, depth + 1) for item in value.values())
    return False
