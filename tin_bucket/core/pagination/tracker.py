"""What every paginator looks at: how many rows are here, what is stated, whether a page came twice."""

from __future__ import annotations

import re
from hashlib import blake2b
from typing import Any

from tin_bucket.core.formats.json import json_bytes

from .contrary import says_more
from .protocol import Page, PaginationEnd, is_there, stated_number

REFUSED = ("not-found", "call-refused")
_KNOWN_ROWS = 20_000  # Rows of which it is looked whether they come again.
# Rows that a page often has: a table of just as many may be a page of a longer one.
_USUAL = {5, 6, 8, 10, 12, 15, 16, 20, 24, 25, 30, 32, 40, 48, 60, 64, 75, 80, 96, 99, 128, 256, 512, 1024, 2048, 4096}


def usual_size(rows: int) -> bool:
    """Whether a page often has so many rows."""
    return rows in _USUAL or (rows > 0 and rows % 50 == 0)


class PageTracker:
    """What is known of the pages of one question."""

    def __init__(self, pages: Any) -> None:
        """
        Args:
            pages: what the brief says of pages; `total`, `total_proved`, `last_page`, `size` and `most`
                are read.
        """
        self._pages = pages
        self._seen: set[bytes] = set()
        self._latest = b""
        self._known: set[int] = set()
        self._first_total: int | None = None
        # Whether the stated total may be the number of the page's own rows.
        self._counts_pages = not getattr(pages, "total_proved", False)
        self.total: int | None = None
        self.last: int | None = None
        self.rows = 0
        self.asked = 0
        self.first_size = 0
        self.last_size = 0
        self.failed = 0
        self.refused = 0

    def saw(self, page: Page) -> PaginationEnd | None:
        """Note a page; gives the stop when it is the same as an earlier one, or enough is here."""
        self.asked += 1
        if page.failed is not None:
            self.failed += 1
            self.refused += page.failed.kind in REFUSED
            return None
        self.refused = 0
        total = stated_number(page, self._pages.total)
        if page.size or not self.rows:
            last = stated_number(page, getattr(self._pages, "last_page", None))
            self.total = None if total is not None and total < 0 else total
            # "No pages" beside a page with rows says nothing.
            self.last = None if last is not None and (last < 0 or (last == 0 and page.size)) else last
        if self._first_total is None:
            self._first_total = self.total
        self._counts_pages = self._counts_pages and total == page.size
        encoded = list(map(json_bytes, page.records))
        digest = blake2b(b",".join(encoded), digest_size=16).digest() if encoded else b""
        if digest and digest in self._seen:
            return self._repeated(digest == self._latest)
        if page.records and self.asked > 1 and self._brings_nothing(encoded):
            return self.stop("repeated-page", f"page {self.asked:,} has no row that is not here already", False)
        self._seen.add(digest)
        self._latest = digest or self._latest
        if self.asked == 1 and page.records:
            self._brings_nothing(encoded)
        self.rows += page.size
        self.first_size = self.first_size or page.size
        self.last_size = page.size or self.last_size
        return None

    def _brings_nothing(self, encoded: list[bytes]) -> bool:
        """Whether all rows of a page are known, in whatever order. Of very long tables the first rows are looked at.

        Args:
            encoded: its rows as JSON.
        """
        if len(self._known) > _KNOWN_ROWS or len(encoded) < 2:
            return False
        ids = set(map(hash, encoded))
        nothing = ids <= self._known
        self._known |= ids
        return nothing

    def _repeated(self, neighbour: bool) -> PaginationEnd:
        """The stop at a page that came before; its rows are not counted again."""
        at = self.asked
        if not neighbour:
            return self.stop("repeated-page", f"page {at:,} is the same as an earlier one", False)
        if self.short:
            return self.stop("repeated-page", f"page {at:,} is page {at - 1:,} again, which has fewer rows", True)
        if self.total == self.rows and not self._counts_pages:
            return self.stop("repeated-page", f"all {self.total:,} stated rows are here", True)
        why = (
            "the API ignores the parameter, or it has no second page"
            if at == 2
            else "the API gives its last page again, or it goes no further"
        )
        return self.stop("repeated-page", f"page {at:,} is the same as page {at - 1:,}: {why}", True, doubt=True)

    @property
    def short(self) -> bool:
        """Whether the last page had fewer rows than the first."""
        return 0 < self.last_size < self.first_size

    @property
    def full(self) -> bool:
        """Whether further rows may follow the last page, by the number of its rows alone."""
        if self.asked > 1:
            return not self.short
        wanted = getattr(self._pages, "size", None)
        return usual_size(self.last_size) or (wanted is not None and self.last_size >= wanted)

    def ends_at(self, page: Page, source: str, what: str) -> PaginationEnd:
        """The stop at a page that leads no further: proved, unless it is the only one, looks full, and has nothing at
        all where the brief looks for what leads on.

        Args:
            source: where the brief looks, a JSONPath or a header.
            what: what it looks for, such as ``cursor``.
        """
        reason = "null-cursor" if what == "cursor" else "no-next"
        if self.asked > 1 or not self.full or self.total == self.rows or is_there(page, source):
            return self.stop(reason, f"there is no further {what} at {source}", True)
        rows = f"{self.rows:,} row{'' if self.rows == 1 else 's'}"
        why = f"the only page has {rows}, as a page often has, and nothing at {source}, where the brief looks for the"
        return self.stop(reason, f"{why} {what}", True, doubt=True)

    def met(self, page: Page) -> bool:
        """Whether all stated rows are here, and the total may be believed: it is not the page's own count, the last
        page is not full, so that it may be a number of something else, and does not say that there is more."""
        if self.total is None or self.rows != self.total or self._counts_pages or self.full:
            return False
        return says_more(page) is None

    def enough(self) -> PaginationEnd | None:
        """The stop at the brief's own limit; a paginator asks for it before it continues."""
        pages = self._pages
        if self.asked >= pages.most:
            return self.stop("limit", f"the brief allows {pages.most:,} pages", False)
        return None

    def stop(self, reason: str, evidence: str, complete: bool, doubt: bool = False) -> PaginationEnd:
        """A stop with all that was seen."""
        wanted = getattr(self._pages, "size", None)
        learnt = (wanted, self.first_size) if wanted and 0 < self.first_size < wanted and self.asked > 1 else None
        if self.failed:
            evidence = f"{self.failed:,} page{' has' if self.failed == 1 else 's have'} failed ({evidence})"
        # What is the number of its own rows on every page is no total of the table, and neither is what lies more
        # than a page below the rows that came.
        total = self.total
        own = (
            total is not None
            and self.rows > total
            and (self._counts_pages or total <= self.first_size or self.rows - total >= self.first_size)
        )
        return PaginationEnd(
            reason,
            evidence,
            complete and not self.failed,
            None if own else self.total,
            self.last,
            None if own else self._first_total,
            self.failed,
            learnt,
            doubt,
        )


# What APIs say of a page behind the last one, and of one that lies deeper than they go.
_BEHIND = re.compile(
    r"no such page|out of (?:range|bounds)|not exist|(?:past|beyond|after|behind) the (?:end|last)|no more|last page"
    r"|too high|not found|invalid page|empty page|no (?:results|rows|items)",
    re.IGNORECASE,
)
_DEEP = re.compile(r"exceed|at most|maximum|\bmax\b|too deep|deep|cannot be (?:more|greater)|limit", re.IGNORECASE)


def is_behind(words: str) -> bool:
    """Whether the words of a refusal say that there is no such page."""
    return _BEHIND.search(words) is not None and _DEEP.search(words) is None


def past_the_end(page: Page, tracker: PageTracker) -> str | None:
    """Why a call that failed shows that the page before was the last one, in words; ``None`` when it does not.

    Many APIs answer 404 after the last page (RFC 9110 §15.5.5), some 400 or 416; but one that goes no deeper than
    some row answers so too.
    """
    problem = page.failed
    if problem is None or not tracker.asked or problem.kind not in REFUSED:
        return None
    if (tracker.total or 0) > tracker.rows:
        # One may have failed by chance; where the next one does as well there are no more.
        return "is refused, as the one before it" if tracker.refused else None
    if problem.kind == "not-found":
        return "does not exist (status 404)"
    words = problem.words
    if not tracker.rows or _DEEP.search(words):
        return None
    if tracker.short or is_behind(words):
        return f"is refused: “{words[:80]}”" if words else "is refused"
    return None
