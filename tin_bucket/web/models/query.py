"""Queries: the desk, the brief, the preview, the cost."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.document.extraction import Heads
from tin_bucket.core.document.made_with import MadeWith
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.registry import Pagination
from tin_bucket.core.request.parameters.models import Choice, Parameter
from tin_bucket.core.request.parameters.values import Given

from .common import HeaderInfo, HintInfo, ProblemInfo
from .run import CallInfo, RunInfo
from .service import AllowanceInfo, KeyInfo
from .sheet import SheetPreview
from .table import ColumnInfo, RowFlowStepInfo, SnapshotInfo


class UnseenInfo(BaseModel):
    """What nobody has looked at yet."""

    taken: str = Field(description="the date that was looked at last")
    dates: int = Field(description="how many there are after it")


class ChangeInfo(BaseModel):
    """What a snapshot changed."""

    query_id: int
    query_name: str
    snapshot: int
    taken: str
    rows: int
    state: str
    since: dict[str, int]
    seen: bool = Field(description="whether somebody looked at it")


class QueryLine(BaseModel):
    id: int
    name: str
    note: str
    service: str
    starts: bool = Field(description="whether it starts from other tables, and asks nothing itself")
    counting: bool = Field(description="whether the rows of its newest table are being counted")
    parameters: int
    snapshots: int
    counts: list[int] = Field(description="rows of the newest snapshots, the oldest first")
    latest: SnapshotInfo | None
    records: int | None
    last_state: str | None = Field(description="how the newest run ended that came to an end")
    running: int | None
    waiting: str | None = Field(description="what the run waits for, in words")
    next_time: str | None
    paused: bool
    every_seconds: int | None
    handed_to: list[str] = Field(description="where its feeds hand it over to")
    unsaved: bool = Field(description="whether it has changes that are not saved")
    unseen: UnseenInfo | None = Field(description="what came since somebody looked at it")
    matched: bool = Field(description="whether match columns say which row is which, for what changed since")
    chain: list[ChainInfo] = Field(description="the tables that it is made of beside its own")
    made_with: MadeWith | None = Field(description="how the newest snapshot's brief differs from the saved one")
    drift: str = Field(description="what the last answers had otherwise than those before")


class AttentionInfo(BaseModel):
    kind: str
    title: str
    what: str
    do: str
    query_id: int | None = None
    run_id: int | None = None
    service_id: str | None = None


class Desk(BaseModel):
    queries: list[QueryLine]
    attention: list[AttentionInfo]
    services: int


class StepInfo(BaseModel):
    """A state of a draft, and the change that led to it."""

    number: int
    name: str


class DraftInfo(BaseModel):
    """What was changed and not saved yet."""

    based_on: int = Field(description="the saved version of the brief that it is to take the place of")
    version: int = Field(description="rises with every change, from any window")
    steps: list[StepInfo] = Field(description="what can be gone back or forth to, the oldest first")
    at: int = Field(description="the number of the step in sight")
    document: dict[str, Any] = Field(description="the brief of that step, which may not be valid yet")
    unsaved: bool = Field(description="whether it differs from the saved brief")
    changed: str
    given: dict[str, Any] = Field(description="values for the next call that differ from the defaults")


class DraftIn(BaseModel):
    """A change that becomes the draft's next step."""

    version: int = Field(description="of the draft that it was made to, 0 where there was none")
    based_on: int
    document: dict[str, Any]
    name: str = Field(max_length=200, description="what the change did, in words")
    given: dict[str, Any] = {}


class StepIn(BaseModel):
    version: int
    at: int


class ChainInfo(BaseModel):
    """A table that a query starts from or reads, with those that it is made of."""

    query_id: int | None = Field(description="nothing for a sheet, and for a query that is gone")
    name: str
    starts: bool = Field(description="whether the query starts from it, and does not only bring it in")
    rows: int
    taken: str | None = Field(description="of its newest snapshot")
    state: str = Field(description="of its newest snapshot; gone where there is no such table")
    of: list[ChainInfo]


class QueryDetail(BaseModel):
    id: int
    brief_id: int
    brief: Brief
    service: Service | None
    key: KeyInfo | None
    values: dict[str, Given] = Field(description="what each parameter is today when nobody gives a value")
    choices: dict[str, list[Choice]] = Field(description="of the parameters that read them from another table")
    latest: SnapshotInfo | None = Field(description="the newest snapshot")
    dates: int = Field(description="how many dates its table has")
    columns: list[ColumnInfo] = Field(description="of the newest snapshot")
    row_flow: list[RowFlowStepInfo] = Field(description="of the newest snapshot: where its rows went")
    saved_bytes: int = Field(description="how much its saved answers take")
    last_run: RunInfo | None
    running: int | None
    next_time: str | None
    findings: list[FindingInfo] = Field(description="what was found out about further pages, the newest first")
    draft: DraftInfo | None
    chain: list[ChainInfo] = Field(description="the tables that it is made of beside its own")
    made_with: MadeWith | None = Field(description="how the newest snapshot's brief differs from the saved one")


class PasteIn(BaseModel):
    text: str = Field(max_length=2_000_000, repr=False)


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


class PasteOut(BaseModel):
    """What was understood. A key that was in it is held by the server under `held`, and not sent back."""

    kind: str = Field(description="call or sheet; keys that are seen in a sheet are said before it is shown")
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
    asks_with_key: bool = Field(default=False, description="whether the known service is asked with a key")
    used_by: list[str] = Field(default=[], description="queries that ask the known service")
    as_sent: dict[Literal["service", "own", "leave"], FirstCall] = Field(
        default={},
        description="where the key that was seen is not the known service's: the call if the key is for that service "
        "from now on, for a service of its own beside it, or for nothing",
    )
    near_dates: dict[str, str] = Field(
        default={}, description="parameter whose date is near today → how far, as an ISO 8601 duration"
    )
    notes: list[str] = []
    call: FirstCall | None = None
    sheet: SheetPreview | None = None


class BeginIn(BaseModel):
    brief: Brief
    fixed: list[str] = Field(default=[], description="parameters whose values are written into the question")
    moving: list[str] = Field(default=[], description="parameters whose near dates move with the calendar")
    service: Service | None = Field(default=None, description="a new service; the brief asks a known one when absent")
    held: str | None = None
    secret: dict[str, str] = Field(default={}, repr=False, description="fields of the key that were typed in")
    key: Key | None = Field(default=None, description="how the known service takes its key from now on")
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
    known: bool = Field(description="whether nothing of it is guessed")


class TotalGapInfo(BaseModel):
    """An answer that holds fewer rows than the API states."""

    here: int
    total: int
    place: str


class TrialInfo(BaseModel):
    """A call that was tried, its key masked."""

    sent: dict[str, str]
    rows: int | None
    showed: str
    method: str
    address: str
    status: int
    ms: int
    at: str


class FindingInfo(BaseModel):
    """What “Is there more?” found out."""

    id: int
    asked: str
    state: str = Field(description="complete, unverified or incomplete: what is known of the first answer")
    what: str
    words: str = Field(description="how pages are turned, where that is known")
    saves: str
    calls: list[TrialInfo]
    pages: Pagination | None = None


class AskedInfo(BaseModel):
    """A finding with its query, for the history."""

    query_id: int
    query_name: str
    finding: FindingInfo


class FindIn(BaseModel):
    reads: bool = Field(default=False, description="a person says that such a call changes nothing")
    query_id: int | None = None


class ProofInfo(BaseModel):
    """What one answer shows of being all there is, and what finding out costs at most."""

    state: str
    evidence: str
    calls: int
    reads: bool = Field(description="whether such calls change nothing")
    by_itself: bool = Field(description="whether to find out unasked")


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
    proof: ProofInfo | None = Field(description="where no pages are turned")
    notes: list[str]
    absent: list[str]
    fresh: list[str]
    lists: dict[str, int]
    unfit: dict[str, int]
    heads: list[str] = Field(description="names that were found for records that are lists")
    partial: bool = Field(description="whether there are more records than were read")
    row_flow: list[RowFlowStepInfo]
    calls: list[CallInfo]


class CostOut(BaseModel):
    """What a refresh will cost, before it is made."""

    calls: int | None
    basis: str
    seconds: float | None
    waits: float
    why: str
    left: list[AllowanceInfo]
    warning: str


class PlanOut(BaseModel):
    """A refresh before it is made."""

    first_call: FirstCall
    cost: CostOut | None = Field(description="nothing where no plan can be made; the first call says why")


class ChildTableIn(BaseModel):
    """A list that becomes a table of its own."""

    brief: Brief
    place: str
    name: str | None = None


class ParameterIn(BaseModel):
    """A parameter as it is edited."""

    parameter: Parameter
    query_id: int | None = None


class ParameterOut(BaseModel):
    value: Given = Field(description="what it is today when nobody gives a value, in its plain form")
    sent: str = Field(description="how that is sent")
