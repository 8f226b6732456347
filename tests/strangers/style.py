"""Made-up APIs, each of a style of its own: how it turns pages, what it calls things, where it states what, and its
traps. A style follows from its seed alone."""

from __future__ import annotations

import json
import random
from dataclasses import dataclass, field
from typing import Any

WAYS = ("none", "number", "offset", "cursor", "next", "link", "last row", "header mark", "next number")
SHAPES = ("list", "keyed", "parallel", "header row", "heads beside")
_NAMES = {
    "number": ("page", "p", "pageNumber", "page_no", "pg", "currentPage"),
    "offset": ("offset", "skip", "start", "from_row", "startAt", "startIndex"),
    "cursor": ("cursor", "after", "page_token", "continuation", "starting_after", "scroll_id", "marker", "pageToken"),
    "last row": ("since_id", "after_id", "last_id", "starting_after"),
    "header mark": ("cursor", "page_token", "marker"),
    "next number": ("page", "p", "pageNumber"),
}
_STRANGE = ("seite", "leaf", "slice_no", "hop")  # Names that nobody would guess.
_SIZES = ("limit", "per_page", "pageSize", "size", "count", "max_results")
_LISTS = ("data", "items", "results", "sailings", "records", "value")
_CURSORS = ("next_cursor", "nextPageToken", "cursor", "continuation_token", "next", "endCursor")
_TOTALS = ("total", "total_count", "totalResults", "count", "recordCount")
_MORE = ("has_more", "hasMore", "more", "isTruncated")
TRAPS = ("own count", "pages of another size", "total of pages", "total of all", "strict", "strict, says what it takes",
         "least size", "told cap", "marks to the end", "order that moves", "refuses after three", "strange name",
         "full last page then an empty one")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Style:
    """One API.

    Attributes:
        rows: how many rows there are in truth.
        size: rows a page when nothing is asked for; ``cap`` the most that it gives.
        parameter: how a page is asked for; ``size_name`` how many rows, empty where that cannot be asked for.
        first: the number of the first page, or of the first row.
        place: where the rows are: names of members, none for a list alone; ``meta`` where what it states of pages is.
        shape: how the rows are written.
        total: what the total is called, ``header`` when it is in one; ``total_as_text`` whether it is a text.
        pages: what the number of pages is called; ``echo`` whether the page and the size are repeated.
        more: what says whether more follows; as text where ``more_as_text``.
        cursor: what the next mark is called; ``number_marks`` whether marks are numbers.
        example: what the docs' example sends; ``posts`` whether it sends it in a body.
        beyond: what a page after the last is: empty, a 404, a 400, or the last page again.
        trap: what would lead astray, if anything.
    """

    seed: int
    way: str
    rows: int
    size: int
    cap: int
    parameter: str
    size_name: str
    first: int
    place: tuple[str, ...]
    meta: tuple[str, ...]
    shape: str
    total: str | None
    total_as_text: bool
    pages: str | None
    echo: bool
    more: str | None
    more_as_text: bool
    cursor: str
    number_marks: bool
    example: dict[str, str] = field(hash=False)
    posts: bool
    beyond: str
    trap: str

    @property
    def name(self) -> str:
        """What it is called in a table of results."""
        return self.way

    @property
    def body(self) -> str:
        """The body of the docs' example, where it has one."""
        return json.dumps({"route": "all", **self.example}) if self.posts else ""

    @property
    def tellable(self) -> bool:
        """Whether one answer, its headers and six more calls can tell at all what there is."""
        if self.trap in ("order that moves", "refuses after three", "strange name", "total of all"):
            return False
        if self.trap == "strict" and self.parameter not in (*self.example, "page", "offset", "cursor", ""):
            return False  # It takes one name at a time.
        around = bool(self.place)  # A list alone states nothing but in headers.
        total = (self.total == "header" or (around and self.total is not None)) and self.trap not in (
            "own count", "total of pages",
        )  # fmt: skip
        more = around and self.more is not None
        says = more or (around and self.pages is not None)
        if self.beyond == "last page" and self.rows % self.size == 0 and not says:
            # A last page that comes again may as well be where it goes no further.
            return total and self.rows > self.size
        if self.way in ("link", "header mark") and self.rows <= self.size:
            return more  # Where no header leads on, nothing tells whether one could.
        return self.way != "none" or says or self.rows < 5 or (total and self.rows != 24)

    def all_rows(self) -> list[dict[str, Any]]:
        """The truth."""
        return [{"id": 1000 + n, "name": f"sailing {self.seed}-{n}", "berths": n * 7 % 40} for n in range(self.rows)]


def make_style(seed: int) -> Style:
    """The style of a seed."""
    chance = random.Random(seed)
    way = chance.choices(WAYS, (10, 18, 16, 18, 10, 9, 11, 4, 4))[0]
    size = 1000 if way == "none" else chance.choice((5, 10, 20, 25, 50, 8, 15, 30))
    several = (3, size, size * 3, 116, 73, size * 2 + 1, 240)
    rows = chance.choice((1, 3, 9, 17, 24)) if way == "none" else chance.choice(several)
    trap = chance.choices(TRAPS, (8, 4, 3, 1, 2, 4, 4, 4, 4, 1, 1, 1, 4))[0] if chance.random() < 0.45 else ""
    size_name = chance.choice(_SIZES) if way in ("number", "offset", "cursor", "last row") else ""
    if size_name and chance.random() < 0.15 and not trap.endswith(("size", "cap")):
        size_name = ""
    parameter = chance.choice(_NAMES.get(way, ("",)))
    first = chance.choice((0, 1, 1)) if way == "number" else chance.choice((0, 0, 0, 0, 1)) if way == "offset" else 1
    example: dict[str, str] = {}
    if way in ("number", "offset") and chance.random() < 0.5 and trap != "strange name":
        example[parameter] = str(first)
    if size_name and chance.random() < 0.4:
        example[size_name] = str(size)
    if trap == "strange name" and way in _NAMES:
        parameter = chance.choice(_STRANGE)
    place = () if way in ("link", "last row", "header mark") and chance.random() < 0.5 else (chance.choice(_LISTS),)
    if place and chance.random() < 0.2:
        place = ("response", *place)
    shape = chance.choices(SHAPES, (76, 7, 6, 6, 5))[0] if place else "list"
    if shape in ("parallel", "keyed") and rows < 3:
        shape = "list"  # Of so few nobody can tell what they are.
    total = chance.choice((*_TOTALS, "header", None, None, None))
    if trap in ("own count", "total of pages", "total of all"):
        total = "count" if trap == "own count" and chance.random() < 0.6 else chance.choice(_TOTALS)
    pages = chance.choice(("total_pages", "pageCount", "pages")) if way == "number" and chance.random() < 0.35 else None
    if trap == "pages of another size":
        pages = "total_pages" if way == "number" and size_name in example else None
        total = None
    return Style(
        seed=seed,
        way=way,
        rows=rows,
        size=size,
        cap=size * chance.choice((1, 1, 2, 4)) if size_name else size,
        parameter=parameter,
        size_name=size_name,
        first=first,
        place=place,
        meta=chance.choice(((), ("meta",), ("paging",), ("page_info",))),
        shape=shape,
        total=total,
        total_as_text=chance.random() < 0.1,
        pages=pages,
        echo=chance.random() < 0.3,
        more=chance.choice((*_MORE, None, None, None, None)),
        more_as_text=chance.random() < 0.2,
        cursor=chance.choice(_CURSORS),
        number_marks=chance.random() < 0.2,
        example=example,
        posts=way in ("number", "offset", "cursor") and chance.random() < 0.12,
        beyond=chance.choices(("empty", "404", "400", "last page"), (50, 20, 20, 10))[0],
        trap=trap,
    )
