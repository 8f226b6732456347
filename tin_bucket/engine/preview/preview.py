"""Asking once: one call with a brief that need not be saved, and reading kept answers in other ways."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from threading import Lock

from tin_bucket.cache import LockedCache
from tin_bucket.core.detect.records import RecordsGuess
from tin_bucket.core.document.extraction import HeadsInFirstRow, row_shape
from tin_bucket.core.document.query import Brief
from tin_bucket.core.pagination.evidence import PaginationGuess, TotalGap
from tin_bucket.core.pagination.protocol import RowShape, TableState
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.parameters.values import Bindings
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.rebuild import Replay, SavedPage
from tin_bucket.store.archive import SavedAnswers

MAX_PREVIEWS = 24
MOST_ROWS = 600_000  # Rows of all previews together.


@dataclass(slots=True)
class Preview:
    """The result of asking once, or of a rereading. Lives in memory until newer ones push it out.

    `answers` are in order; `calls` are without the key. `iterations` are the values that the question was asked for.
    `run_id` names the run whose answers these are, if any.
    `pages_read` is the number of answers that the table was made of, from the first on; `partial` says that there are
    more records than were read.
    `proof` is what can be said of the first answer as the whole table, and the evidence.
    `gathering` is held while records are gathered from the answers; all previews of the same answers share it.
    """

    brief: Brief
    bindings: Bindings
    calls: list[Call]
    answers: Sequence[SavedPage]
    looked_up: Mapping[str, Answer]
    replay: Replay | None
    problem: Problem | None
    asked: str
    run_id: int | None = None
    iterations: list[Iteration] = field(default_factory=lambda: [{}])
    pages_read: int = 0
    rows: list[RecordsGuess] = field(default_factory=list)
    pages: list[PaginationGuess] = field(default_factory=list)
    total_gap: TotalGap | None = None
    proof: tuple[TableState, str] | None = None
    stated_total: int | None = None
    stated_pages: int | None = None
    notes: list[str] = field(default_factory=list)
    partial: bool = False
    gathering: Lock = field(default_factory=Lock, repr=False, compare=False)

    def again(self, brief: Brief) -> Preview:
        """The same answers, to be read as another brief says."""
        return replace(
            self,
            brief=brief,
            replay=None,
            problem=None,
            rows=[],
            pages=[],
            total_gap=None,
            proof=None,
            stated_total=None,
            stated_pages=None,
            notes=[],
            partial=False,
            pages_read=0,
        )

    def row_shape(self) -> RowShape:
        """How the rows are written: before that is known, as the likeliest guess says."""
        take = self.brief.take
        if take.records != "$" or take.rows_for or not self.rows:
            return row_shape(take)
        guess = self.rows[0]
        return RowShape(guess.path, isinstance(guess.heads, HeadsInFirstRow), tuple(guess.rows_for))

    def head(self, at: int) -> SavedPage:
        """An answer without its body, where bodies are read when they are wanted."""
        return self.answers.head(at) if isinstance(self.answers, SavedAnswers) else self.answers[at]

    def sizes(self) -> list[int]:
        """The length of each answer in bytes."""
        if isinstance(self.answers, SavedAnswers):
            return self.answers.sizes()
        return [page.answer.length for page in self.answers]


class Previews:
    """The latest previews, by number."""

    def __init__(self) -> None:
        self._numbers = itertools.count(1)
        self._kept: LockedCache[int, Preview] = LockedCache(MOST_ROWS, _size)

    def add(self, preview: Preview) -> int:
        """Keep a preview; returns its number."""
        number = next(self._numbers)
        self._kept.put(number, preview)
        return number

    def get(self, number: int) -> Preview | None:
        """The preview of that number, if it is still kept."""
        return self._kept.get(number)


def _size(preview: Preview) -> int:
    """Its rows; an empty one counts too, so that there are never more than :data:`MAX_PREVIEWS`."""
    rows = preview.replay.table.height if preview.replay is not None else 0
    return max(rows, MOST_ROWS // MAX_PREVIEWS)
