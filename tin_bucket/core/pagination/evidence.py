"""What one answer, its headers and its call show of how its API turns pages."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from tin_bucket.core.formats.jsonpath import HEADER, as_number, format_place
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import ParameterLocation, body_document

from .base import PaginationModel
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

    pages: PaginationModel
    words: str
    evidence: list[str]
    likely: float


@dataclass(frozen=True, slots=True)
class TotalGap:
    """An answer that holds fewer rows than the API states."""

    here: int
    total: int
    place: str


_LAST = {"totalpages", "pagecount", "pages", "lastpage", "numpages", "pagestotal"}


_TOTAL = {"total", "totalcount", "totalrows", "totalresults", "totalitems", "totalrecords", "count", "recordcount",
          "numfound", "hits", "totalelements", "matches"}  # fmt: skip


SIZES = {"perpage", "pagesize", "limit", "size", "pagelimit", "rows", "maxresults", "top", "per", "count"}


CURSOR_PARAMETERS = {"cursor", "pagetoken", "after", "continuation", "continuationtoken", "token", "scrollid", "marker",
                "startingafter", "bookmark", "nexttoken", "pagecursor"}  # fmt: skip


MORE_NAMES = {"hasmore", "more", "hasnext", "hasnextpage", "morepages", "ismore", "truncated", "istruncated"}


_NEXT_ADDRESS = {"next", "nexturl", "nextpageurl", "nextlink", "nextpage", "nexthref", "nexturi"}


_TOTAL_HEADERS = ("x-total-count", "x-total", "total-count", "x-total-results", "x-pagination-total")


_PAGES_HEADERS = ("x-total-pages", "x-page-count", "x-pagination-pages")


_DEPTH = 3


_MANY = 500


def flat_name(name: str) -> str:
    return re.sub(r"[^a-z]", "", name.lower())


def members(document: Any, records: Sequence[Any] = ()) -> Iterator[tuple[str, str, Any]]:
    """Flat name, place and value of the members of the outer objects, outer ones first; not those of `records`."""
    inside = {id(record) for record in records}
    level: list[tuple[tuple[str, ...], Any]] = [((), document)]
    for _ in range(_DEPTH):
        following = []
        for place, value in level:
            # Page information is among few members; very many are records by their ids.
            if not isinstance(value, dict) or id(value) in inside:
                continue
            for key, item in islice(value.items(), _MANY):
                if isinstance(key, str):
                    yield flat_name(key), format_place((*place, key)), item
                    following.append(((*place, key), item))
        level = following


class Evidence:
    """What an answer and its call show of pages."""

    def __init__(self, page: Page, call: Call) -> None:
        self.page = page
        self.call = call
        self.members = list(members(page.document))
        self.sent: dict[str, str] = dict(parse_qsl(urlsplit(call.address).query, keep_blank_values=True))
        self.at: ParameterLocation = "address"
        document = body_document(call)
        if isinstance(document, dict):
            self.at = "body"
            inner = {place: str(value) for _, place, value in members(document) if not isinstance(value, dict | list)}
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
        return next((self.name(name) for name in self.sent if flat_name(name.rpartition(".")[2]) in names), None)

    def name(self, sent: str) -> str:
        """A sent name as the brief writes it."""
        return f"$.{sent}" if self.at == "body" and "." in sent else sent

    def sizing(self, skip: str | None = None) -> dict[str, Any]:
        """The size parameter, where the call sends one with a number."""
        for sent, value in self.sent.items():
            if flat_name(sent.rpartition(".")[2]) in SIZES and value.isdigit() and int(value) > 0 and sent != skip:
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


def next_address_in(flat: str, place: str, value: Any) -> tuple[str, str] | None:
    """The place and the text of a next page's address, where a member is one: a text, or an object with ``href``."""
    target = value.get("href") if isinstance(value, dict) else value
    if flat not in _NEXT_ADDRESS or not isinstance(target, str) or not re.match(r"https?://|/|\?", target):
        return None
    return (f"{place}.href" if isinstance(value, dict) else place), target


def shortened(text: str) -> str:
    address = re.sub(r"^https?://[^/?]+", "", text) or text
    return address if len(address) <= 48 else f"{address[:47]}…"
