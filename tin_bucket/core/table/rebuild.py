"""Saved answers → table, lookups and all, so that reading them differently costs no call."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.report import LookupReport
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.variables import Scope
from tin_bucket.core.response.classify import Verdict, classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer

from .lookup import KEPT, read_kept
from .pipeline import KeptRequest, LookupRequest, Pipeline, Reply, Request
from .reader import no_rows_problem
from .select import Reading
from .table import Table


@dataclass(slots=True)
class Replay:
    """A table made of saved answers.

    Attributes:
        table: the table, with the columns of lookups.
        reading: what the reading of the records found, before lookups.
        sizes: for each page how many records it gave.
        problem: why an answer could not be used; the table is then that of the answers before it.
        partial: whether there are more records than were read.
        lookups: what each lookup found.
    """

    table: Table
    reading: Reading
    sizes: list[int] = field(default_factory=list)
    problem: Problem | None = None
    partial: bool = False
    lookups: dict[str, LookupReport] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class SavedPage:
    """An answer with the iteration that it belongs to."""

    answer: Answer
    iteration: int = 0


class SavedRecords:
    """The records of saved answers, gathered once; any number of tables can be made of them."""

    def __init__(
        self,
        brief: Brief,
        error_rules: Sequence[ErrorRule],
        pages: Sequence[SavedPage],
        iterations: Sequence[Iteration],
        bindings: Mapping[str, Any] | None = None,
        classified: Callable[[int], Verdict] | None = None,
        most: int | None = None,
        keep: bool = False,
    ) -> None:
        """
        Args:
            brief: the brief, which may differ from the one that asked for the answers.
            error_rules: the service's rules for errors inside answers.
            pages: the answers of the pages, in order.
            iterations: the values that the question was asked for.
            bindings: what the parameters stand for in their plain forms, for columns that hold them.
            classified: gives the verdict on an answer by its number, where it may be already known.
            most: about how many records are read, for a table that is in sight at once.
            keep: whether more than one reading will be made of them, see :meth:`Reader.again`.

        Raises:
            ProblemError: the brief names a path that does not fit.
        """
        self._pipeline = Pipeline(brief, iterations, bindings, keep)
        self._problem: Problem | None = None
        self._partial = False
        for at, page in enumerate(pages):
            if most is not None and self._pipeline.records >= most:
                self._partial = True
                break
            verdict = classified(at) if classified is not None else classify(page.answer, error_rules)
            if verdict.problem is not None:
                self._problem = verdict.problem
                break
            found = pick(verdict.document, brief.take.records)
            if not found.values and not self._pipeline.sizes and not verdict.nothing:
                self._problem = no_rows_problem(verdict.document, brief.take.records)
            if most is not None and len(found.values) > 2 * most:
                found, self._partial = found.first(most), True
            self._pipeline.add(page.iteration, found, verdict.document)

    def holds(self, brief: Brief) -> bool:
        """Whether there is what a brief takes, see :meth:`Reader.holds`."""
        return self._pipeline.holds(brief)

    def table(
        self, brief: Brief, services: Mapping[str, Service], scope: Scope, looked_up: Mapping[str, Answer]
    ) -> Replay | None:
        """The table as a brief says, with the columns of lookups.

        Args:
            services: id → service, for the addresses of lookups.
            scope: what the parameters stand for.
            looked_up: how a lookup's call was asked, see :attr:`Call.asked_as` → its answer; those that are missing
                are marked "not asked yet".

        Returns:
            ``None`` where the answers themselves are needed for it.

        Raises:
            ProblemError: the brief names a column, a path or a template that does not fit.
        """
        making = self._pipeline.make(brief, services, scope)
        try:
            request = next(making)
            while True:
                request = making.send(_reply(request, looked_up))
        except StopIteration as done:
            made = done.value
        if made is None:
            return None
        problem = self._problem or made.reading.problem
        return Replay(made.table, made.reading, self._pipeline.sizes, problem, self._partial, made.lookups)


def _reply(request: Request, looked_up: Mapping[str, Answer]) -> Reply:
    """What is saved of a lookup: its answers, and those that were kept from before when it was made."""
    if isinstance(request, LookupRequest):
        if looked_up:
            request.plan.fit(looked_up)
        return [looked_up.get(call.asked_as) for call in request.plan.calls]
    if isinstance(request, KeptRequest):
        saved = looked_up.get(f"{KEPT}{request.look_up.name}")
        return {} if saved is None else read_kept(parse_json(saved.body))
    return None


def replay(
    brief: Brief,
    services: Mapping[str, Service],
    scope: Scope,
    pages: Sequence[SavedPage],
    iterations: Sequence[Iteration],
    looked_up: Mapping[str, Answer],
) -> Replay:
    """Read answers again, as a brief says: :class:`SavedRecords` and its table in one.

    Raises:
        ProblemError: the brief names a column, a path or a template that does not fit.
    """
    error_rules = services[brief.ask.service].error_rules if brief.ask is not None else ()
    made = SavedRecords(brief, error_rules, pages, iterations).table(brief, services, scope, looked_up)
    assert made is not None
    return made
