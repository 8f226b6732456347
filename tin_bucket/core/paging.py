"""Page turners: given an answer, the next call, or stop with a reason.

A turner is a generator. It yields a :class:`Call`, is sent the :class:`Page` that came back, and returns the
:class:`Stop` with its reason. :data:`TURNERS` is the one table of them.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from .brief import NoPages, NumberedPages
from .calls import Call, with_query
from .json_text import json_text
from .picking import pick, pick_number


@dataclass(frozen=True, slots=True)
class Page:
    """What a turner is told of an answer: its document and the records that were taken from it."""

    document: Any
    records: list[Any]


@dataclass(frozen=True, slots=True)
class Stop:
    """Why the turning of pages ended.

    Attributes:
        reason: a short stable word: ``single``, ``stated-pages``, ``stated-total``, ``empty-page``, ``short-page``,
            ``repeated-page``, ``limit``.
        evidence: a sentence for people.
        whole: whether the table can be whole after this stop.
        stated_total: the number of rows that the API states, if it does.
        stated_pages: the number of pages that the API states, if it does.
    """

    reason: str
    evidence: str
    whole: bool
    stated_total: int | None = None
    stated_pages: int | None = None


Turner = Generator[Call, Page, Stop]


def one_answer(call: Call, pages: NoPages) -> Turner:
    """The answer to one call is all there is."""
    page = yield call
    return Stop("single", "one call, no pages", True, pick_number(page.document, pages.total))


def numbered(call: Call, pages: NumberedPages) -> Turner:
    """Pages by their number, until the stated last page, else the stated total, else an empty or a short page.

    It never asks for more than ``pages.most`` pages, and stops when the same page comes twice.
    """
    number = pages.first
    rows = 0
    first_size = 0
    seen: dict[str, list[list[Any]]] = {}
    total: int | None = None
    stated: int | None = None
    asked = 0
    while True:
        changes = {pages.parameter: str(number)}
        if pages.size_parameter and pages.size is not None:
            changes[pages.size_parameter] = str(pages.size)
        page = yield with_query(call, changes, f"page {number}")
        asked += 1
        rows += len(page.records)
        first_size = first_size or len(page.records)
        total = pick_number(page.document, pages.total) if pages.total else None
        stated = pick_number(page.document, pages.last_page) if pages.last_page else None
        last = pages.first + stated - 1 if stated is not None else None
        if page.records:
            # The ends of a page find the few that may be the same; only those are compared whole.
            alike = seen.setdefault(json_text([page.records[0], page.records[-1]]), [])
            if page.records in alike:
                return Stop("repeated-page", f"page {number} is the same as an earlier one", False, total, stated)
            alike.append(page.records)
        if last is not None and number >= last:
            return Stop(
                "stated-pages", f"the API states {stated:,} page{'' if stated == 1 else 's'}", True, total, stated
            )
        if last is None and total is not None and rows >= total:
            return Stop("stated-total", f"all {total:,} stated rows are here", True, total, stated)
        if not page.records:
            return Stop("empty-page", f"page {number} is empty", True, total, stated)
        if last is None and total is None and len(page.records) < first_size:
            return Stop("short-page", f"page {number} has fewer rows than the first", True, total, stated)
        if asked >= pages.most:
            return Stop("limit", f"the brief allows {pages.most:,} pages", False, total, stated)
        number += 1


def join_stops(stops: Sequence[Stop], rounds: int) -> Stop:
    """The stop of a question that was asked for several values: whole where each is."""
    if rounds == 1 and stops:
        return stops[0]
    broken = [stop for stop in stops if not stop.whole]
    totals = [stop.stated_total for stop in stops]
    total = sum(one for one in totals if one is not None) if stops and None not in totals else None
    evidence = f"{len(stops):,} of {rounds:,} rounds were asked to their end"
    if broken:
        evidence += f"; {len(broken):,} of them broke off, the first because {broken[0].evidence}"
    return Stop("rounds", evidence, not broken, total if len(stops) == rounds else None)


TURNERS: dict[str, Callable[[Call, Any], Turner]] = {"none": one_answer, "number": numbered}


def turn_pages(call: Call, pages: NoPages | NumberedPages) -> Turner:
    """The turner that the brief asks for, begun with its first call."""
    return TURNERS[pages.by](call, pages)


@dataclass(frozen=True, slots=True)
class PagesGuess:
    """A way of turning pages that one answer suggests, with the evidence."""

    pages: NumberedPages
    evidence: list[str]


_PAGE_NAMES = ("page", "page_number", "pagenumber", "pageno", "current_page", "currentpage")
_LAST_NAMES = ("total_pages", "totalpages", "page_count", "pagecount", "pages", "last_page", "lastpage")
_TOTAL_NAMES = (
    "total",
    "total_count",
    "totalcount",
    "total_rows",
    "total_results",
    "totalresults",
    "total_items",
    "count",
)
_SIZE_NAMES = ("per_page", "perpage", "page_size", "pagesize", "limit", "size")


def guess_pages(document: Any, call: Call, records: int) -> PagesGuess | None:
    """Read from one answer whether, and how, it is one page of several.

    Args:
        document: the parsed answer.
        call: the call that it answers; its parameters are evidence too.
        records: how many records this answer gave.
    """
    last_path = _find(document, _LAST_NAMES)
    total_path = _find(document, _TOTAL_NAMES)
    last = pick_number(document, last_path)
    total = pick_number(document, total_path)
    if last is None and (total is None or total <= records):
        return None
    sent = dict(parse_qsl(urlsplit(call.address).query, keep_blank_values=True))
    page_path = _find(document, _PAGE_NAMES)
    page = pick_number(document, page_path)
    parameter = next((name for name in sent if name.lower() in _PAGE_NAMES), "page")
    size_parameter = next((name for name in sent if name.lower() in _SIZE_NAMES), None)
    evidence = [
        f"{path} is {number:,}"
        for path, number in ((last_path, last), (page_path, page), (total_path, total))
        if path is not None and number is not None
    ]
    if total is not None and total > records:
        evidence.append(f"{records:,} of {total:,} rows are here")
    size = int(sent[size_parameter]) if size_parameter and sent[size_parameter].isdigit() else None
    if size is not None and records and size > records and last is not None and last > 1:
        evidence.append(f"asked for {size:,} a page, got {records:,}")
    first = 0 if page == 0 and parameter not in sent else 1
    return PagesGuess(
        NumberedPages(
            parameter=parameter,
            first=first,
            size_parameter=size_parameter if size else None,
            size=size or None,
            last_page=last_path if last is not None else None,
            total=total_path if total is not None else None,
        ),
        evidence,
    )


def _find(document: Any, names: tuple[str, ...]) -> str | None:
    """The place of the first whole number with one of the names, in the outer three levels of objects."""
    level: list[tuple[str, Any]] = [("$", document)]
    for _ in range(3):
        following: list[tuple[str, Any]] = []
        found: dict[str, str] = {}
        for path, value in level:
            if not isinstance(value, dict):
                continue
            for key, item in value.items():
                if not isinstance(key, str) or not key.isidentifier():
                    continue
                place = f"{path}.{key}"
                if key.lower() in names and pick(document, place) and pick_number(document, place) is not None:
                    found.setdefault(key.lower(), place)
                following.append((place, item))
        for name in names:
            if name in found:
                return found[name]
        level = following
    return None
