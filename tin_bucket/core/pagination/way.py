"""An entry of the registry of ways to turn pages."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from tin_bucket.core.choice import Choice
from tin_bucket.core.request.call import Call

from .base import PaginationModel
from .evidence import Evidence, PaginationGuess
from .protocol import Paginator

M = TypeVar("M", bound=PaginationModel)
Detector = Callable[[Evidence], list[PaginationGuess]]


def nothing_seen(evidence: Evidence) -> list[PaginationGuess]:
    """The detector of a way that no answer reveals."""
    return []


@dataclass(frozen=True, slots=True, kw_only=True)
class Way(Choice[M]):
    """A way to turn pages: its model, its paginator, its detector.

    Attributes:
        paginate: makes the paginator of a call, a model and the service's base address.
        until: what ends it, in words: the first pair whose member the model sets; an empty name always holds.
        detect: the guesses that an answer gives.
        detect_weakly: the guesses that it gives where no way was detected.
        can_skip: whether it can continue without a page that could not be fetched.
        asks_behind: whether it may ask for a page behind the last one, which an API may refuse.
        makes_smaller: whether a call that holds too much is made again in parts.
        plans_ahead: whether all of its calls are known before the first answer.
    """

    paginate: Callable[[Call, Any, str], Paginator]
    until: tuple[tuple[str, str], ...] = ()
    detect: Detector = nothing_seen
    detect_weakly: Detector = nothing_seen
    can_skip: bool = False
    asks_behind: bool = False
    makes_smaller: bool = False
    plans_ahead: bool = False
