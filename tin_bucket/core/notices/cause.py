"""An entry of the registry of causes."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.base import Part
from tin_bucket.core.choice import Choice

from .facts import Facts, Finding


class Cause(Part):
    """Why somebody is told."""

    @property
    def happens(self) -> bool:
        """Whether it is something that happens, such as new rows, and not something that holds for a while: what
        happened before there was a notice is not told."""
        return False


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseKind(Choice[Cause]):
    """A kind of cause.

    Attributes:
        found: what it finds now: also what is over, with an empty mark.
        words: when somebody is told, in a sentence; without it, ``phrase`` says it.
        after: whether it is looked at behind refreshes; the others are looked at from time to time.
    """

    found: Callable[[Any, Facts], Iterable[Finding]]
    words: Callable[[Any], str] | None = None
    after: bool = True
