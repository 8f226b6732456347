"""Answers → table: pick the records, flatten them, choose the columns, give them their kinds.

The whole reading is a function of the brief and the parsed answers, so that it can be done again from saved
answers at no call.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from tin_bucket.core.columns.compressed import USUAL, TableTuning
from tin_bucket.core.document.extraction import ColumnSpec, Extraction
from tin_bucket.core.formats.jsonpath import WILDCARD, Picked, format_place, parse_place, pick
from tin_bucket.core.problem import Problem

from .context_columns import RECORD_KEY, ContextColumns, is_context
from .flatten import Flat, Flattener
from .header_rows import HeaderRows
from .select import ColumnSelector, Reading, keyed_places, with_items
from .shred import ShredOptions
from .table import Table

_TOGETHER = 1024
_PAGE = ColumnSpec(place="$", name="page", of="page")


def read_table(
    take: Extraction, pages: list[Picked], documents: Sequence[Any] = (), tuning: TableTuning = USUAL
) -> Reading:
    """Make one table of the records of all pages.

    Args:
        take: which columns, and which lists become rows.
        pages: what was picked from each page's answer, in order.
        documents: the answers, where columns come from around the records.
    """
    reader = Reader(take, tuning=tuning)
    for at, page in enumerate(pages):
        reader.add(page, documents[at] if at < len(documents) else None)
    return reader.reading()


class Reader:
    """Reads pages as they come, in order; the records themselves are not kept."""

    def __init__(
        self,
        take: Extraction,
        parameters: Mapping[str, Any] | None = None,
        keep: bool = False,
        tuning: TableTuning = USUAL,
    ) -> None:
        """
        Args:
            take: which columns, and which lists become rows.
            parameters: what the query's parameters stand for.
            keep: whether the flattened records are kept so that another reading can be made of them, see
                :meth:`again`.
        """
        self._take = take
        self.keep = keep
        self._selector = ColumnSelector(take)
        wanted = ShredOptions(keyed=keyed_places(take), keep=True) if keep else self._selector.wanted
        self._flattener = Flattener(wanted, tuning)
        self._header_rows = HeaderRows(take.heads) if take.heads is not None else None
        columns = [column for column in take.columns or [] if is_context(column)]
        if keep or take.columns is None:
            columns = [*columns, RECORD_KEY, _PAGE]
        self._context = ContextColumns(take.records, columns, parameters or {})
        self._waiting: list[Any] = []
        self.sizes: list[int] = []
        self._starts: list[int] = []
        self.records = 0

    def add(
        self,
        picked: Picked | None,
        document: Any = None,
        page: int | None = None,
        parameters: Mapping[str, Any] | None = None,
        values: Sequence[Any] | None = None,
        more: bool = False,
    ) -> None:
        """The records of one more page.

        Args:
            picked: what was picked; ``None`` of an answer that is too large to hold, whose records are in `values`.
            document: the whole answer, or what there is of it besides the records.
            page: its number in its iteration, counted from 1.
            parameters: what the parameters stand for in its iteration, where that differs from the whole run.
            values: its records, where they were not picked.
            more: whether these are more records of the same page.
        """
        records = list(picked.values if values is None and picked is not None else values or ())
        skipped = 0
        if self._header_rows is not None:
            records, skipped = self._header_rows.records(records, document)
        if more and self.sizes:
            self.sizes[-1] += len(records)
        else:
            self.sizes.append(len(records))
            self._starts.append(skipped)
        self.records += len(records)
        number = page if page is not None else len(self.sizes)
        self._context.add(picked, document, len(records), number, skipped, parameters)
        self._waiting += records
        # Flattening some hundreds together is faster than page by page.
        if len(self._waiting) >= _TOGETHER:
            waiting, self._waiting = self._waiting, []
            self._flattener.add(waiting)

    def reading(self) -> Reading:
        """The table of all pages; of a reader that keeps its records see :meth:`again`."""
        assert not self.keep
        self._flatten_waiting()
        return self._made(self._take, self._selector, self._flattener.flat())

    def holds(self, take: Extraction) -> bool:
        """Whether what was gathered from the answers is what a take needs of them."""
        same = (self._take.records, self._take.heads) == (take.records, take.heads)
        around = [column for column in take.columns or [] if is_context(column)]
        return (
            same
            and keyed_places(take) == keyed_places(self._take)
            and all(self._context.of(column) is not None for column in around)
        )

    def again(self, take: Extraction) -> Reading | None:
        """Another table of the same pages.

        Returns:
            ``None`` where the answers themselves are needed for it.
        """
        if not self.holds(take):
            return None
        self._flatten_waiting()
        selector = ColumnSelector(take)
        flat = self._flattener.again(selector.wanted)
        return None if flat is None else self._made(take, selector, flat)

    def _flatten_waiting(self) -> None:
        self._flattener.add(self._waiting)
        self._waiting = []

    def _made(self, take: Extraction, selector: ColumnSelector, flat: Flat) -> Reading:
        sizes = np.array(self.sizes, dtype=np.int64)
        page = np.repeat(np.arange(len(sizes), dtype=np.int64), sizes)[flat.record]
        record = flat.record - (np.cumsum(sizes) - sizes)[page] if len(sizes) else flat.record
        if self._header_rows is not None and len(sizes):
            # Rows of names count in the answer.
            record = record + np.array(self._starts, dtype=np.int64)[page]
        reading = Reading(Table([], [], page, record, flat.items), int(sizes.sum()))
        if self._header_rows is not None:
            reading.heads, reading.problem = self._header_rows.names or [], self._header_rows.problem
        selector.choose(flat, self._context, reading)
        if take.without_items == "leave out" and reading.table.items:
            height = reading.table.height
            reading.table = with_items(take, reading.table)
            reading.left_out = height - reading.table.height
        most = take.most_rows
        if most is not None and reading.table.height > most:
            reading.beyond = reading.table.height - most
            reading.table = reading.table.first(most)
        return reading


def no_rows_problem(document: Any, path: str) -> Problem | None:
    """Why a path that found nothing may be wrong: ``None`` when the place is there and is just empty."""
    place = parse_place(path)
    if place is None:
        return None
    outer = place[:-1] if place and place[-1] is WILDCARD else place
    if pick(document, format_place(outer)).values:
        return None
    have = ", ".join(list(document)[:12]) if isinstance(document, dict) else f"a {_word(document)}"
    return Problem(
        "no-rows-there",
        f"There is nothing at {path} in the answer.",
        path,
        f"The answer has: {have or 'no members'}. Open Answers and click the list that holds the rows.",
    )


def _word(value: Any) -> str:
    if isinstance(value, list):
        return f"list of {len(value):,}"
    return "text" if isinstance(value, str) else "single value"
