"""The first values of an expression, while it is being typed."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from tin_bucket.core.work_out.expression.compile import compile_expression
from tin_bucket.core.work_out.sql import ROW

from .doing import as_kind, columns_read
from .sandbox import Sandbox
from .stage import Stage
from .steps.rows import picked_cells

ROWS = 8
_SECONDS = 2.0


@dataclass(frozen=True, slots=True)
class Sample:
    """The first values of an expression, and of the columns that it reads."""

    values: list[Any]
    inputs: list[str]
    rows: list[tuple[Any, ...]]


def sample(stage: Stage, expression: str, count: int = ROWS) -> Sample:
    """Work an expression out for the first rows of a table.

    Raises:
        ExpressionError: with the place of the mistake.
        ProblemError: it cannot be worked out.
    """
    made = compile_expression(expression, stage.shape())
    reads = columns_read([made.sql])
    rows = np.arange(min(count, stage.height), dtype=np.int64)
    cells = picked_cells([stage.cells[stage.names.index(name)] for name in reads], rows)
    data = [list(one.all()) for one in cells]
    with Sandbox(seconds=_SECONDS) as sandbox:
        sandbox.load("t", list(zip(reads, data, strict=True)), len(rows))
        naming = sandbox.naming("t")
        values = sandbox.column(f"SELECT {made.sql.render(naming)} FROM t ORDER BY {naming(ROW)}")
    values = as_kind(values, "yes/no" if made.logic else None)
    return Sample(values, reads, list(zip(*data, strict=True)) if data else [()] * len(rows))
