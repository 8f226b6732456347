"""A query through time: the story of a row, and a figure of its table on every date."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from threading import Event
from typing import Any

import numpy as np

from tin_bucket.core.alike.rule import number_of
from tin_bucket.core.analysis.row_story import StoryEvent, story_of
from tin_bucket.core.columns.kind_registry import Kind
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureName, FigureReader
from tin_bucket.core.work_out.figures import FIGURES
from tin_bucket.engine.work_out.sandbox import Stopped
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.through_time import RowThen
from tin_bucket.store.workspace import Workspace

from .browse import TableAt, Tables


@dataclass(frozen=True, slots=True)
class Story:
    """A row through all dates of a query.

    Attributes:
        match, key: what it is known by.
        dates: every snapshot, the oldest first, with the row where it has it.
        events: what happened.
    """

    match: list[str]
    key: list[Any]
    dates: list[tuple[Snapshot, RowThen | None]]
    events: list[StoryEvent]

    @property
    def newest(self) -> tuple[Snapshot, RowThen]:
        """The newest date that has it, and the row there."""
        return next((one, then) for one, then in reversed(self.dates) if then is not None)

    def lines(self, most: int = 12) -> dict[str, list[float | None]]:
        """Of the columns whose numbers changed, the number on every date, nothing where there is none.

        Args:
            most: so many columns are told.
        """
        changed = {name for event in self.events for name in event.changes}
        out: dict[str, list[float | None]] = {}
        for name in [column.name for column in self.newest[0].columns if column.name in changed]:
            numbers = [number_of(then.values.get(name)) if then is not None else None for _, then in self.dates]
            if sum(number is not None for number in numbers) > 1 and len(out) < most:
                out[name] = numbers
        return out


@dataclass(frozen=True, slots=True)
class FigureAt:
    """A figure on a date; nothing where there is none, and why in words."""

    snapshot: Snapshot
    value: float | None
    why: str = ""


def unit_of(found: Sequence[FigureAt], column: str, figure: FigureName) -> str:
    """The unit of a figure: that of its column, where the figure is of the column's numbers."""
    headings = (one for at in reversed(found) for one in at.snapshot.columns if one.name == column)
    return next((one.unit for one in headings), "") if figure not in COUNTS else ""


def _as_stored(value: Any, heading: TableColumn | None) -> Any:
    """A value of a key as rows have it: a browser has whole numbers that its own numbers cannot hold as texts."""
    whole = heading is not None and heading.kind == "whole number" and isinstance(value, str)
    return int(value) if whole and re.fullmatch(r"-?[0-9]{1,400}", value) else value


class History:
    """Reads queries through time."""

    def __init__(self, workspace: Workspace, tables: Tables) -> None:
        self._workspace = workspace
        self._tables = tables

    def story(self, query_id: int, key: Sequence[Any], match: Sequence[str] = ()) -> Story:
        """What happened to a row.

        Args:
            key: its values in the match columns.
            match: these columns; those of the query where none are said.

        Raises:
            ProblemError: ``query-unknown``, ``match-missing`` where nothing says which row is which, ``row-unknown``.
        """
        query = self._workspace.queries.get(query_id)
        newest = self._workspace.snapshots.latest(query_id)
        columns = list(match) or query.brief.keep.match or (newest.match if newest is not None else [])
        if not columns:
            raise fail(
                "match-missing",
                f"Nothing says which row of “{query.name}” is which.",
                where="match columns",
                do="Choose match columns: the Keep line of the query has them.",
            )
        if len(key) != len(columns):
            raise fail(
                "row-unknown",
                f"A row is known by {' and '.join(columns)}.",
                where="row",
                do="Open the row from the table.",
            )
        headings = {one.name: one for one in newest.columns} if newest is not None else {}
        key = [_as_stored(value, headings.get(name)) for name, value in zip(columns, key, strict=True)]
        dates = self._workspace.through_time.row(query_id, columns, key)
        if all(then is None for _, then in dates):
            raise fail(
                "row-unknown",
                f"No snapshot of “{query.name}” has a row whose {' and '.join(columns)} is"
                f" {', '.join(str(value)[:80] for value in key)}.",
                where="row",
                do="Choose a row of the table.",
            )
        return Story(columns, list(key), dates, story_of(then.values if then else None for _, then in dates))

    def figure(self, query_id: int, column: str, figure: FigureName, stop: Event | None = None) -> list[FigureAt]:
        """A figure of a column of a query's table, its lines done, on every date, the oldest first.

        Args:
            stop: says that nobody waits any more.

        Raises:
            ProblemError: ``query-unknown``, ``column-unknown``.
            Stopped: nobody waits any more.
        """
        query = self._workspace.queries.get(query_id)
        if query.brief.start is not None or any(not line.off for line in query.brief.work_out):
            found = self._of_worked(query_id, column, figure, stop)
        else:
            found = self._of_taken(query_id, column, figure)
        if figure != "rows" and found and all(one.why for one in found):
            raise fail(
                "column-unknown",
                found[-1].why,
                where="column",
                do="Choose one of the table's columns.",
            )
        return found

    def figure_table(
        self, query_id: int, column: str, figure: FigureName
    ) -> tuple[list[TableColumn], Iterator[tuple[Any, ...]]]:
        """A figure on every date as a table: the date, the figure, whether the table is complete, and why there is no
        figure, if so.

        Raises:
            ProblemError: as :meth:`figure`.
        """
        found = self.figure(query_id, column, figure)
        words = next(one.words for one in FIGURES if one.key == figure).format(column)
        kind: Kind = "whole number" if figure in COUNTS else "decimal"
        headings = [
            TableColumn("date", "date and time"), TableColumn(words, kind, unit=unit_of(found, column, figure)),
            TableColumn("table", "text"), TableColumn("why not", "text"),
        ]  # fmt: skip
        return headings, ((one.snapshot.taken, one.value, one.snapshot.state, one.why or None) for one in found)

    def _of_taken(self, query_id: int, column: str, figure: FigureName) -> list[FigureAt]:
        """Each distinct row is read once, whatever the number of dates."""
        workspace = self._workspace
        out = []
        with workspace.read_together():
            if figure == "rows":
                return [FigureAt(one, one.rows) for one in workspace.snapshots.of_query(query_id)]
            values = workspace.through_time.column(query_id, column)
            reader = FigureReader(values.values, figure)
            for snapshot, ids in workspace.through_time.lists(query_id):
                if all(one.name != column for one in snapshot.columns):
                    out.append(FigureAt(snapshot, None, f"There is no column “{column[:80]}”."))
                else:
                    out.append(FigureAt(snapshot, reader.of(values.at(ids))))
        return out

    def _of_worked(self, query_id: int, column: str, figure: FigureName, stop: Event | None) -> list[FigureAt]:
        query = self._workspace.queries.get(query_id)
        brief = query.brief
        out = []
        for snapshot in self._tables.work_out.timeline(query):
            if stop is not None and stop.is_set():
                raise Stopped
            at = TableAt(snapshot.id, lines=brief.work_out, query_id=query_id, start=brief.start)
            try:
                with self._tables.open(at) as table:
                    found = table.column(column) if figure != "rows" else None
                    if found is None and figure != "rows":
                        out.append(FigureAt(snapshot, None, f"There is no column “{column[:80]}”."))
                        continue
                    values = list(found[1]) if found is not None else []
                    places = np.arange(table.height, dtype=np.int64)
                    out.append(FigureAt(snapshot, FigureReader(values, figure).of(places)))
            except ProblemError as error:
                out.append(FigureAt(snapshot, None, error.problem.what))
        return out
