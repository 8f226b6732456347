"""Where a cell of a worked-out table came from: the line that made it, or the cell behind it in a stored table."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tin_bucket.core.document.start import StartTables
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.line import LineModel
from tin_bucket.core.work_out.sql import ROW, Sql, literal, quoted
from tin_bucket.core.work_out.steps import Below, Bring, Columns, Fold, Groups, Source, Step, Unfold
from tin_bucket.engine.work_out.changes_table import Behind, ChangesTable
from tin_bucket.engine.work_out.each_once import EachOnce
from tin_bucket.engine.work_out.history_table import HistoryTable
from tin_bucket.engine.work_out.source import KeptTable, TableSource
from tin_bucket.engine.work_out.stage import Stage, plain
from tin_bucket.engine.work_out.work import LineDone
from tin_bucket.store.workspace import Workspace

from .browse import TableAt, Tables


@dataclass(frozen=True, slots=True)
class Input:
    """A cell that a worked-out one was made with: of the row before the line."""

    name: str
    value: Any


@dataclass(frozen=True, slots=True)
class Worked:
    """How a line made a cell.

    Attributes:
        line: its number, counted from 1; 0 for a line of another query.
        sentence: the line in words.
        expression: its SQL, with the values of the row put in.
        inputs: the cells that it read.
        behind: how many rows are counted in it; 0 where it is of one row.
    """

    line: int
    sentence: str
    expression: str
    inputs: list[Input]
    behind: int = 0


@dataclass(frozen=True, slots=True)
class Origin:
    """Where a cell of a worked-out table came from.

    Attributes:
        name, value: the cell's column and the cell.
        worked: the line that made it, if one did.
        snapshot: the snapshot that it is stored in; ``None`` for a preview or a sheet.
        row, column: where it is stored, counted from 0.
        stored: whether it is stored anywhere.
        through: the tables that it came through, in words.
    """

    name: str
    value: Any
    worked: Worked | None = None
    snapshot: int | None = None
    row: int = 0
    column: int = 0
    stored: bool = False
    through: list[str] = field(default_factory=list)


def origin_of(workspace: Workspace, tables: Tables, at: TableAt, row: int, column: int) -> Origin:
    """Find where a cell of a table with lines came from.

    Raises:
        ProblemError: ``cell-unknown``, or what is wrong with a line.
    """
    source = tables.source(at)
    if not (0 <= row < source.height and 0 <= column < len(source.columns)):
        raise fail("cell-unknown", f"There is no such cell in row {row + 1}.", where="the table", do="Reload the page.")
    first, done = tables.worked(at)
    lines = list(at.lines)
    if at.look is not None:
        # The rows that a line speaks of are rows of the table before it.
        assert isinstance(source, Stage)
        assert source.before is not None
        row = int(source.before[row])
        done, lines = done[: at.look.line - 1], lines[: at.look.line - 1]
    name = source.columns[column].name
    found = _walk(workspace, tables, first, done, lines, name, row, [])
    if found.worked is None and found.stored and at.start is not None:
        return _in_start(workspace, tables, at.start, at.query_id, first, first.names[found.column], found.row, [])
    return found


def _in_start(
    workspace: Workspace,
    tables: Tables,
    start: StartTables,
    query_id: int | None,
    first: Stage,
    name: str,
    row: int,
    through: list[str],
) -> Origin:
    """Where a cell came from of a table that a query starts from."""
    if start.every_date is not None:
        return _in_every_date(workspace, tables, start, query_id, first, name, row, through)
    for table in start.tables:
        other = tables.work_out.other(table.source, first.as_of, () if query_id is None else (query_id,), None)
        if row < other.height:
            if name in [column.name for column in other.columns]:
                return _in_other(workspace, tables, table.source, other, name, row, first.as_of, through)
            break
        row -= other.height
    return Origin(name, None, through=through)


def _in_every_date(
    workspace: Workspace,
    tables: Tables,
    start: StartTables,
    query_id: int | None,
    first: Stage,
    name: str,
    row: int,
    through: list[str],
) -> Origin:
    """Where a cell came from of a table of all dates."""
    source, stack = start.tables[0].source, () if query_id is None else (query_id,)
    table = tables.work_out.start(start, first.as_of, stack)
    value = first.at(_one(row))[0][first.names.index(name)]
    if isinstance(table, ChangesTable):
        behind = table.behind(row, name)
        if behind is None:
            return Origin(name, value, through=[*through, f"what changed in {source.name}"])
        return _in_change(workspace, tables, source, behind, stack, through)
    if isinstance(table, EachOnce):
        seen = {one.name for one in table.columns[-3:]}
        if name in seen:
            return Origin(name, value, through=[*through, f"the dates of {source.name}"])
        row, table = table.stored_row(row), table.table
    dated = table.columns[0].name
    if name == dated:
        return Origin(name, value, through=[*through, f"the date of {source.name}"])
    if isinstance(table, HistoryTable):
        snapshot, row = table.stored_at(row)
        other: TableSource = KeptTable(workspace.snapshots, snapshot.id)
        as_of = snapshot.taken
    else:
        found = table.column(dated)
        moments = list(found[1]) if found is not None else []
        as_of = str(moments[row])
        row -= moments.index(as_of)
        other = tables.work_out.other(source, as_of, stack, None)
        through = [*through, f"the table of {as_of[:10]}"]
    if all(one.name != name for one in other.columns):
        return Origin(name, None, through=[*through, f"{source.name} of {as_of[:10]}, which has no such column"])
    return _in_other(workspace, tables, source, other, name, row, as_of, through)


def _in_change(
    workspace: Workspace, tables: Tables, source: Source, behind: Behind, stack: tuple[int, ...], through: list[str]
) -> Origin:
    """Where a cell of a change came from: of the date of the change, or of the one before it."""
    day = behind.date.taken[:10]
    other = tables.work_out.of_date(workspace.queries.find(source.name), behind.date, stack)
    if all(one.name != behind.column for one in other.columns):
        return Origin(behind.column, None, through=[*through, f"{source.name} of {day}, which has no such column"])
    worked = [] if isinstance(other, KeptTable) else [f"the table of {day}"]
    return _in_other(
        workspace, tables, source, other, behind.column, behind.row, behind.date.taken, [*through, *worked]
    )


def _walk(
    workspace: Workspace,
    tables: Tables,
    first: Stage,
    done: list[LineDone],
    lines: list[LineModel],
    name: str,
    row: int,
    through: list[str],
    own: bool = True,
) -> Origin:
    """Go back line by line, from the last one."""
    last = done[-1].stage if done else first
    value = last.at(_one(row))[0][last.names.index(name)]
    shown = name
    for at in range(len(done) - 1, -1, -1):
        one = done[at]
        before = done[at - 1].stage if at else first
        if one.state != "done" or one.step is None:
            continue
        step, stage = one.step, one.stage
        made = _made(step, stage, before, name, row)
        if made is not None:
            expression, inputs, behind = made
            sentence = "".join(word if isinstance(word, str) else word.text for word in lines[at].words())
            worked = Worked(at + 1 if own else 0, sentence, expression, inputs, behind)
            return Origin(shown, value, worked, through=through)
        if isinstance(step, Bring) and name in dict(_turned(step)):
            assert stage.brought is not None
            there = int(stage.brought[row])
            if there < 0:
                return Origin(shown, value, through=through)
            return _in_other(
                workspace, tables, step.source, stage.others[0], dict(_turned(step))[name], there, stage.as_of, through
            )
        if isinstance(step, Below):
            number = int(stage.before[row]) if stage.before is not None else row
            if number < 0:
                return _in_below(workspace, tables, step, stage, before, name, row, through)
        if isinstance(step, Fold) and name == step.value:
            name = str(stage.at(_one(row))[0][stage.names.index(step.name)])
        row = int(stage.before[row]) if stage.before is not None else row
    table = getattr(first.cells[0].values, "table", None) if first.cells else None
    snapshot = table.snapshot.id if isinstance(table, KeptTable) else None
    return Origin(shown, value, None, snapshot, row, first.names.index(name), True, through)


def _one(row: int) -> Any:
    return np.array([row], dtype=np.int64)


def _turned(step: Bring) -> list[tuple[str, str]]:
    return [(title, theirs) for theirs, title in step.columns]


def _made(step: Step, stage: Stage, before: Stage, name: str, row: int) -> tuple[str, list[Input], int] | None:
    """The SQL that made a cell with its values put in, the cells that it read, and how many rows it is of."""
    if isinstance(step, Columns):
        made = next((one for one in step.made if one.name == name), None)
        if made is None:
            return None
        number = row if stage.before is None else int(stage.before[row])
        inputs = _inputs(before, made.sql, number)
        return (str(made.sql) if step.along else _put_in(made.sql, inputs)), inputs, 0
    if isinstance(step, Groups):
        pieces = {one.name: one.sql for one in step.by} | {one.name: one.sql for one in step.figures}
        return str(pieces[name]), [], len(stage.behind(row))
    if isinstance(step, Unfold) and name == step.name:
        assert stage.before is not None
        inputs = _inputs(before, step.items, int(stage.before[row]))
        return _put_in(step.items, inputs), inputs, 0
    if isinstance(step, Fold) and name == step.name:
        return quoted(str(stage.at(_one(row))[0][stage.names.index(name)])), [], 0
    if isinstance(step, Below) and name == step.whose:
        return literal(stage.at(_one(row))[0][stage.names.index(name)]), [], 0
    return None


def _inputs(before: Stage, piece: Sql, row: int) -> list[Input]:
    names = [name for name in before.names if name in piece.reads and name != ROW]
    values = before.at(_one(row))[0]
    return [Input(name, values[before.names.index(name)]) for name in names]


def _put_in(piece: Sql, inputs: list[Input]) -> str:
    values = {one.name: one.value for one in inputs}
    return piece.render(lambda name: literal(plain(values[name])) if name in values else quoted(name))


def _in_other(
    workspace: Workspace,
    tables: Tables,
    source: Source,
    other: TableSource,
    name: str,
    row: int,
    as_of: str,
    through: list[str],
) -> Origin:
    """Where a cell of another table came from."""
    if isinstance(other, KeptTable):
        told = [*through, f"{source.name} of {other.snapshot.taken[:10]}, row {row + 1:,}"]
        column = [one.name for one in other.columns].index(name)
        return Origin(name, other.at(_one(row))[0][column], None, other.snapshot.id, row, column, True, told)
    told = [*through, f"{source.name}, row {row + 1:,}"]
    if source.query is None:
        column = [one.name for one in other.columns].index(name)
        return Origin(name, other.at(_one(row))[0][column], through=told)
    query = workspace.queries.find(source.query)
    lines, start = query.brief.work_out, query.brief.start
    table: TableSource
    if start is None:
        snapshot = workspace.snapshots.as_of(query.id, as_of)
        assert snapshot is not None  # The line read it.
        table = KeptTable(workspace.snapshots, snapshot.id)
    else:
        table = tables.work_out.start(start, as_of, (query.id,))
    first, done = tables.work_out.lines(table, as_of, lines, query.id)
    found = _walk(workspace, tables, first, done, list(lines), name, row, told, own=False)
    if start is not None and found.worked is None and found.stored:
        return _in_start(workspace, tables, start, query.id, first, first.names[found.column], found.row, told)
    return found


def _in_below(
    workspace: Workspace,
    tables: Tables,
    step: Below,
    stage: Stage,
    before: Stage,
    name: str,
    row: int,
    through: list[str],
) -> Origin:
    at = row - before.height
    for source, other in zip(step.sources, stage.others, strict=True):
        if at < other.height:
            if name not in [column.name for column in other.columns]:
                break
            return _in_other(workspace, tables, source, other, name, at, stage.as_of, through)
        at -= other.height
    return Origin(name, None, through=through)
