"""Tables, snapshots, comparisons and the origin of cells."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.analysis.view import View
from tin_bucket.core.columns.kind_registry import Kind
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.document.extraction import ValueSource
from tin_bucket.core.document.start import StartTables
from tin_bucket.core.work_out.registry import WorkOutLine
from tin_bucket.engine.tables.browse import Look, TableAt


class ColumnInfo(BaseModel):
    name: str
    kind: Kind
    origin: str
    place: str
    unit: str
    filled: int | None
    of: ValueSource
    note: str
    hidden: bool
    list_words: str = Field(description="how values of a list became one cell, in words")
    source: str = Field(description="the query or sheet that a brought-in column is of")
    asked: str = Field(description="when the oldest of a lookup's kept answers was asked for")


class SnapshotInfo(BaseModel):
    id: int
    run_id: int
    taken: str
    rows: int
    state: str = Field(description="complete, unverified or incomplete")
    evidence: str = Field(description="what proves that, in a sentence")
    stated_total: int | None
    since: dict[str, int]
    rebuilt: str | None = Field(description="when it was rebuilt from its saved answers")
    name: str = ""
    note: str = ""
    pinned: bool = False


class FormulasInfo(BaseModel):
    """Texts that a workbook would take for formulas in a CSV file."""

    cells: int
    more: bool = Field(description="whether further rows may hold more of them")
    columns: list[str]
    example: str


class RowFlowStepInfo(BaseModel):
    """A stage on the way from answers to the table."""

    what: str
    count: int
    words: str


class RowWindow(BaseModel):
    start: int
    rows: list[list[Any]]


class ExcerptInfo(BaseModel):
    """A piece of an answer: what stands before the value, the value, and what stands behind it."""

    before: str
    lit: str
    after: str


class FromInfo(BaseModel):
    """Another cell of the row that a cell was made with."""

    column: int
    name: str
    value: Any


class EarlierInfo(BaseModel):
    """What a cell was in an earlier snapshot."""

    snapshot: int
    taken: str
    value: Any


class InputInfo(BaseModel):
    """A cell that a worked-out one was made with."""

    name: str
    value: Any


class WorkedInfo(BaseModel):
    """How a work-out line made a cell."""

    line: int = Field(description="its number, counted from 1; 0 for a line of another query")
    sentence: str
    expression: str = Field(description="its SQL, with the values of the row put in")
    inputs: list[InputInfo]
    behind: int = Field(description="how many rows are counted in it; 0 where it is of one row")


class Trace(BaseModel):
    column: str
    kind: str
    value: Any
    row: int
    run_id: int | None
    call: int | None = Field(description="which of the calls of its stage, counted from 1")
    calls: int
    call_number: int | None = Field(description="its number in the run")
    label: str
    address: str
    sent: str
    ms: int
    source: str = Field(description="page, for each, or the name of the lookup")
    kept: bool = Field(description="whether the answer is still kept")
    from_memory: bool = Field(description="whether an earlier run had saved the answer, and it was not asked for again")
    pointer: str | None
    state: str = Field(description="there, null, missing, empty text or outside")
    excerpt: ExcerptInfo | None
    steps: list[str]
    made_with: list[FromInfo]
    history: list[EarlierInfo]
    worked: WorkedInfo | None = None
    through: list[str] = Field(default=[], description="the tables that it came through, in words")


class LookRef(BaseModel):
    """Rows that a work-out line speaks of."""

    line: int = Field(ge=1, description="which line, counted from 1")
    what: Literal["dropped", "odd", "unmatched", "several", "behind"]
    row: int = Field(default=0, ge=0, description="for “behind”: the row of the table after the line")


class ReadThen(BaseModel):
    """How a table was read at its date."""

    lines: list[WorkOutLine]
    start: StartTables | None


class TableRef(BaseModel):
    """A table: that of a snapshot, or of a preview, with work-out lines done to it."""

    snapshot: int | None = None
    preview: int | None = None
    query_id: int | None = None
    starts_from: StartTables | None = Field(default=None, description="where the query asks nothing")
    lines: list[WorkOutLine] = Field(default=[], max_length=200)
    look: LookRef | None = None

    def at(self) -> TableAt:
        """The table as the engine takes it."""
        look = None if self.look is None else Look(self.look.line, self.look.what, self.look.row)
        return TableAt(self.snapshot, self.preview, self.lines, self.query_id, self.starts_from, look)


class RowsIn(TableRef):
    view: View = View()
    start: int = Field(default=0, ge=0)
    count: int = Field(default=200, ge=0, le=2000)


class RowsOut(BaseModel):
    start: int
    total: int = Field(description="how many rows are seen")
    numbers: list[int] = Field(description="for each row its number in the table, counted from 0")
    rows: list[list[Any]]


class FindIn(TableRef):
    view: View = View()
    text: str = Field(max_length=1000)


class FindOut(BaseModel):
    total: int
    cells: list[list[int]] = Field(description="row as it is seen and column of the first ones")


class CellIn(TableRef):
    row: int
    column: int


class ColumnIn(TableRef):
    column: str
    view: View = View()


class FrequentInfo(BaseModel):
    value: Any
    count: int


class TypeGuessInfo(BaseModel):
    """What a column's values may mean."""

    kind: Kind
    reads: Reads | None
    evidence: str
    before: str
    after: str


class ProfileInfo(BaseModel):
    rows: int
    filled: int
    empty_texts: int
    nulls: int | None = Field(description="empty ones that are a null of the answer, where that is known")
    missed: int
    distinct: int
    capped: bool
    lowest: Any
    highest: Any
    mean: float | None
    frequent: list[FrequentInfo]
    longest: int
    guesses: list[TypeGuessInfo]
    strays: list[FrequentInfo] = Field(description="texts among numbers")
    empties: list[FrequentInfo] = Field(description="texts that likely mean that there is no value")


class ValuesOut(BaseModel):
    """The values of a column among the rows that are seen, the most frequent first."""

    rows: int
    empty: int = Field(description="cells without a value, lookups that gave nothing among them")
    distinct: int
    capped: bool = Field(description="whether there are more different values than were counted")
    values: list[FrequentInfo]
