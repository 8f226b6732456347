"""Pages by a value of the last row."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import Wildcard, format_place, known_source, parse_place, pick
from tin_bucket.core.pagination.base import AT, MORE, SIZE, STATED, UNTIL_TOTAL, PlacedModel, parameter_field
from tin_bucket.core.pagination.evidence import CURSOR_PARAMETERS, Evidence, PaginationGuess
from tin_bucket.core.pagination.members import MORE_NAMES, flat_name
from tin_bucket.core.pagination.protocol import Paginator, as_truth, stated
from tin_bucket.core.pagination.tracker import PageTracker, past_the_end
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put


class LastRowPagination(PlacedModel):
    """The next page is asked for with a value of the last row."""

    by: Literal["last row"] = "last row"
    parameter: str = Field(default="after", min_length=1)
    value: str = Field(description="plain JSONPath in the record, such as $.id")
    more: str | None = Field(default=None, description=STATED + "whether there is more")

    _more = field_validator("more")(known_source)

    @field_validator("value")
    @classmethod
    def _one_place(cls, value: str) -> str:
        place = parse_place(value)
        if place is None or any(isinstance(step, Wildcard) for step in place):
            raise ValueError(f"“{value}” is not one place in the record, such as $.id")
        return value


def by_last_row(call: Call, pages: LastRowPagination, base: str = "") -> Paginator:
    """Pages by a value of the last row, until a page is empty."""
    tracker = PageTracker(pages)
    mark: Any = None
    seen: set[str] = set()
    while True:
        changes = {pages.parameter: mark, **pages.sizing()} if mark is not None else pages.sizing()
        page = yield [put(call, pages.at, changes, f"page {tracker.asked + 1}")]
        if (why := past_the_end(page, tracker)) is not None:
            return tracker.stop("empty-page", f"page {tracker.asked + 1} {why}", True)
        stop = tracker.saw(page)
        if stop is not None:
            return stop
        if page.failed is not None:
            return tracker.stop("failed-page", f"page {tracker.asked} could not be fetched", False)
        more = as_truth(stated(page, pages.more))
        if more is False:
            return tracker.stop("no-more", f"{pages.more} is false", True)
        if tracker.met(page):
            return tracker.stop("stated-total", f"all {tracker.total:,} stated rows are here", True)
        if not page.records:
            return tracker.stop("empty-page", f"page {tracker.asked} is empty", not more)
        found = pick(page.records[-1], pages.value).values
        mark = found[0] if found else None
        if mark is None or isinstance(mark, dict | list):
            return tracker.stop("cursor-missing", f"the last row of page {tracker.asked} has no {pages.value}", False)
        if json_text(mark) in seen:
            return tracker.stop("repeated-cursor", f"page {tracker.asked} ends with the row of an earlier page", False)
        seen.add(json_text(mark))
        if (stop := tracker.enough()) is not None:
            return stop


def _by_last_row(seen: Evidence) -> list[PaginationGuess]:
    at, more = seen.first(MORE_NAMES)
    last = seen.page.records[-1] if seen.page.records else None
    if more is not True or not isinstance(last, dict):
        return []
    key = next((name for name in last if flat_name(name) in ("id", "key", "code", "uuid")), None) or next(
        (name for name in last if flat_name(name).endswith("id")), None
    )
    if key is None:
        return []
    evidence = [f"{at} is true, and there is no cursor of a next page", f"rows have “{key}”"]
    sent = seen.parameter(CURSOR_PARAMETERS | {"sinceid", "afterid", "lastid"})
    pages = LastRowPagination(
        at=seen.at,
        parameter=sent or "after",
        value=format_place((key,)),
        more=at,
        **seen.sizing(),
        **seen.common(),
    )
    return [PaginationGuess(pages, "by the last row", evidence, 0.4, sent is not None)]


WAY = Way(
    key="last row",
    model=LastRowPagination,
    label="By a value of the last row",
    fields=(
        parameter_field("Parameter for the value", "after"),
        AT,
        FormField("value", "Its place in the row", placeholder="$.id", required=True),
        MORE,
        *SIZE,
    ),
    phrase="{value} of the last row",
    until=(("more", "{more} is false"), *UNTIL_TOTAL),
    paginate=by_last_row,
    asks_behind=True,
    detect_weakly=_by_last_row,
)
