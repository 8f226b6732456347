"""A key ends soon."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.cause import Cause, CauseKind
from tin_bucket.core.notices.facts import Facts, Finding


class KeyCause(Cause):
    """A key ends in some days."""

    why: Literal["key"] = "key"
    days: int = Field(default=14, ge=1, le=400)


def found(one: KeyCause, facts: Facts) -> Iterator[Finding]:
    """The keys that end within the days; it is over with a new key."""
    for key in facts.ending_keys():
        left = (key.expires - facts.now).days
        subject = f"service {key.service_id}"
        if left >= one.days:
            yield Finding(subject, "")
            continue
        ends = f"ends in {left} day{'' if left == 1 else 's'}" if left >= 0 else "has ended"
        yield Finding(
            subject,
            key.expires.isoformat(),
            f"The key of {key.service} {ends}",
            (f"It ends on {key.expires:%Y-%m-%d}. Enter a new one on the page Services and keys.",),
            facts={"service": key.service, "expires": key.expires.isoformat()},
        )


KIND = CauseKind(
    key="key", model=KeyCause, label="A key ends soon", found=found, after=False,
    phrase="when a key ends in {days} days",
    fields=(FormField("days", "Days before", "number", required=True, least=1),),
)  # fmt: skip
