"""An API changed its fields."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding


class FieldsCause(Cause):
    """The answers have other fields than before."""

    why: Literal["fields"] = "fields"
    query: int | None = Field(default=None, description="the query; any of them if absent")

    @property
    def happens(self) -> bool:
        """With each refresh."""
        return True


def found(one: FieldsCause, facts: Facts) -> Iterator[Finding]:
    """The queries whose newest answers have changed; each change is told once."""
    for query in facts.queries(one.query):
        subject = f"query {query.id}"
        if query.drift:
            yield Finding(
                subject,
                query.drift,
                f"The answers of “{query.name}” have changed",
                (f"{query.drift[:1].upper()}{query.drift[1:]}.", "Check that its columns still hold what you expect."),
                query.id,
                {"query": query.name, "run": query.run, "change": query.drift},
            )
        elif query.state in ("complete", "unverified"):
            yield Finding(subject, "")


KIND = CauseKind(
    key="fields", model=FieldsCause, label="An API changed its fields", found=found,
    phrase="when an API changes its fields",
    fields=(FormField("query", "Of the query", "table", placeholder="any"),),
)  # fmt: skip
