"""The story of a row: when it came, what changed in it, when it went and came back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from tin_bucket.core.alike.judge import same_value

What = Literal["came", "changed", "went", "back"]


@dataclass(frozen=True, slots=True)
class StoryEvent:
    """Something that happened to a row.

    Attributes:
        at: the index of the date on which it is seen first.
        what: ``came``, ``changed``, ``went``, or ``back``.
        changes: the columns that changed, each with its value then and now; of ``back`` since it went. Columns that
            came or went with the table are no changes of the row.
    """

    at: int
    what: What
    changes: dict[str, tuple[Any, Any]] = field(default_factory=dict)


def story_of(dates: Iterable[Mapping[str, Any] | None]) -> list[StoryEvent]:
    """What happened to a row.

    Args:
        dates: for each date the row's values by column, or nothing where it is not there; the oldest first.
    """
    out: list[StoryEvent] = []
    last: Mapping[str, Any] | None = None
    there = False
    for at, values in enumerate(dates):
        if values is None:
            if there:
                out.append(StoryEvent(at, "went"))
            there = False
            continue
        before = last or {}
        changes = {
            name: (before[name], value)
            for name, value in values.items()
            if name in before and not same_value(before[name], value)
        }
        if last is None:
            out.append(StoryEvent(at, "came"))
        elif not there:
            out.append(StoryEvent(at, "back", changes))
        elif changes:
            out.append(StoryEvent(at, "changed", changes))
        # A column that is missing for a while keeps what it was.
        last = {**before, **values}
        there = True
    return out
