"""A report as it is read: what its figures and exhibits are, as of a date and against another."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

from tin_bucket.core.chart.drawing import Drawing
from tin_bucket.core.chart.model import ChartModel

from .figure import ReportFigure, Told


@dataclass(frozen=True, slots=True)
class SourceSeen:
    """From which table something is, as the margin says it.

    Attributes:
        query_id, name: of the query; the name says that it is gone, where it is.
        snapshot, then: the two dates by their numbers.
        taken, then_taken: as of when, and the date that it is held against, ISO 8601; empty where there is none.
        state: ``complete``, ``unverified`` or ``incomplete``; ``missing`` where there is no table.
        rows: how many it has.
        evidence: why it is incomplete.
        old: why it is older than it should be; empty where it is not.
        notes: what else is to be known, in sentences.
    """

    query_id: int
    name: str
    snapshot: int | None = None
    then: int | None = None
    taken: str = ""
    then_taken: str = ""
    state: Literal["complete", "unverified", "incomplete", "missing"] = "missing"
    rows: int = 0
    evidence: str = ""
    old: str = ""
    notes: tuple[str, ...] = ()

    @property
    def doubt(self) -> str:
        """What stands beside a figure that is not to be trusted as it is; empty for others."""
        if self.state == "missing":
            return "missing"
        if self.state == "incomplete":
            return "incomplete"
        return "old" if self.old else ""


@dataclass(frozen=True, slots=True)
class FigureSeen:
    """A figure as it is read.

    Attributes:
        now, then: what it is, and what it was.
        source: from which table.
    """

    figure: ReportFigure
    now: Told
    then: Told | None
    source: SourceSeen


@dataclass(frozen=True, slots=True)
class CellSeen:
    """A cell of an exhibit, in words.

    Attributes:
        was: what it was, where it changed.
        marked: whether it meets the condition of a mark.
        value: the cell itself.
    """

    text: str
    was: str | None = None
    marked: bool = False
    value: Any = None


@dataclass(frozen=True, slots=True)
class RowSeen:
    """A row of an exhibit.

    Attributes:
        state: what became of it since the other date; empty where nothing did.
        key: the number of the row in its table; −1 for none.
    """

    cells: list[CellSeen]
    state: Literal["", "new", "gone", "changed"] = ""
    key: int = -1
    link: str = ""


@dataclass(frozen=True, slots=True)
class TableSeen:
    """The table of an exhibit.

    Attributes:
        headings: name and unit of each column, and whether it is of numbers.
        totals: the cells below the rows, empty texts where there is none.
        more: how many rows are not shown.
    """

    headings: list[tuple[str, str, bool]]
    rows: list[RowSeen]
    totals: list[str] = field(default_factory=list)
    more: int = 0


@dataclass(slots=True)
class BlockSeen:
    """A block as it is read.

    Attributes:
        block: its kind.
        number: of an exhibit, counted from 1.
        title: of an exhibit.
        html, text: what is read; of a chart the sentence that it shows.
        sources: for the margin.
        odd: what is wrong, in sentences.
        drawing, chart: what is drawn.
        table: the rows, for a workbook.
    """

    block: str
    number: int = 0
    title: str = ""
    html: str = ""
    text: str = ""
    sources: list[SourceSeen] = field(default_factory=list)
    odd: list[str] = field(default_factory=list)
    drawing: Drawing | None = None
    chart: ChartModel | None = None
    table: TableSeen | None = None


@dataclass(frozen=True, slots=True)
class ChoiceSeen:
    """What a reader can choose.

    Attributes:
        value: what holds now.
        options: the values that there are, where they are chosen among.
        kind: what the values of its column are.
        asks: the numbers of the queries that can be asked anew with the value.
    """

    name: str
    column: str
    how: str
    value: str
    options: list[str]
    kind: str
    asks: list[int]


@dataclass(frozen=True, slots=True)
class FactSeen:
    """A figure in words, for whoever writes.

    Attributes:
        words: what it is.
        parts: what a text can say of it besides → what that is now.
        why: why there is none.
    """

    name: str
    query_id: int
    query: str
    words: str
    parts: dict[str, str]
    why: str


@dataclass(slots=True)
class ReportSeen:
    """A report as it is read.

    Attributes:
        as_of: as of when, ISO 8601: that of its newest table.
        against: the date that it is held against; empty for none.
        facts: its figures in words, for whoever writes.
        sources: from which tables it is.
    """

    title: str
    as_of: str
    against: str
    choices: list[ChoiceSeen]
    blocks: list[BlockSeen]
    facts: list[FactSeen]
    sources: list[SourceSeen]
