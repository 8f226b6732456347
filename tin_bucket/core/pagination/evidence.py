"""What one answer, its headers and its call show of how its API turns pages."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from tin_bucket.core.formats.jsonpath import HEADER, as_number, format_place, parse_place
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import ParameterLocation, body_document

from .base import PaginationModel
from .members import MORE_NAMES, flat_name, members
from .names import SIZE
from .protocol import Page, as_truth
from .tracker import usual_size

_LIKELY = 0.8


@dataclass(frozen=True, slots=True)
class PaginationGuess:
    """A way of turning pages that an answer suggests.

    Attributes:
        pages: what the brief would say.
        words: what it is called, such as ``by number``.
        evidence: what in the answer speaks for it.
        likely: how likely it is, for the order; 0 to 1.
        known: whether the call or the answer names what a next page is asked for with, so that nothing is guessed.
    """

    pages: PaginationModel
    words: str
    evidence: list[str]
    likely: float
    known: bool = False

    @property
    def sure(self) -> bool:
        """Whether it is put forward before anything is asked."""
        return self.known or self.likely >= _LIKELY


@dataclass(frozen=True, slots=True)
class TotalGap:
    """An answer that holds fewer rows than the API states."""

    here: int
    total: int
    place: str


_LAST = {"totalpages", "pagecount", "pages", "lastpage", "numpages", "pagestotal"}


_TOTAL = {"total", "totalcount", "totalrows", "totalresults", "totalitems", "totalrecords", "count", "recordcount",
          "numfound", "hits", "totalelements", "matches"}  # fmt: skip


SIZES = {flat_name(name) for name in SIZE} | {"per"}


CURSOR_PARAMETERS = {"cursor", "pagetoken", "after", "continuation", "continuationtoken", "token", "scrollid", "marker",
                "startingafter", "bookmark", "nexttoken", "pagecursor"}  # fmt: skip


_TOTAL_HEADERS = ("x-total-count", "x-total", "total-count", "x-total-results", "x-pagination-total")


_COUNTS = {"count", "hits", "recordcount"}  # What may be the number of a page's own rows as well.


_PAGES_HEADERS = ("x-total-pages", "x-page-count", "x-pagination-pages")


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
        self.total_at, self.total = self._stated_total()
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

    def _stated_total(self) -> tuple[str | None, int | None]:
        """The likeliest number of all rows: not fewer than are here, rather more, rather by a name that means it."""
        found = [(flat, place, as_number(value)) for flat, place, value in self.members if flat in _TOTAL]
        # {"total": {"value": 116}}
        found += [
            (flat_name(place.split(".")[-2]), place, as_number(value))
            for flat, place, value in self.members
            if flat in ("value", "rows", "items", "records") and flat_name(place.split(".")[-2]) in _TOTAL
        ]
        found += [("total", f"{HEADER}{name}", as_number(self.page.headers.get(name))) for name in _TOTAL_HEADERS]
        here = self.page.size
        fit = [(number > here, flat not in _COUNTS, place, number)
               for flat, place, number in found if number is not None and number >= here]  # fmt: skip
        best = max(fit, key=lambda one: one[:2], default=None)
        return (None, None) if best is None else (best[2], best[3])

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

    def beside(self, name: str) -> str:
        """A name that the call does not send yet, as the brief writes it: beside its sizes and pages, in a body."""
        if self.at != "body":
            return name
        near = next(
            (sent for sent in self.sent if flat_name(sent.rpartition(".")[2]) in SIZES | {"page", "offset"}), ""
        )
        outer = parse_place(f"$.{near.rpartition('.')[0]}")
        return format_place((*outer, name)) if outer else name

    def more_at(self) -> str | None:
        """The place that says whether there is more, where it does in one word."""
        place, more = self.first(MORE_NAMES)
        return place if isinstance(more, bool | str) and as_truth(more) is not None else None

    def common(self) -> dict[str, Any]:
        proved = self.total is not None and self.total > self.page.size
        return {"total": self.total_at, "total_proved": proved} if self.total_at else {"total": None}

    def total_words(self) -> list[str]:
        if self.total is None:
            return []
        here = self.page.size
        words = [f"{self.total_at} is {self.total:,}"]
        return [*words, f"{here:,} of {self.total:,} rows are here"] if self.total > here else words

    def is_all(self) -> bool:
        """Whether it looks as if no row is missing: the API says so, and these are not as many as a page has."""
        here, asked = self.page.size, self.sizing().get("size")
        if self.last in (0, 1) and here != asked:
            return True
        return self.total is not None and self.total <= here and here != asked and not usual_size(here)

    def size_words(self) -> list[str]:
        asked = self.sizing().get("size")
        here = self.page.size
        if asked and 0 < here < asked and not self.is_all():
            return [f"asked for {asked:,} a page, got {here:,}"]
        return []
