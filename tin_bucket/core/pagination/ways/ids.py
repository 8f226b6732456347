"""Ids first, then the rows of some of them at a time."""

from __future__ import annotations

import re
from collections import deque
from dataclasses import replace
from typing import Any, Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.json import json_bytes, json_text
from tin_bucket.core.formats.jsonpath import known_path
from tin_bucket.core.pagination.base import AT_ONCE, PagedModel
from tin_bucket.core.pagination.listing import SINGLE, Listing, listing_paginator
from tin_bucket.core.pagination.protocol import InPlace, Page, PaginationEnd, Paginator, as_listing
from tin_bucket.core.pagination.tracker import PageTracker
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.build import build_address
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import put
from tin_bucket.core.request.variables import Value
from tin_bucket.core.response.too_long import too_long

_NAMED = 5  # Ids without a row that are named.


class IdPagination(PagedModel):
    """The question gives ids; the rows are the answers to further calls, each for some of the ids."""

    by: Literal["ids"] = "ids"
    ids: str = Field(description="JSONPath to the ids in the answers of the question")
    path: str = Field(description="RFC 6570 template with {id}, or {?id} for several, below the service's base address")
    batch: int = Field(default=1, ge=1, le=10_000, description="ids a call")
    place: str | None = Field(
        default=None, description="place in a JSON body, such as $.ids; the ids go there by POST, as a list"
    )
    listing: Listing = Field(default_factory=SINGLE.model, description="how the pages of the ids are turned")

    _ids = field_validator("ids")(known_path)

    @property
    def listed(self) -> str | None:
        """JSONPath to the ids."""
        return self.ids

    @field_validator("path")
    @classmethod
    def _holds_an_id(cls, value: str) -> str:
        if not value:
            raise ValueError("the path of the further calls is missing")
        return value

    @model_validator(mode="after")
    def _ids_go_somewhere(self) -> IdPagination:
        if self.place is None and not re.search(r"\{[^}]*\bid\b[^}]*\}", self.path):
            raise ValueError("the path does not hold {id}")
        return self


def by_ids(call: Call, pages: IdPagination, base: str = "") -> Paginator:
    """Ids first, then the rows of some of them at a time."""
    ids: list[Any] = []
    inner = listing_paginator(call, pages.listing, base)
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
    tracker = PageTracker(pages)
    left, opened = deque(ids), deque[list[Any]]()
    # Until one was answered each call goes alone, so that few are made again where fewer ids are wanted.
    size, fits, bare, again = pages.batch, pages.batch == 1, 0, False
    unanswered: list[str] = []
    while left or opened:
        batches = [] if opened else _batches(left, size, AT_ONCE if fits else 1)
        opened.extend(batches)
        more = [_detail(call, pages, batch, base) for batch in batches]
        page = yield InPlace(more) if again else more
        batch = opened.popleft()
        again = len(batch) > 1 and page.failed is not None and too_long(page.failed)
        if again:
            size, fits = min(size, -(-len(batch) // 2)), False
            left.extendleft(reversed(batch))
            continue
        tracker.saw(page)
        if page.failed is None:
            fits = True
            # Fewer rows than ids: some have none. More rows than ids are details of several rows.
            if page.size < len(batch):
                bare += len(batch) - page.size
                unanswered += _not_in(page, batch)
        if (left or opened) and (stop := tracker.enough()) is not None:
            return stop
    ids_words = f"{len(ids):,} id{'' if len(ids) == 1 else 's'}"
    evidence = f"the rows of {ids_words} were asked for"
    if bare:
        evidence += f", and {bare:,} of them brought no row"
        if unanswered:
            named = ", ".join(unanswered[:_NAMED])
            evidence += f": {named}" + (" …" if bare > _NAMED else "")
    stop = tracker.stop("last-ids", evidence, listed.complete, listed.doubt or bare > 0)
    if listed.state == "unverified":
        stop = replace(stop, evidence=f"{stop.evidence}; of their list, {listed.evidence}")
    if not listed.complete:
        stop = replace(stop, evidence=f"{stop.evidence}, and the list of ids ended early because {listed.evidence}")
    if size < pages.batch:
        stop = replace(stop, page_size=(pages.batch, size))
    short = listed.stated_total is not None and listed.stated_total != len(ids)
    if short:
        stop = replace(stop, complete=False, evidence=f"{ids_words} of the {listed.stated_total:,} stated were listed")
    return stop


def _not_in(page: Page, ids: list[Any]) -> list[str]:
    """The ids that stand nowhere in the rows of a page."""
    rows = json_bytes(page.records)
    return [one if isinstance(one, str) else json_text(one) for one in ids if json_bytes(one) not in rows]


def _batches(left: deque[Any], size: int, most: int) -> list[list[Any]]:
    """Up to so many batches from the front of what is left."""
    return [[left.popleft() for _ in range(min(size, len(left)))] for _ in range(min(most, -(-len(left) // size)))]


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


WAY = Way(
    key="ids",
    model=IdPagination,
    label="A list of ids, then their details",
    fields=(
        FormField("ids", "Place of the ids", placeholder="$.items[*].id", required=True),
        FormField("path", "Path of the details, with {id}", placeholder="/details?ids={id}", required=True),
        FormField("batch", "Ids a call", "number", required=True, least=1),
        FormField("place", "Or their place in a body", placeholder="none"),
    ),
    phrase="the ids at {ids}, {batch} a call",
    until=(("", "all of them were asked for"),),
    paginate=by_ids,
    can_skip=True,
    makes_smaller=True,
)
