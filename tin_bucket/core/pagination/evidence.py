"""Reads from one answer, its headers and its call how an API turns pages, with the evidence."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from tin_bucket.core.formats.http import links
from tin_bucket.core.formats.jsonpath import HEADER, as_number, format_place
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import ParameterLocation, body_document

from .models import (
    CursorPagination,
    LastRowPagination,
    LinkPagination,
    NextUrlPagination,
    NumberPagination,
    OffsetPagination,
    Pagination,
)
from .protocol import Page


@dataclass(frozen=True, slots=True)
class PaginationGuess:
    """A way of turning pages that an answer suggests.

    Attributes:
        pages: what the brief would say.
        words: what it is called, such as ``by number``.
        evidence: what in the answer speaks for it.
        likely: how likely it is, for the order; 0 to 1.
    """

    pages: Pagination
    words: str
    evidence: list[str]
    likely: float


@dataclass(frozen=True, slots=True)
class TotalGap:
    """An answer that holds fewer rows than the API states."""

    here: int
    total: int
    place: str


_PAGE = {"page", "pagenumber", "pageno", "pagenum", "currentpage", "pageindex", "p"}
_LAST = {"totalpages", "pagecount", "pages", "lastpage", "numpages", "pagestotal"}
_TOTAL = {"total", "totalcount", "totalrows", "totalresults", "totalitems", "totalrecords", "count", "recordcount",
          "numfound", "hits", "totalelements", "matches"}  # fmt: skip
_SIZE = {"perpage", "pagesize", "limit", "size", "pagelimit", "rows", "maxresults", "top", "per", "count"}
_OFFSET = {"offset", "start", "skip", "from", "startat", "startindex", "first", "begin"}
_NEXT = {"next", "nexturl", "nextpageurl", "nextlink", "nextpage", "nexthref", "nexturi"}
_CURSOR = {"nextcursor", "cursor", "nextpagetoken", "continuation", "continuationtoken", "endcursor", "nexttoken",
           "pagetoken", "scrollid", "after", "nextpage", "next", "marker", "nextmarker", "bookmark"}  # fmt: skip
_CURSOR_SENT = {"cursor", "pagetoken", "after", "continuation", "continuationtoken", "token", "scrollid", "marker",
                "startingafter", "bookmark", "nexttoken", "pagecursor"}  # fmt: skip
_MORE = {"hasmore", "more", "hasnext", "hasnextpage", "morepages", "ismore", "truncated", "istruncated"}
_TOTAL_HEADERS = ("x-total-count", "x-total", "total-count", "x-total-results", "x-pagination-total")
_PAGES_HEADERS = ("x-total-pages", "x-page-count", "x-pagination-pages")
_DEPTH = 3


_MANY = 500


def _flat(name: str) -> str:
    return re.sub(r"[^a-z]", "", name.lower())


def _members(document: Any) -> Iterator[tuple[str, str, Any]]:
    """Flat name, place and value of the members of the outer objects, outer ones first."""
    level: list[tuple[tuple[str, ...], Any]] = [((), document)]
    for _ in range(_DEPTH):
        following = []
        for place, value in level:
            # What tells of pages stands among few members; very many are records by their ids.
            for key, item in islice(value.items(), _MANY) if isinstance(value, dict) else ():
                if isinstance(key, str):
                    yield _flat(key), format_place((*place, key)), item
                    following.append(((*place, key), item))
        level = following


def detect_pagination(page: Page, call: Call) -> list[PaginationGuess]:
    """The ways of turning pages that an answer suggests, the likeliest first; none when it seems to be all.

    Args:
        page: the answer, with the records that it gave.
        call: the call that it answers; its parameters are evidence too.
    """
    seen = _Seen(page, call)
    guesses = [*_by_link(seen), *_by_next(seen), *_by_cursor(seen), *_by_number(seen), *_by_offset(seen)]
    if not guesses:
        guesses = [*_by_last_row(seen), *_by_total(seen)]
    return sorted(guesses, key=lambda guess: -guess.likely)


def total_gap(page: Page, call: Call) -> TotalGap | None:
    """Whether an answer states more rows than it holds, and where it says so."""
    seen = _Seen(page, call)
    if seen.total is None or seen.total_at is None or seen.total <= page.size:
        return None
    return TotalGap(page.size, seen.total, seen.total_at)


class _Seen:
    """What an answer and its call show of pages."""

    def __init__(self, page: Page, call: Call) -> None:
        self.page = page
        self.call = call
        self.members = list(_members(page.document))
        self.sent: dict[str, str] = dict(parse_qsl(urlsplit(call.address).query, keep_blank_values=True))
        self.at: ParameterLocation = "address"
        document = body_document(call)
        if isinstance(document, dict):
            self.at = "body"
            inner = {place: str(value) for _, place, value in _members(document) if not isinstance(value, dict | list)}
            self.sent = {name.removeprefix("$."): value for name, value in inner.items()}
        elif call.media_type() == FORM:
            self.at = "body"
            self.sent = dict(parse_qsl((call.body or b"").decode(), keep_blank_values=True))
        self.total_at, self.total = self.number(_TOTAL, _TOTAL_HEADERS)
        self.last_at, self.last = self.number(_LAST, _PAGES_HEADERS)

    def number(self, names: set[str], headers: tuple[str, ...] = ()) -> tuple[str | None, int | None]:
        """The first whole number among the members with one of the names, or in one of the headers."""
        for flat, place, value in self.members:
            number = as_number(value)
            if flat in names and number is not None and number >= 0:
                return place, number
        for header in headers:
            number = as_number(self.page.headers.get(header))
            if number is not None:
                return f"{HEADER}{header}", number
        return None, None

    def first(self, names: set[str]) -> tuple[str | None, Any]:
        """Place and value of the first member with one of the names."""
        return next(((place, value) for flat, place, value in self.members if flat in names), (None, None))

    def parameter(self, names: set[str]) -> str | None:
        """The parameter of the call with one of the names."""
        return next((self.name(name) for name in self.sent if _flat(name.rpartition(".")[2]) in names), None)

    def name(self, sent: str) -> str:
        """A sent name as the brief writes it."""
        return f"$.{sent}" if self.at == "body" and "." in sent else sent

    def sizing(self, skip: str | None = None) -> dict[str, Any]:
        """The size parameter, where the call sends one with a number."""
        for sent, value in self.sent.items():
            if _flat(sent.rpartition(".")[2]) in _SIZE and value.isdigit() and int(value) > 0 and sent != skip:
                return {"size_parameter": self.name(sent), "size": int(value)}
        return {}

    def common(self) -> dict[str, Any]:
        return {"total": self.total_at}

    def total_words(self) -> list[str]:
        if self.total is None:
            return []
        here = self.page.size
        words = [f"{self.total_at} is {self.total:,}"]
        return [*words, f"{here:,} of {self.total:,} rows are here"] if self.total > here else words

    def is_all(self) -> bool:
        """Whether the API states that no row is missing."""
        return (self.total is not None and self.total <= self.page.size) or self.last in (0, 1)

    def size_words(self) -> list[str]:
        asked = self.sizing().get("size")
        here = self.page.size
        if asked and 0 < here < asked and not self.is_all():
            return [f"asked for {asked:,} a page, got {here:,}"]
        return []


def _by_link(seen: _Seen) -> list[PaginationGuess]:
    found = links(seen.page.headers.get("link", ""))
    if "next" not in found:
        return []
    evidence = [f"the Link header names a next page, {_short(found['next'])}", *seen.total_words()]
    return [PaginationGuess(LinkPagination(**seen.common()), "by the Link header", evidence, 0.95)]


def _by_next(seen: _Seen) -> list[PaginationGuess]:
    for flat, place, value in seen.members:
        target = value.get("href") if isinstance(value, dict) else value
        if flat not in _NEXT or not isinstance(target, str) or not re.match(r"https?://|/|\?", target):
            continue
        at = f"{place}.href" if isinstance(value, dict) else place
        evidence = [f"{at} is the address {_short(target)}", *seen.total_words()]
        return [PaginationGuess(NextUrlPagination(next=at, **seen.common()), "by the next address", evidence, 0.9)]
    return []


def _by_cursor(seen: _Seen) -> list[PaginationGuess]:
    more_at, more = seen.first(_MORE)
    for flat, place, value in seen.members:
        if flat not in _CURSOR or isinstance(value, bool | dict | list) or value in (None, ""):
            continue
        if isinstance(value, str) and re.match(r"https?://|/|\?", value):
            continue
        if isinstance(value, int | float) and flat in ("next", "nextpage"):
            continue  # The number of a page.
        sent = seen.parameter(_CURSOR_SENT)
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
        return [PaginationGuess(pages, "by the mark of the next page", evidence, 0.85 if sent or has_more else 0.7)]
    return []


def _by_number(seen: _Seen) -> list[PaginationGuess]:
    page_at, page = seen.number(_PAGE)
    sent = seen.parameter(_PAGE)
    # An API that counts its pages has more of them for another question.
    if seen.last is None and (seen.is_all() or seen.total is None or (page is None and sent is None)):
        return []
    evidence = [f"{seen.last_at} is {seen.last:,}"] if seen.last is not None else []
    evidence += [f"{page_at} is {page:,}"] if page is not None else []
    evidence += seen.total_words() + seen.size_words()
    pages = NumberPagination(
        at=seen.at,
        parameter=sent or "page",
        first=0 if (page == 0 if sent is None else _sent_zero(seen, sent)) else 1,
        last_page=seen.last_at,
        **seen.sizing(),
        **seen.common(),
    )
    return [
        PaginationGuess(
            pages, "by number", evidence, 0.2 if seen.is_all() else 0.8 if seen.last is not None or sent else 0.6
        )
    ]


def _sent_zero(seen: _Seen, sent: str) -> bool:
    return seen.sent.get(sent.removeprefix("$."), "") == "0"


def _by_offset(seen: _Seen) -> list[PaginationGuess]:
    sent = seen.parameter(_OFFSET)
    value = seen.sent.get((sent or "").removeprefix("$."), "")
    at, number = seen.number(_OFFSET)
    if seen.is_all() or ((sent is None or not value.isdigit()) and number is None):
        return []
    if not seen.total and not seen.sizing():
        return []
    if not value.isdigit():
        sent = None
    first = 1 if number == 1 or value == "1" else 0
    evidence = [f"{at} is {number:,}"] if number is not None else [f"the call sends {sent} = {value}"]
    evidence += seen.total_words() + seen.size_words()
    pages = OffsetPagination(
        at=seen.at, parameter=sent or (at or "").rpartition(".")[2], first=first, **seen.sizing(sent), **seen.common()
    )
    return [PaginationGuess(pages, "by the number of rows before", evidence, 0.75 if seen.total else 0.5)]


def _by_last_row(seen: _Seen) -> list[PaginationGuess]:
    at, more = seen.first(_MORE)
    last = seen.page.records[-1] if seen.page.records else None
    if more is not True or not isinstance(last, dict):
        return []
    key = next((name for name in last if _flat(name) in ("id", "key", "code", "uuid")), None) or next(
        (name for name in last if _flat(name).endswith("id")), None
    )
    if key is None:
        return []
    evidence = [f"{at} is true, and there is no mark of a next page", f"rows have “{key}”"]
    pages = LastRowPagination(
        at=seen.at,
        parameter=seen.parameter(_CURSOR_SENT | {"sinceid", "afterid", "lastid"}) or "after",
        value=format_place((key,)),
        more=at,
        **seen.sizing(),
        **seen.common(),
    )
    return [PaginationGuess(pages, "by the last row", evidence, 0.4)]


def _by_total(seen: _Seen) -> list[PaginationGuess]:
    """Rows are missing, and nothing says how to get them: a page number is what most APIs take."""
    if seen.total is None or seen.is_all() or not seen.page.size:
        return []
    evidence = [*seen.total_words(), "nothing says how pages are turned; most often it is a parameter “page”"]
    pages = NumberPagination(at=seen.at, **seen.sizing(), **seen.common())
    return [PaginationGuess(pages, "by number", evidence, 0.3)]


def _short(text: str) -> str:
    address = re.sub(r"^https?://[^/?]+", "", text) or text
    return address if len(address) <= 48 else f"{address[:47]}…"
