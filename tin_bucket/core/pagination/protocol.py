"""Turning pages: what a paginator is told, and how it stops.

A paginator is a generator. It yields calls, is sent the :class:`Page` of the oldest call that is still open, and
returns the :class:`PaginationEnd` with its reason. Where it knows several calls in advance it yields them together:
they may be made at the same time, and their pages are sent back in order. An empty list means that calls are open
already.
"""

from __future__ import annotations

from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

from tin_bucket.core.formats.jsonpath import HEADER, Picked, Wildcard, as_number, parse_place, pick
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call

from .base import PaginationModel

TableState = Literal["complete", "unverified", "incomplete"]

FIRST_ROWS = "first-rows"  # The reason of a stop at the rows that a brief takes.
LISTING = "list"  # The stage of calls that give ids and no rows.


@dataclass(frozen=True, slots=True)
class Page:
    """What a paginator gets of an answer.

    Attributes:
        document: the parsed answer.
        records: the records that were taken from it.
        headers: the answer's headers, names in lower case.
        count: how many items the page has, before a condition in the path of the records left some out.
        failed: why there is no answer, where the paginator may continue without it.
        one: whether its record is one by itself and not an item of a list.
    """

    document: Any
    records: list[Any]
    headers: Mapping[str, str] = field(default_factory=dict)
    count: int = -1
    failed: Problem | None = None
    one: bool = False

    @property
    def size(self) -> int:
        """How many items the page has."""
        return len(self.records) if self.count < 0 else self.count


@dataclass(frozen=True, slots=True)
class PaginationEnd:
    """Why the turning of pages ended.

    Attributes:
        reason: a short stable word: ``single``, ``stated-pages``, ``stated-total``, ``empty-page``,
            ``null-cursor``, ``no-more``, ``no-next``, ``no-link``, ``last-window``, ``last-ids``, ``limit``,
            ``more``, ``first-rows``, ``repeated-page``, ``repeated-cursor``, ``cursor-missing``, ``elsewhere``,
            ``failed-page``, ``iterations``.
        evidence: a sentence for people: the proof that this is the end, the doubt, or what is missing.
        complete: whether the table can be whole after this stop.
        doubt: whether nothing proves that it is.
        stated_total: the number of rows that the API states, if it does.
        stated_pages: the number of pages that the API states, if it does.
        first_total: the number of rows that it stated on the first page.
        failed_pages: how many pages are missing because their calls failed.
        page_size: rows a page that were asked for, and that came on a full page, where the two differ.
    """

    reason: str
    evidence: str
    complete: bool
    stated_total: int | None = None
    stated_pages: int | None = None
    first_total: int | None = None
    failed_pages: int = 0
    page_size: tuple[int, int] | None = None
    doubt: bool = False

    @property
    def state(self) -> TableState:
        """What this stop lets one say of the table."""
        return "incomplete" if not self.complete else "unverified" if self.doubt else "complete"

    @property
    def moved(self) -> bool:
        """Whether the stated total changed while pages were turned."""
        return self.first_total is not None and self.first_total != self.stated_total


def first_rows_end(rows: int, total: int | None, failed_pages: int = 0) -> PaginationEnd:
    """The stop at the rows that a brief takes from the first on.

    Args:
        rows: how many it takes.
        total: the number of rows that the API states, if it does.
        failed_pages: how many pages are missing among them.
    """
    return PaginationEnd(FIRST_ROWS, f"the brief takes {_first(rows)}", False, total, failed_pages=failed_pages)


def _first(rows: int) -> str:
    return "the first row only" if rows == 1 else f"the first {rows:,} rows only"


class InPlace(list[Call]):
    """Calls that a paginator makes in the place of one that failed: that one is no missing page then."""


Paginator = Generator[list[Call], Page, PaginationEnd]


def stated(page: Page, source: str | None) -> Any:
    """The value that a page states at a JSONPath or in a header; ``None`` when it is not there."""
    if source is None:
        return None
    if source.startswith(HEADER):
        return page.headers.get(source[len(HEADER) :].strip().lower())
    values = pick(page.document, source).values
    return values[0] if values else None


def is_there(page: Page, source: str) -> bool:
    """Whether a page has anything at a JSONPath or in a header, be it null."""
    if source.startswith(HEADER):
        return source[len(HEADER) :].strip().lower() in page.headers
    return bool(pick(page.document, source).values)


def stated_number(page: Page, source: str | None) -> int | None:
    """The whole number that a page states, also when it stands there as text."""
    return as_number(stated(page, source))


def join_ends(stops: Sequence[PaginationEnd], iterations: int, words: str = "") -> PaginationEnd:
    """The stop of a question that was asked for several values: whole where each is.

    Args:
        words: how many there are, by what they are, such as `7 days`.
    """
    if iterations == 1 and stops:
        return stops[0]
    enough = next((stop for stop in stops if stop.reason == FIRST_ROWS), None)
    if enough is not None and all(stop.complete or stop.reason == FIRST_ROWS for stop in stops):
        return replace(enough, stated_total=None, failed_pages=sum(stop.failed_pages for stop in stops))
    broken = [stop for stop in stops if not stop.complete]
    totals = [stop.stated_total for stop in stops]
    firsts = [stop.stated_total if stop.first_total is None else stop.first_total for stop in stops]
    total = sum(one for one in totals if one is not None) if stops and None not in totals else None
    evidence = f"{len(stops):,} of {words or f'{iterations:,} values'} reached the last page"
    if broken:
        are = "is" if len(broken) == 1 else "are"
        evidence += f"; {len(broken):,} of them {are} incomplete, the first because {broken[0].evidence}"
    doubtful = [stop for stop in stops if stop.state == "unverified"]
    if doubtful:
        are = "is" if len(doubtful) == 1 else "are"
        evidence += f"; {len(doubtful):,} of them {are} unverified, the first because {doubtful[0].evidence}"
    all_here = len(stops) == iterations
    return PaginationEnd(
        "iterations",
        evidence,
        not broken,
        total if all_here else None,
        stated_pages=next((stop.stated_pages for stop in stops if stop.stated_pages is not None), None),
        first_total=sum(one or 0 for one in firsts) if all_here and total is not None else None,
        failed_pages=sum(stop.failed_pages for stop in stops),
        page_size=next((stop.page_size for stop in stops if stop.page_size), None),
        doubt=bool(doubtful),
    )


@dataclass(frozen=True, slots=True)
class RowShape:
    """How the rows of an answer are written.

    Attributes:
        records: the JSONPath of the records.
        headed: whether the first record is the names of the columns.
        lists: the places of lists that lie side by side in the record, and whose items make the rows.
    """

    records: str
    headed: bool = False
    lists: tuple[str, ...] = ()


def make_page(
    pages: PaginationModel, shape: RowShape, call: Call, document: Any, headers: Mapping[str, str]
) -> tuple[Page, Picked]:
    """What a paginator gets of an answer, and the records that are rows of the table.

    Args:
        shape: how the rows are written.
        call: the call that it answers; one that lists ids gives no rows.
    """
    records = shape.records
    if call.stage == LISTING and pages.listed is not None:
        ids = pick(document, pages.listed)
        return Page(document, ids.values, headers), Picked([], [])
    found = pick(document, records)
    count = -1
    if "?" in records and records.endswith("]"):
        whole = pick(document, _without_condition(records)).values
        count = max(len(found.values), len(whole))
    if shape.headed and found.values:
        return Page(document, found.values[1:], headers), found
    if shape.lists:
        lists = [_items(record, shape.lists) for record in found.values]
        return Page(document, [row for rows in lists for row in rows], headers), found
    place = parse_place(records)
    one = place is not None and not any(isinstance(step, Wildcard) for step in place)
    return Page(document, found.values, headers, count, one=one), found


def _items(record: Any, places: Sequence[str]) -> list[Any]:
    """The rows that lists side by side make of a record."""
    columns = {place: pick(record, f"{place}[*]").values for place in places}
    height = max(map(len, columns.values()), default=0)
    return [
        {place.removeprefix("$."): values[at] if at < len(values) else None for place, values in columns.items()}
        for at in range(height)
    ]


def _without_condition(path: str) -> str:
    """The path with ``[*]`` for a filter at its end, so that all items are counted."""
    depth, at, quote = 0, len(path) - 1, ""
    while at >= 0:
        char = path[at]
        if quote:
            quote = "" if char == quote and path[at - 1] != "\\" else quote
        elif char in "'\"":
            quote = char
        elif char == "]":
            depth += 1
        elif char == "[":
            depth -= 1
            if depth == 0:
                break
        at -= 1
    return f"{path[:at]}[*]" if path[at : at + 2] == "[?" else path


def as_listing(call: Call) -> Call:
    """A call whose answer gives ids and no rows."""
    return replace(call, stage=LISTING)


def as_truth(value: Any) -> bool | None:
    """Yes or no, as APIs say it; ``None`` when it is neither."""
    if isinstance(value, str):
        return {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False}.get(value.lower())
    return bool(value) if isinstance(value, bool | int) else None
