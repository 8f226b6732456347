"""What the routes take and give: the source of the OpenAPI document, and so of the front end's types."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.analysis.view import View
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.columns.kind_registry import Kind
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.document.extraction import Heads, ValueSource
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.bundle import RequiredKey
from tin_bucket.core.pagination.registry import Pagination
from tin_bucket.core.request.parameters import Choice
from tin_bucket.core.request.values import Bindings, Given
from tin_bucket.core.traffic.rate_window import Window


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
    of: ValueSource
    note: str
    hidden: bool
    list_words: str = Field(description="how values of a list became one cell, in words")


class SnapshotInfo(BaseModel):
    id: int
    run_id: int
    taken: str
    rows: int
    complete: bool
    stated_total: int | None
    since: dict[str, int]
    rebuilt: str | None = Field(description="when it was read anew from its saved answers")


class RowFlowStep(BaseModel):
    """A stage on the way from answers to the table."""

    what: str
    count: int
    words: str


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
    bindings: Bindings
    iterations: int
    notes: dict[str, Any]
    problem: ProblemInfo | None
    snapshot_id: int | None
    goes_on: int | None
    can_go_on: bool = Field(description="whether it can go on from its saved answers")


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
    waiting: str | None = Field(description="what the run waits for, in words")
    next_time: str | None
    paused: bool
    every_seconds: int | None
    drift: str = Field(description="what the last answers had otherwise than those before")


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
    key: KeyInfo | None
    values: dict[str, Given] = Field(description="what each parameter is today when nobody gives a value")
    choices: dict[str, list[Choice]] = Field(description="of the parameters that read them from another table")
    snapshots: list[SnapshotInfo]
    columns: list[ColumnInfo] = Field(description="of the newest snapshot")
    row_flow: list[RowFlowStep] = Field(description="of the newest snapshot: where its rows went")
    saved_bytes: int = Field(description="how much its saved answers take")
    last_run: RunInfo | None
    running: int | None
    next_time: str | None


class PasteIn(BaseModel):
    text: str = Field(max_length=2_000_000, repr=False)


class SheetPreview(BaseModel):
    name: str
    headings: list[str]
    rows: list[list[Any]]
    count: int
    found: dict[str, str]
    tabs: list[str]


class PasteOut(BaseModel):
    """What was understood. A key that was in it is held by the server under `held`, and not sent back."""

    kind: str = Field(description="call or sheet")
    service_id: str | None = None
    service_name: str = ""
    base: str = ""
    brief: Brief | None = None
    key: Key | None = None
    held: str | None = None
    held_fields: dict[str, str] = Field(default={}, description="field of the key → its last characters")
    keys_seen: list[str] = []
    stored_key: Literal["none", "same", "other", "unfit"] = Field(
        default="none",
        description="the known service's key in the vault, beside the one that was seen; "
        "unfit: the service is not asked with what was seen",
    )
    notes: list[str] = []
    call: FirstCall | None = None
    sheet: SheetPreview | None = None


class BeginIn(BaseModel):
    brief: Brief
    service: Service | None = Field(default=None, description="a new service; the brief asks a known one when absent")
    held: str | None = None
    secret: dict[str, str] = Field(default={}, repr=False, description="fields of the key that were typed in")
    replace_key: bool = Field(default=False, description="whether the key takes the place of one that is stored")


class BriefIn(BaseModel):
    brief: Brief
    based_on: int | None = None


class TryIn(BaseModel):
    brief: Brief
    values: dict[str, Given] = {}
    query_id: int | None = None
    preview: int | None = None
    most: int | None = Field(default=None, ge=1, description="read only so many records")


class ValuesIn(BaseModel):
    values: dict[str, Given] = {}


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
    body: str | None
    note: str
    used: bool
    status: int
    sent: str
    ms: int
    size: int
    records: int
    has_answer: bool
    problem: ProblemInfo | None
    state: str = Field(description="answered, missing, again or failed")
    saved: bool = Field(description="whether an earlier run had this answer, and no call was made")


class HintInfo(BaseModel):
    where: str
    what: str
    do: str


class FirstCall(BaseModel):
    """The first call that would be made, key masked, and all that can be said of it before it is made."""

    method: str = ""
    address: str = ""
    headers: list[HeaderInfo] = []
    body: str | None = None
    command: str = Field(default="", description="as a shell command, with the key as a variable's name")
    values: dict[str, Given] = {}
    choices: dict[str, list[Choice]] = {}
    iterations: int = 1
    iteration_labels: list[str] = []
    hints: list[HintInfo] = []
    problem: ProblemInfo | None = None


class RecordsGuessInfo(BaseModel):
    path: str
    count: int
    why: str
    heads: Heads | None
    rows_for: list[str]


class PaginationGuessInfo(BaseModel):
    pages: Pagination
    words: str
    evidence: list[str]


class TotalGapInfo(BaseModel):
    """An answer that holds fewer rows than the API states."""

    here: int
    total: int
    place: str


class VerificationOut(BaseModel):
    """What a second call showed of a way to turn pages."""

    verified: bool
    what: str
    do: str
    problem: ProblemInfo | None


class PreviewInfo(BaseModel):
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
    records_guesses: list[RecordsGuessInfo]
    pagination_guesses: list[PaginationGuessInfo] = Field(description="ways to turn pages, the likeliest first")
    total_gap: TotalGapInfo | None
    notes: list[str]
    absent: list[str]
    fresh: list[str]
    lists: dict[str, int]
    unfit: dict[str, int]
    heads: list[str] = Field(description="names that were found for records that are lists")
    partial: bool = Field(description="whether there are more records than were read")
    row_flow: list[RowFlowStep]
    calls: list[CallInfo]


class RowWindow(BaseModel):
    start: int
    rows: list[list[Any]]


class KeyInfo(BaseModel):
    """What is known of a service's key; nothing of its text but the last characters."""

    stored: str | None = Field(description="when it was stored, or its token was pasted")
    ready: bool = Field(description="whether calls can carry it now")
    last_used: str | None
    bound_to: str | None
    fits: bool = Field(description="whether it is bound to the addresses as they are now")
    expires: str | None
    fingerprint: str
    wants: list[str] = Field(description="the fields that a person puts in")
    token_ends: str | None


class AllowanceInfo(BaseModel):
    """What is left of a window."""

    words: str
    left: int
    calls: int
    resets: str | None = Field(description="when more is free again")


class AdvertisedLimits(BaseModel):
    """What the service's answers say of its limits."""

    words: str
    windows: list[Window]


class PlanOut(BaseModel):
    """What a refresh will cost, before it is made."""

    calls: int | None
    basis: str
    seconds: float | None
    waits: float
    why: str
    left: list[AllowanceInfo]
    warning: str


class ServiceInfo(BaseModel):
    allowances: list[AllowanceInfo]
    told: AdvertisedLimits | None
    service: Service
    key: KeyInfo | None
    used_by: list[str]
    waiting: list[str] = Field(description="the queries whose runs wait for this key")


class ServiceIn(BaseModel):
    service: Service


class KeyIn(BaseModel):
    secret: dict[str, str] = Field(repr=False, description="field → text")
    expires: str | None = Field(default=None, description="when it ends, ISO 8601")


class ExpiresIn(BaseModel):
    expires: str | None


class PassphraseIn(BaseModel):
    passphrase: str | None = Field(default=None, max_length=1000, repr=False)


class About(BaseModel):
    """What holds for the whole program."""

    caller: str = Field(description="how calls identify their caller, for a new service")
    reach: str
    folder: str
    vault: str = Field(description="key file, passphrase, or closed")


class SheetInfo(BaseModel):
    name: str
    file: str
    headings: list[str]
    rows: int
    added: str
    settings: SheetSettingsIn
    used_by: list[str]


class SheetSettingsIn(BaseModel):
    separator: str | None = None
    encoding: str | None = None
    header: bool = True
    skip: int = Field(default=0, ge=0, le=10_000)
    tab: str | None = None


class FilesInfo(BaseModel):
    folder: str
    files: list[str]


class ItemInfo(BaseModel):
    kind: str
    name: str
    state: str
    choice: str


class ImportPlanInfo(BaseModel):
    items: list[ItemInfo]
    required_keys: list[RequiredKey]
    required_sheets: list[str]


class BundleIn(BaseModel):
    document: Any
    choices: dict[str, str] = {}


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
    then: str | list[str] | None
    now: str | list[str] | None


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


class TableRef(BaseModel):
    """A table: that of a snapshot, or of a preview."""

    snapshot: int | None = None
    preview: int | None = None


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


class NodeInfo(BaseModel):
    """A node of an answer's tree."""

    name: str | int | None
    kind: str
    size: int
    text: str


class NodesOut(BaseModel):
    node: NodeInfo
    start: int
    children: list[NodeInfo]


class FoundNode(BaseModel):
    steps: list[str | int]
    what: str
    text: str


class SearchOut(BaseModel):
    total: int
    found: list[FoundNode]


class AnswerText(BaseModel):
    text: str
    size: int
    more: bool


class SavedRunInfo(BaseModel):
    """A run whose answers are kept."""

    run_id: int
    started: str
    calls: int
    packed: int
    size: int
    snapshot_id: int | None
    rebuilt: str | None


class SavedInfo(BaseModel):
    runs: list[SavedRunInfo]
    packed: int = Field(description="bytes in all; an answer that several runs had counts once")


class RebuiltInfo(BaseModel):
    snapshot: SnapshotInfo
    absent: list[str]


class ChildTableIn(BaseModel):
    """A list that becomes a table of its own."""

    brief: Brief
    place: str
    name: str | None = None
