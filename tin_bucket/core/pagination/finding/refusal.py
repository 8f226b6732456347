"""What the words of a refusal teach: names that an API knows or does not know, and the most rows that it gives."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

_UNKNOWN = re.compile(
    r"unknown|unexpected|unrecogni[sz]ed|not (?:a )?(?:known|allowed|supported|permitted|recogni[sz]ed)|unsupported"
    r"|invalid (?:query )?param|no such param|does not (?:know|take)|extra", re.IGNORECASE)  # fmt: skip
_ALLOWED = re.compile(
    r"\b(?:allowed|supported|valid|known|accepted|expected|available|takes|use|are)"
    r"(?: (?:query )?parameters?(?: are)?)?"
    r"\s*:?\s*((?:[\"'“`]?[\w$\[\].-]+[\"'”`]?(?:\s*,\s*|\s+and\s+|\s+or\s+)?)+)", re.IGNORECASE)  # fmt: skip
_MOST = re.compile(
    r"(?:max(?:imum)?(?: is| of|:)?|at most|<=|≤|up to|not exceed|no more than|less than or equal to"
    r"|not be (?:greater|more|larger) than|between \d+ and|from \d+ to|\d+\s*(?:-|–|to)\s*)\D{0,12}?(\d{1,6})",
    re.IGNORECASE,
)
_LEAST = re.compile(
    r"(?:min(?:imum)?(?: is| of|:)?|at least|>=|≥|no less than|greater than or equal to|between)\s*\D{0,8}?(\d{1,5})",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Lesson:
    """What a refusal teaches.

    Attributes:
        unknown: names that were sent and that the API does not know.
        known: names that were sent and whose values it does not like, so that it does know them.
        offered: names that it says it takes.
        most: the most rows that it gives on a page.
        least: the fewest.
    """

    unknown: set[str] = field(default_factory=set)
    known: set[str] = field(default_factory=set)
    offered: list[str] = field(default_factory=list)
    most: int | None = None
    least: int | None = None


def learn(words: str, sent: Iterable[str]) -> Lesson:
    """Read a refusal.

    Args:
        words: what the API says.
        sent: the names that were sent and that may be unknown to it.
    """
    named = {name for name in sent if _names(words, name)}
    lesson = Lesson()
    # “Unknown parameter foo. Allowed: page, size”: what comes after tells of other names.
    at = next((found for found in _ALLOWED.finditer(words) if _list(found[1], ":" in found[0])), None)
    if at is not None:
        lesson.offered.extend(_list(at[1], ":" in at[0]))
    before = words[: at.start()] if at is not None else words
    if _UNKNOWN.search(words):
        lesson.unknown.update(name for name in named if _names(before, name) and name not in lesson.offered)
        return lesson
    lesson.known.update(named)
    most, least = _MOST.search(words), _LEAST.search(words)
    return Lesson(
        lesson.unknown, lesson.known, lesson.offered, int(most[1]) if most else None, int(least[1]) if least else None
    )


def _names(words: str, name: str) -> bool:
    return re.search(rf"(?<![\w$\[.-]){re.escape(name)}(?![\w\[-])", words) is not None


def _list(text: str, announced: bool) -> list[str]:
    """The names of a list of at least two, or of one after a colon."""
    names = [part.strip(" \t\"'“”`.") for part in re.split(r",| and | or ", text)]
    names = [name for name in names if re.fullmatch(r"[\w$][\w$\[\].-]*", name) and not name.isdigit()]
    return names if len(names) >= (1 if announced else 2) else []
