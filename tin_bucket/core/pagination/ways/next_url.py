"""Pages by the address that each answer holds."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.jsonpath import known_source
from tin_bucket.core.pagination.base import STATED, PagedModel
from tin_bucket.core.pagination.by_address import follow_addresses
from tin_bucket.core.pagination.evidence import Evidence, PaginationGuess
from tin_bucket.core.pagination.members import next_address_in, shortened
from tin_bucket.core.pagination.protocol import Paginator, stated
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call


class NextUrlPagination(PagedModel):
    """Each answer holds the address of the next page, whole or relative."""

    by: Literal["next"] = "next"
    next: str = Field(description=STATED + "the next address; null, empty or missing on the last page")

    _next = field_validator("next")(known_source)


def by_next_address(call: Call, pages: NextUrlPagination, base: str = "") -> Paginator:
    """Pages by the address that each answer holds, until there is none."""
    return (
        yield from follow_addresses(
            call, pages, lambda page: stated(page, pages.next), "no-next", pages.next, pages.next
        )
    )


def _by_next(seen: Evidence) -> list[PaginationGuess]:
    for flat, place, value in seen.members:
        found = next_address_in(flat, place, value)
        if found is None:
            continue
        at, target = found
        evidence = [f"{at} is the address {shortened(target)}", *seen.total_words()]
        return [
            PaginationGuess(
                NextUrlPagination(next=at, **seen.common()), "by the next address", evidence, 0.9, known=True
            )
        ]
    return []


WAY = Way(
    key="next",
    model=NextUrlPagination,
    label="By the next address in the answer",
    fields=(FormField("next", "Place of the next address", placeholder="$.next", required=True),),
    phrase="the address at {next}",
    until=(("", "there is none"),),
    paginate=by_next_address,
    detect=_by_next,
)
