"""The registry of causes. A further kind is a file here and a line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from tin_bucket.core.choice import union_of
from tin_bucket.core.notices.cause import Cause, CauseKind

from . import fields, figure, key, refresh, rows, time

# In the order in which they are offered.
CAUSES: tuple[CauseKind, ...] = (refresh.KIND, rows.KIND, figure.KIND, fields.KIND, key.KIND, time.KIND)
_BY_MODEL = {kind.model: kind for kind in CAUSES}

if TYPE_CHECKING:
    AnyCause = Cause
else:
    AnyCause = union_of("why", CAUSES)


def kind_of_cause(cause: Cause) -> CauseKind:
    """The entry of a cause."""
    return _BY_MODEL[type(cause)]


def words_of_cause(cause: Cause) -> str:
    """When somebody is told, in a sentence."""
    kind = kind_of_cause(cause)
    return kind.words(cause) if kind.words is not None else kind.phrase.format(**cause.model_dump())
