"""Tables through time: time lines, snapshots as things, stories of rows, figures, and what is watched."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.analysis.watch import Watch

from .table import ColumnInfo


class SnapshotLabel(BaseModel):
    """What people say of a snapshot. One with a name or a pin stays whatever the rule lets go."""

    name: str = ""
    note: str = ""
    pinned: bool = False


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
    labels: dict[int, SnapshotLabel] = Field(description="by number, of those that have a name, a note or a pin")
    without_table: list[RunMark] = Field(description="runs that failed or broke off")


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


class SnapshotFaults(BaseModel):
    """What is wrong with a snapshot."""

    snapshot: int
    taken: str
    what: list[str] = Field(description="in sentences; none where it is as it was stored")


class CheckedInfo(BaseModel):
    """The snapshots of a query, read in full and held against their digests."""

    snapshots: int
    damaged: list[SnapshotFaults]


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
