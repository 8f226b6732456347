"""Columns become rows."""

from __future__ import annotations

from typing import Any

import numpy as np

from tin_bucket.core.work_out.steps import Fold
from tin_bucket.engine.work_out.doing import Doing, counted, heading
from tin_bucket.engine.work_out.stage import Cells, Note, Stage, Values, plain

from .rows import picked_cells


def do_fold(step: Fold, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Make a row of each cell of some columns, those of one row after each other."""
    names = list(step.columns)
    width = len(names)
    data = [stage.values(name) for name in names]
    values: list[Any] = [None] * (stage.height * width)
    for at, one in enumerate(data):
        values[at::width] = one
    rows = np.repeat(np.arange(stage.height, dtype=np.int64), width)
    whose = np.tile(np.arange(width, dtype=np.int64), stage.height)
    blank = 0
    if not step.blanks:
        filled = np.fromiter((plain(value) not in (None, "") for value in values), dtype=bool, count=len(values))
        blank = len(values) - int(filled.sum())
        rows, whose = rows[filled], whose[filled]
        values = [value for value, there in zip(values, filled.tolist(), strict=True) if there]
    rest = [at for at, column in enumerate(stage.columns) if column.name not in names]
    columns = [stage.columns[at] for at in rest]
    cells = picked_cells([stage.cells[at] for at in rest], rows)
    kinds = {stage.columns[stage.names.index(name)].kind for name in names}
    units = {stage.columns[stage.names.index(name)].unit for name in names}
    kind, unit = (kinds.pop() if len(kinds) == 1 else None), (units.pop() if len(units) == 1 else "")
    columns += [heading(step.name, "text", "", names), heading(step.value, kind, unit, values)]
    cells += [Cells(Values(names), whose), Cells(Values(values))]
    notes = [
        Note(f"{counted(len(rows), 'row')} of {stage.height:,}" + (f" · {blank:,} blanks left out" if blank else ""))
    ]
    return Stage(key, columns, cells, len(rows), stage.as_of, before=rows, notes=notes, lit=[step.name, step.value])
