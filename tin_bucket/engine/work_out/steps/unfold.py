"""A row for each item of a list."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from tin_bucket.core.work_out.sql import ROW
from tin_bucket.core.work_out.steps import Unfold
from tin_bucket.engine.work_out.doing import Doing, counted, heading, load
from tin_bucket.engine.work_out.stage import Cells, Note, Stage, Values

from .rows import chosen


def do_unfold(step: Unfold, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Make a row of each item; a row without items stays one."""
    with doing.sandbox() as sandbox:
        load(sandbox, stage, [step.items])
        naming = sandbox.naming("t")
        made = sandbox.rows(
            f'SELECT t."#n" - 1, j.value FROM (SELECT {naming(ROW)} AS "#n", {step.items.render(naming)} AS "#items"'
            f' FROM t) AS t LEFT JOIN json_each(t."#items") AS j ORDER BY t."#n", j.key'
        )
    rows = np.array([row for row, _ in made], dtype=np.int64)
    values = [value for _, value in made]
    out = chosen(stage, rows, key)
    at = stage.names.index(step.name)
    out.columns = list(stage.columns)
    old = out.columns[at]
    out.columns[at] = replace(heading(old.name, None, old.unit, values), note=old.note)
    out.cells[at] = Cells(Values(values))
    out.lit = [step.name]
    out.stored = None  # What a row is worked out of is no longer one stored row.
    out.notes = [Note(f"{counted(len(rows), 'row')} of {stage.height:,}")]
    return out
