"""The registry of work-out lines. A further one is a file in ``lines`` and a line here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import union_of

from .line import LineKind, LineModel
from .lines import (
    along,
    bands,
    below,
    bring,
    column,
    count,
    fill,
    first,
    fold,
    keep,
    label,
    order,
    period,
    put_together,
    read_as,
    repeats,
    replace,
    split,
    spread,
    units,
    zone,
)

# In the order in which they are offered.
LINES: tuple[LineKind[Any], ...] = (
    column.LINE,
    label.LINE,
    keep.LINE,
    count.LINE,
    bring.LINE,
    order.LINE,
    first.LINE,
    replace.LINE,
    fill.LINE,
    read_as.LINE,
    period.LINE,
    split.LINE,
    put_together.LINE,
    along.LINE,
    repeats.LINE,
    bands.LINE,
    units.LINE,
    zone.LINE,
    spread.LINE,
    fold.LINE,
    below.LINE,
)

if TYPE_CHECKING:
    WorkOutLine = LineModel
else:
    WorkOutLine = union_of("do", LINES)
