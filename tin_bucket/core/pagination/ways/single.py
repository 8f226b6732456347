"""One answer is all there is."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.pagination.base import PaginationModel
from tin_bucket.core.pagination.proof import end_of_one
from tin_bucket.core.pagination.protocol import Page, PaginationEnd, Paginator
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.request.call import Call


class OnlyAnswer(Part):
    """What a person said once: that one answer is all there is."""

    on: date
    rows: int = Field(default=0, ge=0, description="how many rows it had then")
    apart: list[str] = Field(default=[], description="places of numbers that are no total, whatever they are called")


class NoPagination(PaginationModel):
    """The answer to one call is all there is."""

    by: Literal["none"] = "none"
    said: OnlyAnswer | None = Field(default=None, description="when a person said that one answer is all there is")


def one_answer(call: Call, pages: NoPagination, base: str = "") -> Paginator:
    """The answer to one call is all there is."""
    page = yield [call]
    return end_of_one(page, call, pages)


def end_of_answer(page: Page, call: Call) -> PaginationEnd:
    """What one answer shows of being all there is, whatever a brief says of pages."""
    return end_of_one(page, call, NoPagination())


WAY = Way(
    key="none",
    model=NoPagination,
    label="One answer is all",
    phrase="not at all",
    paginate=one_answer,
)
