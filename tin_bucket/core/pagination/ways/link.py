"""Pages by the Link header (RFC 8288)."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.http import links
from tin_bucket.core.pagination.base import PagedModel
from tin_bucket.core.pagination.by_address import follow_addresses
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.members import shortened
from tin_bucket.core.pagination.protocol import Page, Paginator
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call


class LinkPagination(PagedModel):
    """The Link header holds the address of the next page (RFC 8288)."""

    by: Literal["link"] = "link"
    relation: str = Field(default="next", min_length=1)


def by_link(call: Call, pages: LinkPagination, base: str = "") -> Paginator:
    """Pages by the Link header of each answer (RFC 8288), until it names no next one."""

    def follow(page: Page) -> Any:
        return links(page.headers.get("link", "")).get(pages.relation.lower())

    return (yield from follow_addresses(call, pages, follow, "no-link", f"“{pages.relation}” in the Link header"))


def _by_link(seen: Evidence) -> list[PaginationGuess]:
    found = links(seen.page.headers.get("link", ""))
    if "next" not in found:
        return []
    evidence = [f"the Link header names a next page, {shortened(found['next'])}", *seen.total_words()]
    return [PaginationGuess(LinkPagination(**seen.common()), "by the Link header", evidence, 0.95, known=True)]


WAY = Way(
    key="link",
    model=LinkPagination,
    label="By the Link header",
    fields=(FormField("relation", "Relation in the header", "text", required=True),),
    phrase="“{relation}” in the Link header",
    until=(("", "there is none"),),
    paginate=by_link,
    detect=_by_link,
)
