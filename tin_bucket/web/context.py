"""What every route needs: the engine, the workspace and the schedule."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field, fields
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import Depends, Request

from tin_bucket.cache import LockedCache
from tin_bucket.core.analysis.completeness import may_go_on
from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.sign import shown
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.spreadsheet import SheetTable
from tin_bucket.core.problem import Problem, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.traffic.pace import Allowance
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.hand_over.live import LiveTables
from tin_bucket.engine.preview.preview import Preview
from tin_bucket.engine.schedule import Schedule
from tin_bucket.store.readers import Reader
from tin_bucket.store.runs import Run
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace
from tin_bucket.web.models.common import HeaderInfo, ProblemInfo
from tin_bucket.web.models.feed import ReaderInfo
from tin_bucket.web.models.run import RunInfo
from tin_bucket.web.models.service import AllowanceInfo, KeyInfo
from tin_bucket.web.models.table import ColumnInfo, SnapshotInfo

from .held import Held
from .practice import Practice

_SHEET_ROWS = 300_000  # Rows of all sheets that are looked at together.


@dataclass(frozen=True, slots=True)
class Context:
    """One application's parts."""

    engine: Engine
    schedule: Schedule
    held: Held
    practice: Practice
    live: LiveTables
    # Sheets that are looked at, by name and the time when they were added.
    sheets: LockedCache[tuple[str, str], SheetTable] = field(
        default_factory=lambda: LockedCache(_SHEET_ROWS, lambda table: len(table.records))
    )

    @property
    def workspace(self) -> Workspace:
        """The workspace that is served."""
        return self.engine.workspace


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


Here = Annotated[Context, Depends(_context)]


def problem_info(problem: Problem | None) -> ProblemInfo | None:
    """A problem for the browser."""
    return None if problem is None else ProblemInfo(**problem.as_dict())


def run_info(run: Run) -> RunInfo:
    """A run for the browser."""
    told = {field.name: getattr(run, field.name) for field in fields(run)}
    told |= {"problem": problem_info(run.problem), "iterations": len(run.iterations)}
    return RunInfo(**told, can_resume=may_go_on(run.state, run.records, run.report))


def kept_preview(here: Context, number: int) -> Preview:
    """The preview of that number.

    Raises:
        ProblemError: ``preview-gone``.
    """
    preview = here.engine.previews.get(number)
    if preview is None:
        raise fail("preview-gone", "This preview is no longer kept.", where=f"preview {number}", do="Ask once again.")
    return preview


def allowance_info(allowance: Allowance) -> AllowanceInfo:
    """What is left of a window, for the browser."""
    window = allowance.window
    resets = datetime.fromtimestamp(allowance.resets, UTC).isoformat(timespec="seconds") if allowance.resets else None
    return AllowanceInfo(words=window.words(), left=allowance.left, calls=window.calls, resets=resets)


def snapshot_info(snapshot: Snapshot) -> SnapshotInfo:
    """A snapshot for the browser."""
    return SnapshotInfo(
        id=snapshot.id,
        run_id=snapshot.run_id,
        taken=snapshot.taken,
        rows=snapshot.rows,
        state=snapshot.state,
        evidence=snapshot.evidence,
        stated_total=snapshot.stated_total,
        since=snapshot.since,
        rebuilt=snapshot.rebuilt,
        name=snapshot.name,
        note=snapshot.note,
        pinned=snapshot.pinned,
    )


def reader_info(reader: Reader) -> ReaderInfo:
    """A reader for the browser."""
    return ReaderInfo(**{name: getattr(reader, name) for name in ReaderInfo.model_fields})


def column_info(column: TableColumn) -> ColumnInfo:
    """A heading for the browser."""
    return ColumnInfo(**asdict(column))


def shown_call(call: Call, key: Key | None) -> dict[str, Any]:
    """Method, address, headers and body of a call for the browser, key masked."""
    told = shown(call, key)
    headers = [HeaderInfo(name=name, value=value) for name, value in told.headers]
    return {"method": told.method, "address": told.address, "headers": headers, "body": told.body}


def key_info(here: Context, service: Service) -> KeyInfo | None:
    """What is known of a service's key."""
    key = service.key
    if key is None:
        return None
    state = here.workspace.vault.state(service.id)
    credentials = here.engine.credentials
    ends = credentials.token_ends(service.id)
    fields = key.required_fields()
    asked = key.source.pasted
    fits = state is not None and set(key.bound_to(service.base).split()) <= set(state.origin.split())
    complete = state is not None and set(fields) <= set(state.fields)
    return KeyInfo(
        stored=state.stored if state else None,
        ready=credentials.has_token(service.id) if asked else fits and complete,
        last_used=state.last_used if state else None,
        bound_to=state.origin if state else None,
        fits=asked or fits,
        expires=state.expires if state else None,
        fingerprint=state.fingerprint if state else "",
        required_fields=fields,
        token_ends=ends.isoformat(timespec="seconds") if ends else None,
    )
