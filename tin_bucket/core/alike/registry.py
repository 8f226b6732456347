"""The registry of the rules of what counts as the same. A further one is a file in ``rules`` and a line here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import Choice, union_of

from .rule import AlikeRule
from .rules import amount, empty, ignored, percent, seconds, text, zeros

ALIKE: tuple[Choice[Any], ...] = (
    ignored.RULE,
    amount.RULE,
    percent.RULE,
    text.RULE,
    zeros.RULE,
    seconds.RULE,
    empty.RULE,
)

if TYPE_CHECKING:
    Alike = AlikeRule
else:
    Alike = union_of("by", ALIKE)
