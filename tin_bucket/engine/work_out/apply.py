"""One step → the table after it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from tin_bucket.core.work_out.steps import Below, Bring, Columns, Fold, Groups, Rows, Step, Unfold

from .doing import Doing
from .stage import Stage
from .steps.below import do_below
from .steps.bring import do_bring
from .steps.columns import do_columns
from .steps.fold import do_fold
from .steps.groups import do_groups
from .steps.rows import do_rows
from .steps.unfold import do_unfold

_DOES: dict[type, Callable[..., Stage]] = {
    Columns: do_columns,
    Rows: do_rows,
    Unfold: do_unfold,
    Fold: do_fold,
    Groups: do_groups,
    Bring: do_bring,
    Below: do_below,
}


def apply(step: Step, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Do a step to a table.

    Args:
        key: of the table after it.

    Raises:
        ProblemError: it cannot be done.
        Stopped: nobody waits any more.
    """
    return _DOES[type(step)](step, stage, doing, key)
