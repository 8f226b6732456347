"""Pages by a cursor that each answer holds."""

from __future__ import annotations

import re
from typing import Any, Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import known_source
from tin_bucket.core.pagination.base import AT, MORE, SIZE, STATED, PlacedModel, parameter_field
from tin_bucket.core.pagination.evidence import CURSOR_PARAMETERS, Evidence, PaginationGuess
from tin_bucket.core.pagination.members import MARKS, MORE_NAMES
from tin_bucket.core.pagination.protocol import Paginator, as_truth, stated
from tin_bucket.core.pagination.tracker import PageTracker
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put


class CursorPagination(PlacedModel):
    """Each answer holds a mark that asks for the next page; the first call is without one."""

    by: Literal["cursor"] = "cursor"
    parameter: str = Field(default="cursor", min_length=1)
    cursor: str = Field(description=STATED + "the cursor; null, empty, false or missing on the last page")
    more: str | None = Field(default=None, description=STATED + "whether there is more")
    first: str | None = Field(default=None, description="the cursor of the first page; none when absent")

    _sources = field_validator("cursor", "more")(known_source)


def by_cursor(call: Call, pages: CursorPagination, base: str = "") -> Paginator:
    """Pages by a mark that each answer holds, until there is none."""
    tracker = PageTracker(pages)
    mark: Any = pages.first
    seen = {json_text(mark)}
    while True:
        page = yield [put(call, pages.at, {pages.parameter: mark, **pages.sizing()}, f"page {tracker.asked + 1}")]
        stop = tracker.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return tracker.stop("failed-page", f"page {tracker.asked} could not be fetched", False)
        mark, more = stated(page, pages.cursor), as_truth(stated(page, pages.more))
        if more is False:
            return tracker.stop("no-more", f"{pages.more} is false", True)
        if mark is None or mark is False or mark == "":
            if more:
                return tracker.stop(
                    "cursor-missing", f"{pages.more} is true, and {pages.cursor} holds no cursor", False
                )
            return tracker.ends_at(page, pages.cursor, "cursor")
        if json_text(mark) in seen and not page.size:
            return tracker.stop("empty-page", f"page {tracker.asked} is empty, and its cursor leads no further", True)
        if json_text(mark) in seen:
            return tracker.stop("repeated-cursor", f"the cursor of page {tracker.asked} is a repeat", False)
        seen.add(json_text(mark))
        if (stop := tracker.enough()) is not None:
            return stop


def _by_cursor(seen: Evidence) -> list[PaginationGuess]:
    more_at, more = seen.first(MORE_NAMES)
    for flat, place, value in seen.members:
        if flat not in MARKS or isinstance(value, bool | dict | list) or value in (None, ""):
            continue
        if isinstance(value, str) and re.match(r"https?://|/|\?", value):
            continue
        if isinstance(value, int | float) and flat in ("next", "nextpage"):
            continue  # The number of a page.
        sent = seen.parameter(CURSOR_PARAMETERS)
        name = sent or {"nextpagetoken": "page_token", "scrollid": "scroll_id"}.get(flat, "cursor")
        if flat in ("continuation", "after", "marker", "bookmark") and sent is None:
            name = place.rpartition(".")[2]
        has_more = isinstance(more, bool)
        evidence = [f"{place} holds a mark, “{str(value)[:24]}”"]
        evidence += [f"{more_at} is {str(more).lower()}"] if has_more else []
        evidence += seen.total_words() + seen.size_words()
        if more is False and has_more:
            return []
        pages = CursorPagination(
            at=seen.at,
            parameter=name,
            cursor=place,
            more=more_at if has_more else None,
            **seen.sizing(),
            **seen.common(),
        )
        return [PaginationGuess(pages, "by a cursor", evidence, 0.85 if sent or has_more else 0.7, sent is not None)]
    return []


WAY = Way(
    key="cursor",
    model=CursorPagination,
    label="By a cursor in the answer",
    fields=(
        parameter_field("Parameter for the cursor", "cursor"),
        AT,
        FormField("cursor", "Place of the cursor", placeholder="$.next_cursor", required=True),
        MORE,
        *SIZE,
    ),
    phrase="the cursor at {cursor}{at}",
    until=(("more", "{more} is false"), ("", "there is none")),
    paginate=by_cursor,
    detect=_by_cursor,
)
