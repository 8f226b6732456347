"""Made-up APIs, each of a style of its own: how it turns pages, what it calls things, where it states what, and its
traps. A style follows from its seed alone."""

from __future__ import annotations

import random
from dataclasses import dataclass
from typing import Any

WAYS = ("none", "number", "offset", "cursor", "next", "link", "last row")
_NAMES = {
    "number": ("page", "p", "pageNumber", "page_no", "pg"),
    "offset": ("offset", "skip", "start", "from_row", "startAt"),
    "cursor": ("cursor", "after", "page_token", "continuation", "starting_after", "scroll_id", "marker"),
    "last row": ("since_id", "after_id", "last_id"),
}
_SIZES = ("limit", "per_page", "pageSize", "size", "count", "max_results")
_LISTS = ("data", "items", "results", "sailings", "records", "value")
_CURSORS = ("next_cursor", "nextPageToken", "cursor", "continuation_token", "next", "endCursor")
_TOTALS = ("total", "total_count", "totalResults", "count", "recordCount")
_MORE = ("has_more", "hasMore", "more", "isTruncated")


@dataclass(frozen=True, slots=True)
class Style:
    """One API.

    Attributes:
        rows: how many rows there are in truth.
        size: rows a page when nothing is asked for, and the most that it gives.
        parameter: how a page is asked for; ``size_name`` how many rows.
        first: the number of the first page.
        place: where the rows are: names of members, none for a list alone; ``meta`` where what it states of pages is.
        total: what the total is called; ``own`` when it counts the page's rows alone (a trap).
        more: what says whether more follows; as text where ``more_as_text``.
        cursor: what the next mark is called.
        example: what the docs' example sends.
        beyond: what a page after the last is: empty, or a 404.
    """

    seed: int
    way: str
    rows: int
    size: int
    parameter: str
    size_name: str
    first: int
    place: tuple[str, ...]
    meta: tuple[str, ...]
    total: str | None
    own: bool
    more: str | None
    more_as_text: bool
    cursor: str
    example: dict[str, str]
    beyond: str
    body: str = ""

    @property
    def name(self) -> str:
        """What it is called in a table of results."""
        return self.way

    def all_rows(self) -> list[dict[str, Any]]:
        """The truth."""
        return [{"id": 1000 + n, "name": f"sailing {self.seed}-{n}", "berths": n * 7 % 40} for n in range(self.rows)]


def make_style(seed: int) -> Style:
    """The style of a seed."""
    chance = random.Random(seed)
    way = chance.choice(WAYS)
    size = chance.choice((5, 10, 20, 25))
    rows = (
        chance.choice((1, 3, size - 1)) if way == "none" else chance.choice((3, size, size * 3, 116, 73, size * 2 + 1))
    )
    size_name = chance.choice(_SIZES)
    parameter = chance.choice(_NAMES.get(way, ("",)))
    first = chance.choice((0, 1))
    example: dict[str, str] = {}
    if way in ("number", "offset") and chance.random() < 0.6:
        example[parameter] = str(first if way == "number" else 0)
    if chance.random() < 0.5:
        example[size_name] = str(size)
    own = chance.random() < 0.15
    place = () if way in ("link", "last row") and chance.random() < 0.5 else (chance.choice(_LISTS),)
    if place and chance.random() < 0.2:
        place = ("response", *place)
    return Style(
        seed=seed,
        way=way,
        rows=rows,
        size=size,
        parameter=parameter,
        size_name=size_name,
        first=first,
        place=place,
        meta=chance.choice(((), ("meta",), ("paging",), ("page_info",))),
        total="count" if own else chance.choice((*_TOTALS, None, None)),
        own=own,
        more=chance.choice((*_MORE, None, None, None)),
        more_as_text=chance.random() < 0.2,
        cursor=chance.choice(_CURSORS),
        example=example,
        beyond=chance.choice(("empty", "empty", "404")),
    )
