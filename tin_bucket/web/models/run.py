"""Runs, their calls and their saved answers."""

from __future__ import annotations

from pydantic import BaseModel, Field

from tin_bucket.core.document.report import RunReport
from tin_bucket.core.request.parameters.values import Bindings, Given

from .common import HeaderInfo, ProblemInfo
from .table import SnapshotInfo


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
    report: RunReport
    problem: ProblemInfo | None
    snapshot_id: int | None
    resumed_from: int | None
    can_resume: bool = Field(description="whether it can resume from its saved answers")


class RunStarted(BaseModel):
    run_id: int


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
    state: str = Field(description="answered, unchanged, missing, again or failed")
    saved: bool = Field(description="whether an earlier run had this answer, and no call was made")


class ValuesIn(BaseModel):
    values: dict[str, Given] = {}


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
