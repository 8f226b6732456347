"""A refresh failed, or its table is incomplete."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding

_FAILED = ("failed", "interrupted")


class RefreshCause(Cause):
    """A refresh did not bring a whole table."""

    why: Literal["refresh"] = "refresh"
    query: int | None = Field(default=None, description="the query; any of them if absent")
    failed: bool = True
    incomplete: bool = True


def found(one: RefreshCause, facts: Facts) -> Iterator[Finding]:
    """The queries whose newest refresh failed or is incomplete; it is over with the next whole table."""
    for query in facts.queries(one.query):
        subject = f"query {query.id}"
        if (one.failed and query.state in _FAILED) or (one.incomplete and query.state == "incomplete"):
            what = "is incomplete" if query.state == "incomplete" else "failed"
            yield Finding(
                subject,
                query.state,
                f"The refresh of “{query.name}” {what}",
                (query.why,) if query.why else (),
                query.id,
                {"query": query.name, "run": query.run, "state": query.state},
            )
        elif query.state in ("complete", "unverified", "incomplete"):
            yield Finding(subject, "")


KIND = CauseKind(
    key="refresh", model=RefreshCause, label="A refresh failed or is incomplete", found=found,
    phrase="when a refresh fails or is incomplete",
    fields=(
        FormField("query", "Of the query", "table", placeholder="any"),
        FormField("failed", "it failed", "yes"),
        FormField("incomplete", "its table is incomplete", "yes"),
    ),
)  # fmt: skip
