"""Tables, snapshots, comparisons and the origin of cells."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.alike.registry import Alike
from tin_bucket.core.analysis.view import View
from tin_bucket.core.analysis.watch import Watch
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


class MarkLabel(BaseModel):
    """What people said of a snapshot on a time line."""

    name: str
    note: str
    pinned: bool


class RunMark(BaseModel):
    """A run that left no snapshot, on a time line."""

    run_id: int
    at: int = Field(description="when it began, in seconds since 1970 (POSIX)")
    state: str = Field(description="failed or interrupted")
    what: str = Field(description="why, in a sentence; empty where that is not known")


class TimelineInfo(BaseModel):
    """The dates of a query's table, the oldest first, told by column: thousands of them are a small answer."""

    ids: list[int]
    at: list[int] = Field(description="when each was taken, in seconds since 1970 (POSIX)")
    rows: list[int]
    states: list[str]
    differs: list[int | None] = Field(
        description="rows that are new, gone or changed since the one before; nothing where these are not compared"
    )
    labels: dict[int, MarkLabel] = Field(description="by number, of those that have a name, a note or a pin")
    without_table: list[RunMark] = Field(description="runs that failed or broke off")


class SnapshotLabel(BaseModel):
    """What people say of a snapshot. One with a name or a pin stays whatever the rule lets go."""

    name: str = ""
    note: str = ""
    pinned: bool = False


class WeightInfo(BaseModel):
    """Rows that only some snapshots have, and the bytes that they take up with their lists."""

    rows: int
    size: int


class SnapshotWeights(BaseModel):
    """What each snapshot of a query takes up alone, by its number, and all together in bytes."""

    each: dict[int, WeightInfo]
    all: int


class ChosenSnapshots(BaseModel):
    ids: list[int] = Field(min_length=1, max_length=100_000)


class GoingInfo(BaseModel):
    """The snapshots that go, and what that frees."""

    ids: list[int]
    rows: int
    size: int


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


class ColumnChangeInfo(BaseModel):
    name: str
    unit: str
    cells: int
    rose: int
    fell: int
    mean: float | None


class OtherValue(BaseModel):
    name: str
    then: str | list[str] | None
    now: str | list[str] | None


class SideInfo(BaseModel):
    """One of the two tables of a comparison."""

    ref: str = Field(description="how it is asked for")
    name: str = Field(description="of its query, or of the sheet")
    query_id: int | None
    snapshot: SnapshotInfo | None = Field(description="of which date it is, where it has one")
    rows: int = Field(description="of the table that is compared, behind its lines")
    columns: list[str]


class RenamedInfo(BaseModel):
    """A column that has another name in the later table."""

    then: str
    now: str


class OtherKind(BaseModel):
    """A column that is of another kind in the later table."""

    name: str
    then: str
    now: str


class ComparingIn(BaseModel):
    """How two tables are compared, where that is not as the query says."""

    match: list[str] | None = Field(default=None, max_length=100)
    alike: list[Alike] | None = Field(default=None, max_length=100)
    pairs: list[RenamedInfo] = Field(default=[], max_length=500, description="columns that are paired by hand")


class MatchProposalInfo(BaseModel):
    """Columns that tell the rows apart."""

    columns: list[str]
    evidence: str = Field(description="why, in a sentence")


class LikelyPairInfo(BaseModel):
    """A column that went and one that came, which hold the same values."""

    then: str
    now: str
    equal: int = Field(description="rows in which they are equal")
    compared: int = Field(description="rows of both tables in which one of them has a value, of those looked at")
    in_rows: bool = Field(description="whether rows were laid beside each other; else values were looked for")


class ProposalsInfo(BaseModel):
    match: MatchProposalInfo | None
    renamed: list[LikelyPairInfo]
    other_key: int = Field(description="rows that are gone and new again under another key, all else being the same")


class ComparisonInfo(BaseModel):
    then: SideInfo
    now: SideInfo
    match: list[str] = Field(description="the columns that said which row is which; none: the rows' whole content")
    lacking: list[str] = Field(description="match columns that one of the tables lacks")
    alike: list[Alike] = Field(description="what counted as the same")
    alike_cells: dict[str, int] = Field(description="by column: rows that differ in it only in what counts as the same")
    renamed: list[RenamedInfo]
    other_kinds: list[OtherKind]
    counts: dict[str, int]
    columns: list[ColumnChangeInfo]
    new_columns: list[str]
    gone_columns: list[str]
    repeated_keys: int
    repeated_rows: int = Field(description="rows of match values that stand for several")
    asked_otherwise: list[OtherValue] = Field(description="parameters, dates left out, that differ between the two")
    headings: list[ColumnInfo]


class StoryChange(BaseModel):
    """A cell that changed."""

    name: str
    then: Any
    now: Any


class StoryEventInfo(BaseModel):
    """Something that happened to a row."""

    snapshot: int
    at: int = Field(description="when it is seen first, in seconds since 1970 (POSIX)")
    what: Literal["came", "changed", "went", "back"]
    row: int | None = Field(description="where it stands in that snapshot; nothing where it went")
    changes: list[StoryChange]


class StoryInfo(BaseModel):
    """A row through all dates of a query."""

    match: list[str]
    key: list[Any]
    dates: int
    there: int = Field(description="on how many dates it is there")
    several: bool = Field(description="whether its key stands for several rows somewhere; the first one is followed")
    columns: list[ColumnInfo] = Field(description="of the newest date that has it")
    values: list[Any] = Field(description="on that date")
    events: list[StoryEventInfo] = Field(description="the oldest first")
    lines: dict[str, list[float | None]] = Field(
        description="of the columns whose numbers changed: its value on each date, nothing where there is none"
    )
    at: list[int] = Field(description="the dates, in seconds since 1970 (POSIX)")


class FigureLine(BaseModel):
    """A figure through time."""

    snapshots: list[int]
    at: list[int] = Field(description="the dates, in seconds since 1970 (POSIX)")
    states: list[str]
    values: list[float | None]
    why: list[str] = Field(description="why there is none, in words")
    unit: str


class WatchIn(BaseModel):
    query_id: int
    watch: Watch


class WatchInfo(WatchIn):
    """Something that is watched, and how it stands."""

    id: int
    query_name: str
    taken: str = Field(description="as of when; empty where there is no table")
    value: Any
    before: Any = Field(description="what it was before it became so")
    since: str
    there: bool = Field(description="whether a row is there")
    unit: str
    points: list[float | None] = Field(description="its numbers on the last dates")
    problem: str = Field(description="why nothing can be told")


class MergedRow(BaseModel):
    state: str
    now: list[Any] | None
    then: list[Any] | None
    changed: list[int] = Field(description="indices of the columns that changed")
    alike: list[int] = Field(description="indices of those that differ only in what counts as the same")


class MergedWindow(BaseModel):
    start: int
    total: int
    rows: list[MergedRow]


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
