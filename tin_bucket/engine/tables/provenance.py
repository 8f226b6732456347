"""Where a cell came from: call, page, and the place in its answer, as far as that is still kept."""

from __future__ import annotations

import json
from collections.abc import Container
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np

from tin_bucket.core.analysis.provenance import CellSource, heads_of, trace_cell, trace_in
from tin_bucket.core.document.extraction import ColumnSpec
from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.formats.jsonpath import Picked, pick
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.parameters.values import Bindings
from tin_bucket.core.request.variables import make_scope
from tin_bucket.core.response.classify import read_document
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.fan_out_columns import FAN_OUT_ORIGIN
from tin_bucket.core.table.flatten import Cells
from tin_bucket.core.table.lookup import (
    KEPT,
    Kept,
    Key,
    lookup_service,
    plan_lookup,
    read_kept,
    with_iterations,
)
from tin_bucket.core.table.lookup_join import record_place
from tin_bucket.core.table.table import Table, TableColumn
from tin_bucket.engine.preview.preview import Preview
from tin_bucket.engine.preview.reread import Rereader
from tin_bucket.store.runs import CallRecord
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace


@dataclass(frozen=True, slots=True)
class From:
    """Another cell that this one was made with, such as the value that a lookup was asked for."""

    column: int
    name: str
    value: Any


@dataclass(frozen=True, slots=True)
class Provenance:
    """The origin of a cell.

    Attributes:
        heading: the cell's column.
        value: the cell.
        run_id: the run that fetched it; ``None`` of a single call to look.
        number: which of its stage's calls it came with, counted from 1; ``None`` when no call was made for this cell.
        calls: how many calls that stage made.
        call_number: the number of that call in its run.
        label, address, sent, seconds: of the call, without its key.
        source: what stands at the place in the call's answer; ``None`` when the answer is not kept.
        made_with: cells of the same row that it was made with.
        history: what it was in earlier snapshots, the newest first, each with the day of the snapshot.
        from_memory: whether the answer is one that an earlier run had saved.
    """

    heading: TableColumn
    value: Any
    run_id: int | None
    number: int | None
    calls: int
    call_number: int | None = None
    label: str = ""
    address: str = ""
    sent: str = ""
    seconds: float = 0.0
    source: CellSource | None = None
    made_with: list[From] = field(default_factory=list)
    history: list[tuple[Snapshot, Any]] = field(default_factory=list)
    from_memory: bool = False


def trace_snapshot(workspace: Workspace, snapshot_id: int, row: int, column: int) -> Provenance:
    """Find where a cell of a snapshot came from.

    Args:
        row, column: counted from 0.

    Raises:
        ProblemError: ``snapshot-unknown`` or ``cell-unknown``.
    """
    snapshot = workspace.snapshots.get(snapshot_id)
    if not (0 <= row < snapshot.rows and 0 <= column < len(snapshot.columns)):
        raise _no_cell(row)
    heading = snapshot.columns[column]
    values = workspace.snapshots.window(snapshot_id, row, 1)[0]
    brief = load_brief(json.loads(snapshot.brief or workspace.runs.brief_of(snapshot.run_id)))
    page, record, items = workspace.snapshots.origin(snapshot_id, row)
    looked_up = heading.origin not in ("taken", FAN_OUT_ORIGIN)
    wanted = f"look up {heading.origin}" if looked_up else "pages"
    stage = [call for call in workspace.runs.calls(snapshot.run_id) if call.stage == wanted and call.used]
    stage.sort(key=lambda call: (call.iteration, call.turn, call.number))
    made_with: list[From] = []
    if looked_up:
        look_up = _look_up(brief, heading.origin)
        made_with = _made_with(look_up, snapshot.columns, values)
        asked = _asked_with(workspace, snapshot, brief, look_up, stage, row) if look_up is not None else None
        number = next(
            (at for at, call in enumerate(stage, 1) if asked and call.call().asked_as == asked[0].asked_as), None
        )
    else:
        number = page + 1 if page < len(stage) else None
    call = stage[number - 1] if number is not None else None
    document = _document(workspace, snapshot.run_id, call)
    source = None
    if document is not None and heading.origin != FAN_OUT_ORIGIN:
        if looked_up:
            where = record_place(look_up, document, asked[1]) if look_up is not None and asked else ()
            if where is not None:
                source = trace_in(document, _looked_up_column(brief, heading), values[column], where)
        else:
            first = document if page == 0 else _document(workspace, snapshot.run_id, stage[0])
            source = _of_page(brief, heading, document, first, record, items, values[column])
    return Provenance(
        heading,
        values[column],
        snapshot.run_id,
        number,
        len(stage),
        call.number if call else None,
        call.label if call else "",
        call.address if call else "",
        call.sent if call else "",
        call.seconds if call else 0.0,
        source,
        made_with,
        workspace.snapshots.history(snapshot_id, row, heading.name),
        call.saved if call else False,
    )


def trace_preview(rereader: Rereader, workspace: Workspace, preview: Preview, row: int, column: int) -> Provenance:
    """Find where a cell of a table came from that was read for a look.

    Raises:
        ProblemError: ``cell-unknown``.
    """
    table = preview.replay.table if preview.replay is not None else None
    if table is None or not (0 <= row < table.height and 0 <= column < len(table.columns)):
        raise _no_cell(row)
    heading, values = table.columns[column], table.rows(row, row + 1)[0]
    brief = preview.brief
    looked_up = heading.origin not in ("taken", FAN_OUT_ORIGIN)
    if looked_up:
        look_up = _look_up(brief, heading.origin)
        made_with = _made_with(look_up, table.columns, values)
        asked = _asked_in(workspace, preview, look_up, table, row) if look_up is not None else None
        answer = preview.looked_up.get(asked[0].asked_as) if asked else None
        document = _parsed(answer)
        source = None
        if answer is not None and look_up is not None and asked is not None:
            where = record_place(look_up, document, asked[1])
            spec = _looked_up_column(brief, heading)
            source = trace_in(document, spec, values[column], where) if where is not None else None
        call = asked[0] if asked is not None and answer is not None else None
        return Provenance(
            heading, values[column], preview.run_id, None if answer is None else 1, 1, None,
            call.label if call else "", call.address if call else "",
            preview.asked, answer.seconds if answer is not None else 0.0, source, made_with,
        )  # fmt: skip
    page = int(table.page[row])
    call = preview.calls[page]
    document = rereader.classified(preview, page).document
    first = document if page == 0 else rereader.classified(preview, 0).document
    items = [int(numbers[row]) for numbers in table.items]
    source = None
    if heading.origin != FAN_OUT_ORIGIN:
        source = _of_page(brief, heading, document, first, int(table.record[row]), items, values[column])
    seconds = preview.head(page).answer.seconds
    return Provenance(
        heading, values[column], preview.run_id, page + 1, len(preview.answers), None, call.label, call.address,
        preview.asked, seconds, source,
    )  # fmt: skip


def _no_cell(row: int) -> ProblemError:
    return fail("cell-unknown", "There is no such cell.", where=f"row {row + 1}", do="Choose one in the table.")


def _of_page(
    brief: Brief, heading: TableColumn, document: Any, first: Any, record: int, items: list[int], value: Any
) -> CellSource:
    take = brief.take
    picked = pick(document, take.records)
    column = next((one for one in take.columns or [] if one.name == heading.name), None) or ColumnSpec(
        place=heading.place, name=heading.name or " ", of=heading.of
    )
    heads = None
    if take.heads is not None:
        before = pick(first, take.records) if first is not None else Picked([], [])
        heads = heads_of(take, [(before, first), (picked, document)])
    return trace_cell(take, column, document, picked, record, items, value, heads)


def _look_up(brief: Brief, name: str) -> LookUp | None:
    return next((one for one in brief.look_up if one.name == name), None)


def _looked_up_column(brief: Brief, heading: TableColumn) -> ColumnSpec:
    look_up = _look_up(brief, heading.origin)
    own = [one for one in look_up.take if one.place == heading.place] if look_up is not None else []
    return own[0] if own else ColumnSpec(place=heading.place, name=heading.name or " ")


def _made_with(look_up: LookUp | None, columns: list[TableColumn], values: tuple[Any, ...]) -> list[From]:
    """The cells that a row's lookup was asked with."""
    if look_up is None:
        return []
    at = {column.name: index for index, column in enumerate(columns)}
    return [From(at[name], name, values[at[name]]) for name in look_up.with_.values() if name in at]


def _asked_with(
    workspace: Workspace, snapshot: Snapshot, brief: Brief, look_up: LookUp, stage: list[CallRecord], row: int
) -> tuple[Call, Key] | None:
    """The call of a row's lookup, and the row's values; ``None`` where none was made for it."""
    own = _with_iterations(brief, look_up, snapshot.columns)
    found = [workspace.snapshots.column(snapshot.id, name) for name in own.with_.values()]
    columns = [one for one in found if one is not None]
    none = np.zeros(snapshot.rows, dtype=np.int64)
    table = Table([heading for heading, _ in columns], [cast(Cells, values) for _, values in columns], none, none)
    saved = next((call for call in stage if call.address == f"{KEPT}{look_up.name}"), None)
    document = _document(workspace, snapshot.run_id, saved)
    kept = read_kept(document) if document is not None else None
    bindings = workspace.runs.get(snapshot.run_id).bindings
    made = {call.call().asked_as for call in stage}
    return _planned(workspace, brief, own, table, bindings, kept, row, made)


def _asked_in(
    workspace: Workspace, preview: Preview, look_up: LookUp, table: Table, row: int
) -> tuple[Call, Key] | None:
    """As :func:`_asked_with`, of a preview."""
    own = with_iterations(preview.brief, look_up, table)
    if own.batch is None:
        cells: list[Cells] = [values[row : row + 1] for values in table.data]
        table, row = Table(table.columns, cells, table.page[row : row + 1], table.record[row : row + 1]), 0
    saved = _parsed(preview.looked_up.get(f"{KEPT}{look_up.name}"))
    kept = read_kept(saved) if saved is not None else None
    return _planned(workspace, preview.brief, own, table, preview.bindings, kept, row, preview.looked_up)


def _planned(
    workspace: Workspace,
    brief: Brief,
    look_up: LookUp,
    table: Table,
    bindings: Bindings,
    kept: dict[Key, Kept] | None,
    row: int,
    made: Container[str],
) -> tuple[Call, Key] | None:
    try:
        service = workspace.services.get(lookup_service(brief, look_up))
        scope = make_scope(brief.parameters, bindings)
        plan = plan_lookup(look_up, table, scope, service.base, service.fixed_headers(), kept)
        plan.fit(made)
    except ProblemError:
        return None
    key = int(plan.key_of_row[row])
    call = int(plan.call_of_key[key]) if key >= 0 else -1
    return (plan.calls[call], plan.keys[key]) if call >= 0 else None


def _with_iterations(brief: Brief, look_up: LookUp, columns: list[TableColumn]) -> LookUp:
    none = np.zeros(0, dtype=np.int64)
    return with_iterations(brief, look_up, Table(columns, [[] for _ in columns], none, none))


def _document(workspace: Workspace, run_id: int, call: CallRecord | None) -> Any:
    """The parsed answer of a call, or ``None`` when it is not kept."""
    if call is None or not call.has_answer:
        return None
    try:
        body = workspace.archive.body(run_id, call.number)
    except ProblemError:
        return None
    return _parsed(Answer(200, call.answer_headers, body))


def _parsed(answer: Answer | None) -> Any:
    if answer is None:
        return None
    try:
        return read_document(answer)[0]
    except ProblemError:
        return None
