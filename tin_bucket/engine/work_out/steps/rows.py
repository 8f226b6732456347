"""Some of the rows, in an order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.work_out.sql import ROW, Sql
from tin_bucket.core.work_out.steps import Rows
from tin_bucket.engine.work_out.combinations import combinations
from tin_bucket.engine.work_out.doing import Doing, columns_read, counted, load
from tin_bucket.engine.work_out.row_memo import digest
from tin_bucket.engine.work_out.stage import Cells, Note, Stage, StoredRows

from .columns import made_of

Bools = npt.NDArray[np.bool_]


def do_rows(step: Rows, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Choose rows, and order them."""
    found = _chosen(step, stage, doing)
    kept = np.zeros(stage.height, dtype=bool)
    kept[found] = True
    dropped = np.flatnonzero(~kept).astype(np.int64)
    notes = [Note(f"{counted(len(dropped), 'row')} dropped here", "dropped")] if len(dropped) else []
    looks = {"dropped": dropped} if len(dropped) else {}
    odd = _texts(step, stage, dropped)
    if len(odd):
        looks["odd"] = odd
        notes.append(Note(f"{counted(len(odd), 'row')} of them: text where a number is wanted", "odd", odd=True))
    out = chosen(stage, found, key, looks, notes)
    if stage.totals and (found == stage.height - 1).any():
        out.totals = int(found[-1]) == stage.height - 1
        if not out.totals:
            out.notes.append(Note("the row of totals stands among the others: move this line up", odd=True))
    return out


def _chosen(step: Rows, stage: Stage, doing: Doing) -> Ints:
    """The rows that stay, in their order."""
    stored = stage.stored
    if step.where is not None and step.rank is None and not step.order and stored is not None:
        reads = columns_read([step.where])
        if all(name in stored.made_of for name in reads):
            return _known(step.where, reads, stage, stored, doing)
    if step.where is not None and step.rank is None and step.order:
        # What orders them is read for the rows alone that stay.
        found = np.flatnonzero(_holds(step.where, _inputs(step.where, stage), stage.height, doing)).astype(np.int64)
        left = chosen(stage, found, ("kept", *stage.key))
        ordered: Ints = found[_chosen(Rows(order=step.order), left, doing)]
        return ordered
    with doing.sandbox() as sandbox:
        pieces = [piece for piece in (step.where, step.rank, *step.order) if piece is not None]
        load(sandbox, stage, pieces)
        naming = sandbox.naming("t")
        row = naming(ROW)
        text = "t"
        if step.rank is not None:
            text = f'(SELECT *, {step.rank.render(naming)} AS "#rank" FROM t)'
        text = f"SELECT {row} - 1 FROM {text}"
        tests = [f"({step.where.render(naming)})"] if step.where is not None else []
        tests += ['"#rank" <= ' + str(step.most)] if step.rank is not None else []
        text += f" WHERE {' AND '.join(tests)}" if tests else ""
        text += f" ORDER BY {', '.join([*(one.render(naming) for one in step.order), row])}"
        return np.array(sandbox.column(text), dtype=np.int64)


def _known(where: Sql, reads: list[str], stage: Stage, stored: StoredRows, doing: Doing) -> Ints:
    """The stored rows for which something holds; those that were tested before are not tested again."""

    def work(rows: Ints) -> list[bool]:
        return list(_holds(where, [(name, stage.some(name, rows)) for name in reads], len(rows), doing).tolist())

    holds = stored.memo.values(digest("where", made_of(where, stored.made_of)), stored.ids, work)
    return np.flatnonzero(np.array(holds, dtype=bool)).astype(np.int64)


def _inputs(piece: Sql, stage: Stage) -> list[tuple[str, Sequence[Any]]]:
    return [(name, stage.values(name)) for name in columns_read([piece])]


def _holds(where: Sql, inputs: Sequence[tuple[str, Sequence[Any]]], height: int, doing: Doing) -> Bools:
    """For each row whether something holds. Rows that read the same are tested once. Shape (rows,)."""
    found = combinations([values for _, values in inputs], height) if ROW not in where.reads else None
    if found is not None:
        columns, numbers = found
        own = [(name, values) for (name, _), values in zip(inputs, columns, strict=True)]
        return _each_tested(where, own, len(columns[0]), doing)[numbers]
    return _each_tested(where, inputs, height, doing)


def _each_tested(where: Sql, inputs: Sequence[tuple[str, Sequence[Any]]], height: int, doing: Doing) -> Bools:
    with doing.sandbox() as sandbox:
        sandbox.load("t", inputs, height)
        naming = sandbox.naming("t")
        row = naming(ROW)
        kept = sandbox.column(f"SELECT {row} - 1 FROM t WHERE ({where.render(naming)}) ORDER BY {row}")
    out = np.zeros(height, dtype=bool)
    out[kept] = True
    return out


def _texts(step: Rows, stage: Stage, dropped: Ints) -> Ints:
    """The dropped rows that have a text where a number is wanted."""
    out = [np.zeros(0, dtype=np.int64)]
    for name in sorted(step.numbers):
        values = stage.cells[stage.names.index(name)].at(dropped)
        out.append(dropped[[isinstance(value, str) and bool(value.strip()) for value in values]])
    return np.unique(np.concatenate(out))


def chosen(
    stage: Stage,
    rows: Ints,
    key: tuple[Any, ...],
    looks: dict[str, Ints] | None = None,
    notes: list[Note] | None = None,
) -> Stage:
    """A table's rows with some numbers, in that order."""
    return Stage(
        key,
        stage.columns,
        picked_cells(stage.cells, rows),
        len(rows),
        stage.as_of,
        before=rows,
        looks=looks or {},
        notes=notes or [],
        stored=stage.stored.at(rows) if stage.stored is not None else None,
    )


def picked_cells(cells: list[Cells], rows: Ints) -> list[Cells]:
    """Columns at some rows; those that had their rows in common still do."""
    numbers: dict[int, Ints] = {}
    out = []
    for one in cells:
        own = numbers.get(id(one.rows))
        if own is None:
            own = rows if one.rows is None else one.rows[rows]
            numbers[id(one.rows)] = own
        out.append(Cells(one.values, own, one.missing))
    return out
