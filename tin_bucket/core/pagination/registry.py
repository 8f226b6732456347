"""The registry of ways to turn pages."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import union_of
from tin_bucket.core.request.call import Call

from .base import PaginationModel
from .evidence import Evidence, PaginationGuess, TotalGap
from .listing import LISTING_WAYS
from .proof import heeding
from .protocol import Page, Paginator
from .way import Way
from .ways import date_range, ids

WAYS: tuple[Way[Any], ...] = (*LISTING_WAYS, date_range.WAY, ids.WAY)
_BY_KEY = {way.key: way for way in WAYS}

if TYPE_CHECKING:
    Pagination = PaginationModel
else:
    Pagination = union_of("by", WAYS)


def way_of(pages: PaginationModel) -> Way[Any]:
    """The entry of a model."""
    return _BY_KEY[pages.by]


def paginate(call: Call, pages: PaginationModel, base: str = "") -> Paginator:
    """The paginator that the brief asks for.

    Args:
        call: the question's call.
        base: the service's base address, for further calls that are made below it.
    """
    return heeding(way_of(pages).paginate(call, pages, base))


def first_calls(paginator: Paginator) -> list[Call]:
    """The calls that a paginator begins with; none when there is nothing to ask for."""
    try:
        return next(paginator)
    except StopIteration:
        return []


def detect_pagination(page: Page, call: Call) -> list[PaginationGuess]:
    """The ways of turning pages that an answer suggests, the likeliest first; none when it seems to be all.

    Args:
        page: the answer, with the records that it gave.
        call: the call that it answers; its parameters are evidence too.
    """
    seen = Evidence(page, call)
    guesses = [guess for way in WAYS for guess in way.detect(seen)]
    if not guesses:
        guesses = [guess for way in reversed(WAYS) for guess in way.detect_weakly(seen)]
    return sorted(guesses, key=lambda guess: -guess.likely)


def total_gap(page: Page, call: Call) -> TotalGap | None:
    """Whether an answer states more rows than it holds, and where it says so."""
    seen = Evidence(page, call)
    if seen.total is None or seen.total_at is None or seen.total <= page.size:
        return None
    return TotalGap(page.size, seen.total, seen.total_at)
