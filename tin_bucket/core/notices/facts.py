"""What causes look at: refreshes, keys, figures, changes, moments. The engine knows them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Protocol

from tin_bucket.core.report.figure import ReportFigure, Told
from tin_bucket.core.schedule.models import AnySchedule


@dataclass(frozen=True, slots=True)
class QueryState:
    """How a query stands after its newest refresh.

    Attributes:
        run: the number of the refresh; ``None`` before the first.
        state: how it ended.
        why: what went wrong, or what is missing, in a sentence.
        snapshot: the newest snapshot, and what it changed against the one before: ``new``, ``gone``, ``changed``.
        drift: how the answers have changed, in words; empty where they have not.
    """

    id: int
    name: str
    run: int | None = None
    state: str = ""
    why: str = ""
    snapshot: int | None = None
    since: dict[str, int] = field(default_factory=dict)
    drift: str = ""


@dataclass(frozen=True, slots=True)
class KeyState:
    """A key that ends."""

    service_id: str
    service: str
    expires: datetime


class Facts(Protocol):
    """What is known now."""

    @property
    def now(self) -> datetime:
        """This moment."""

    def queries(self, query_id: int | None) -> Sequence[QueryState]:
        """A query, or all of them."""

    def ending_keys(self) -> Sequence[KeyState]:
        """The keys that end at some time."""

    def figure(self, figure: ReportFigure) -> tuple[Told, Told | None]:
        """A figure now, and on the date before."""

    def due(self, schedule: AnySchedule) -> datetime | None:
        """The newest moment at which something was due since the notice was made or last sent, if there was one."""


@dataclass(frozen=True, slots=True)
class Finding:
    """What a cause has found.

    Attributes:
        subject: what it is of, such as ``query 3``: each is told by itself.
        mark: what is told once; another mark is told again, and an empty one says that it is over.
        title: in a line.
        sentences: what happened.
        query: the number of the query that it is of.
        facts: the same for programs.
    """

    subject: str
    mark: str
    title: str = ""
    sentences: tuple[str, ...] = ()
    query: int | None = None
    facts: dict[str, Any] = field(default_factory=dict)
