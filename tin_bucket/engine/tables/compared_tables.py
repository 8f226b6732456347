"""Two tables laid over each other."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.alike.judge import Judge
from tin_bucket.core.alike.rule import AlikeRule
from tin_bucket.core.analysis.compare import Comparison

from .sides import Side


@dataclass(frozen=True, slots=True)
class ComparedTables:
    """Two tables laid over each other.

    Attributes:
        then, now: the two; columns of the earlier one have the names that they have now.
        found: what happened between them.
        renamed: older columns that have another name now.
        by_hand: the pairs of columns that people say; those that are in both tables are in `renamed` too.
        other_kinds: columns that are of another kind now: name, kind then, kind now.
        rules: what counted as the same.
    """

    then: Side
    now: Side
    found: Comparison
    renamed: dict[str, str]
    by_hand: dict[str, str]
    other_kinds: list[tuple[str, str, str]]
    rules: list[AlikeRule]

    @property
    def key(self) -> tuple[object, ...]:
        """What tells it from others."""
        rules = Judge(self.rules).key
        return (self.then.table.key, self.now.table.key, tuple(self.found.matched_by), rules)
