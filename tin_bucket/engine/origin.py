"""Where a cell of a snapshot came from: call, page, and the place in its answer, as far as that is still kept."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.brief import Brief, load_brief
from tin_bucket.core.lookup import lookup_label
from tin_bucket.core.picking import pick
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.rounds import ORIGIN
from tin_bucket.core.table import TableColumn
from tin_bucket.core.trace import cell_pointer, fragment_around
from tin_bucket.core.verdict import Answer, read_document
from tin_bucket.store.runs import CallRecord
from tin_bucket.store.snapshots import Snapshot
from tin_bucket.store.workspace import Workspace


@dataclass(frozen=True, slots=True)
class Origin:
    """The origin of a cell.

    Attributes:
        heading: the cell's column.
        value: the cell.
        run_id: the run that fetched it.
        call: the call, or ``None`` when none was made for this cell.
        number: which of its stage's calls that was, counted from 1; ``None`` with `call`.
        calls: how many calls that stage made.
        pointer: JSON Pointer (RFC 6901) of the value in the call's answer; ``None`` when the answer is not kept.
        fragment: a short piece of the answer around it, as JSON text; ``None`` when there is nothing at the place.
    """

    heading: TableColumn
    value: Any
    run_id: int
    call: CallRecord | None
    number: int | None
    calls: int
    pointer: str | None
    fragment: str | None


def trace_cell(workspace: Workspace, snapshot_id: int, row: int, column: int) -> Origin:
    """Find where a cell came from.

    Args:
        row, column: counted from 0.

    Raises:
        ProblemError: ``snapshot-unknown`` or ``cell-unknown``.
    """
    snapshot = workspace.snapshots.get(snapshot_id)
    if not (0 <= row < snapshot.rows and 0 <= column < len(snapshot.columns)):
        raise fail("cell-unknown", "There is no such cell.", where=f"row {row + 1}", do="Choose one in the table.")
    heading = snapshot.columns[column]
    values = workspace.snapshots.window(snapshot_id, row, 1)[0]
    brief = load_brief(json.loads(workspace.runs.brief_of(snapshot.run_id)))
    page, record, item = workspace.snapshots.origin(snapshot_id, row)
    asked_for = heading.origin == ORIGIN
    looked_up = heading.origin != "taken" and not asked_for
    wanted = f"look up {heading.origin}" if looked_up else "pages"
    stage = [call for call in workspace.runs.calls(snapshot.run_id) if call.stage == wanted and call.used]
    stage.sort(key=lambda call: (call.round, call.turn, call.number))
    if looked_up:
        label = _label(brief, snapshot, heading.origin, values)
        number = next((at for at, call in enumerate(stage, 1) if call.label == label), None)
    else:
        number = page + 1 if page < len(stage) else None
    call = stage[number - 1] if number is not None else None
    document = _document(workspace, snapshot.run_id, call)
    pointer, fragment = None, None
    if document is not None and not asked_for:
        base = "" if looked_up else pick(document, brief.take.records).pointer(record)
        pointer = cell_pointer(base, heading.place, item)
        fragment = fragment_around(document, pointer) if pointer is not None else None
    return Origin(heading, values[column], snapshot.run_id, call, number, len(stage), pointer, fragment)


def _label(brief: Brief, snapshot: Snapshot, name: str, values: tuple[Any, ...]) -> str | None:
    """The label of the lookup's call for a row, or ``None`` when the brief of that run had no such lookup."""
    look_up = next((one for one in brief.look_up if one.name == name), None)
    if look_up is None:
        return None
    at = {column.name: index for index, column in enumerate(snapshot.columns)}
    used = [values[at[column]] for column in look_up.with_.values()]
    return lookup_label(used) if all(value is not None and value != "" for value in used) else None


def _document(workspace: Workspace, run_id: int, call: CallRecord | None) -> Any:
    """The parsed answer of a call, or ``None`` when it is not kept."""
    if call is None or not call.has_answer:
        return None
    try:
        body = workspace.archive.body(run_id, call.number)
    except ProblemError:
        return None
    try:
        return read_document(Answer(200, call.answer_headers, body))[0]
    except ProblemError:
        return None
