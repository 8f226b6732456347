"""Rows are new, gone or changed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding


class RowsCause(Cause):
    """A refresh changed a table."""

    why: Literal["rows"] = "rows"
    query: int
    new: bool = True
    gone: bool = True
    changed: bool = True
    least: int = Field(default=1, ge=1, le=1_000_000_000, description="so many of them, or more")

    @property
    def happens(self) -> bool:
        """With each refresh."""
        return True


def found(one: RowsCause, facts: Facts) -> Iterator[Finding]:
    """What the newest snapshot changed; each snapshot is told once."""
    for query in facts.queries(one.query):
        wanted = [word for word, on in (("new", one.new), ("gone", one.gone), ("changed", one.changed)) if on]
        counts = {word: query.since.get(word, 0) for word in wanted}
        if query.snapshot is None or sum(counts.values()) < one.least:
            continue
        parts = [f"{count:,} {word}" for word, count in counts.items() if count]
        yield Finding(
            f"query {query.id}",
            f"snapshot {query.snapshot}",
            f"“{query.name}”: {', '.join(parts)}",
            (),
            query.id,
            {"query": query.name, "snapshot": query.snapshot, **counts},
        )


KIND = CauseKind(
    key="rows", model=RowsCause, label="Rows are new, gone or changed", found=found,
    phrase="when rows are new, gone or changed",
    fields=(
        FormField("query", "Of the query", "table", required=True),
        FormField("new", "new rows", "yes"),
        FormField("gone", "rows that are gone", "yes"),
        FormField("changed", "rows that changed", "yes"),
        FormField("least", "At least so many", "number", required=True, least=1),
    ),
)  # fmt: skip
