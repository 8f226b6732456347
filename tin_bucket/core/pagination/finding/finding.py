"""What is tried to find out whether there is more, and what was found."""

from __future__ import annotations

from dataclasses import dataclass, field

from tin_bucket.core.pagination.base import PaginationModel
from tin_bucket.core.pagination.protocol import Page, TableState
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call


@dataclass(frozen=True, slots=True)
class Trial:
    """A call that was tried, and what it showed.

    Attributes:
        sent: name → value, as text.
        rows: how many rows came; ``None`` when the call was refused.
        showed: what that means, in words.
    """

    sent: dict[str, str]
    rows: int | None
    showed: str


@dataclass(frozen=True, slots=True)
class TrialCall:
    """A call that is to be made."""

    call: Call
    sent: dict[str, str]


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of a call: a page, or the problem with it."""

    page: Page | None
    problem: Problem | None = None


@dataclass(frozen=True, slots=True)
class Finding:
    """What was found out.

    Attributes:
        state: what can be said of the first answer: ``complete`` when it is proved to be all, ``incomplete`` when there
            is more, ``unverified`` when nothing tells.
        what: that in a sentence.
        pages: how pages are turned, where that is known.
        words: what that is called.
        trials: the calls that were made.
        saves: what a larger page saves, in words.
    """

    state: TableState
    what: str
    pages: PaginationModel | None = None
    words: str = ""
    trials: list[Trial] = field(default_factory=list)
    saves: str = ""
