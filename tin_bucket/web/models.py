"""What the routes take and give: the source of the OpenAPI document, and so of the front end's types."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from tin_bucket.core.brief import Brief, Kind
from tin_bucket.core.service import Service


class ProblemInfo(BaseModel):
    kind: str
    what: str
    where: str
    do: str
    words: str


class ColumnInfo(BaseModel):
    name: str
    kind: Kind
    origin: str
    place: str
    unit: str
    filled: int | None


class SnapshotInfo(BaseModel):
    id: int
    run_id: int
    taken: str
    rows: int
    whole: bool
    stated_total: int | None
    since: dict[str, int]


class RunInfo(BaseModel):
    id: int
    query_id: int
    query_name: str
    cause: str
    state: str
    started: str
    ended: str | None
    calls: int
    records: int
    rows: int
    stated_total: int | None
    stop: str | None
    bindings: dict[str, str | None]
    notes: dict[str, Any]
    problem: ProblemInfo | None
    snapshot_id: int | None


class QueryLine(BaseModel):
    id: int
    name: str
    note: str
    service: str
    parameters: int
    snapshots: int
    counts: list[int] = Field(description="rows of the newest snapshots, the oldest first")
    latest: SnapshotInfo | None
    records: int | None
    last_run: RunInfo | None
    running: int | None
    next_time: str | None
    paused: bool
    every_seconds: int | None


class Attention(BaseModel):
    kind: str
    title: str
    what: str
    do: str
    query_id: int | None = None
    run_id: int | None = None
    service_id: str | None = None


class Desk(BaseModel):
    queries: list[QueryLine]
    attention: list[Attention]
    services: int


class QueryDetail(BaseModel):
    id: int
    brief_id: int
    brief: Brief
    service: Service | None
    key_stored: bool
    values: dict[str, str | None] = Field(description="what each parameter is today when nobody gives a value")
    snapshots: list[SnapshotInfo]
    columns: list[ColumnInfo] = Field(description="of the newest snapshot")
    last_run: RunInfo | None
    running: int | None
    next_time: str | None


class PasteIn(BaseModel):
    text: str = Field(max_length=20_000)


class PasteOut(BaseModel):
    service_id: str | None
    service_name: str
    base: str
    brief: Brief
    left_out: list[str]


class BriefIn(BaseModel):
    brief: Brief
    based_on: int | None = None


class TryIn(BaseModel):
    brief: Brief
    values: dict[str, str | None] = {}
    trial: int | None = None
    most: int | None = Field(default=None, ge=1, description="read only so many pages")


class ValuesIn(BaseModel):
    values: dict[str, str | None] = {}


class RunStarted(BaseModel):
    run_id: int


class HeaderInfo(BaseModel):
    name: str
    value: str


class CallInfo(BaseModel):
    number: int
    stage: str
    label: str
    method: str
    address: str
    headers: list[HeaderInfo]
    status: int
    sent: str
    ms: int
    size: int
    records: int
    has_answer: bool
    problem: ProblemInfo | None


class CallPreview(BaseModel):
    method: str
    address: str
    headers: list[HeaderInfo]
    values: dict[str, str | None]


class RowsGuessInfo(BaseModel):
    path: str
    count: int
    why: str


class PagesGuessInfo(BaseModel):
    pages: dict[str, Any]
    evidence: list[str]


class TrialInfo(BaseModel):
    id: int
    asked: str
    run_id: int | None
    pages: int
    pages_read: int
    columns: list[ColumnInfo]
    rows: int
    records: int
    stated_total: int | None
    problem: ProblemInfo | None
    row_guesses: list[RowsGuessInfo]
    pages_guess: PagesGuessInfo | None
    absent: list[str]
    fresh: list[str]
    lists: dict[str, int]
    unfit: dict[str, int]
    calls: list[CallInfo]


class Window(BaseModel):
    start: int
    rows: list[list[Any]]


class ServiceInfo(BaseModel):
    service: Service
    key_stored: str | None = Field(description="when the key was stored")
    key_last_used: str | None
    key_bound_to: str | None
    key_fits: bool = Field(description="whether the stored key is bound to the base address as it is now")
    used_by: list[str]


class ServiceIn(BaseModel):
    service: Service


class KeyIn(BaseModel):
    secret: str = Field(max_length=10_000, repr=False)


class CheckOut(BaseModel):
    reading: str
    what: str
    do: str


class ColumnChangeInfo(BaseModel):
    name: str
    unit: str
    cells: int
    rose: int
    fell: int
    mean: float | None


class OtherValue(BaseModel):
    name: str
    then: str | None
    now: str | None


class ComparisonInfo(BaseModel):
    then: SnapshotInfo
    now: SnapshotInfo
    match: list[str]
    counts: dict[str, int]
    columns: list[ColumnChangeInfo]
    new_columns: list[str]
    gone_columns: list[str]
    repeated_keys: int
    asked_otherwise: list[OtherValue] = Field(description="parameters, dates left out, that differ between the two")
    headings: list[ColumnInfo]


class MergedRow(BaseModel):
    state: str
    now: list[Any] | None
    then: list[Any] | None
    changed: list[int] = Field(description="indices of the columns that changed")


class MergedWindow(BaseModel):
    start: int
    total: int
    rows: list[MergedRow]


class Trace(BaseModel):
    column: str
    kind: str
    value: Any
    row: int
    run_id: int
    call: int | None
    calls: int
    label: str
    address: str
    sent: str
    ms: int
    pointer: str | None
    fragment: str | None
    source: str
