"""Saved answers → table, lookups and all, so that reading them differently costs no call."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.variables import Scope
from tin_bucket.core.response.classify import Verdict, classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer

from .fan_out_columns import add_fan_out_columns
from .lookup import LookUpPlan, join_lookup, lookup_service, plan_lookup, with_iterations
from .reader import Reader, no_rows_problem
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
    """

    table: Table
    reading: Reading
    sizes: list[int] = field(default_factory=list)
    problem: Problem | None = None
    partial: bool = False


@dataclass(frozen=True, slots=True)
class SavedPage:
    """An answer with the round that it belongs to."""

    answer: Answer
    iteration: int = 0


class Pages:
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
            classified: gives the verdict on an answer by its number, where it may be known already.
            most: about how many records are read, for a table that is in sight at once.
            keep: whether more than one reading will be made of them, see :meth:`Reader.again`.

        Raises:
            ProblemError: the brief names a path that does not fit.
        """
        self._reader = Reader(brief.take, bindings, keep)
        self._iterations = iterations
        self._problem: Problem | None = None
        self._partial = False
        self._iteration_of_page: list[int] = []
        turned: Counter[int] = Counter()
        for at, page in enumerate(pages):
            if most is not None and self._reader.records >= most:
                self._partial = True
                break
            verdict = classified(at) if classified is not None else classify(page.answer, error_rules)
            if verdict.problem is not None:
                self._problem = verdict.problem
                break
            found = pick(verdict.document, brief.take.records)
            if not found.values and not self._reader.sizes and not verdict.nothing:
                self._problem = no_rows_problem(verdict.document, brief.take.records)
            if most is not None and len(found.values) > 2 * most:
                found, self._partial = found.first(most), True
            turned[page.iteration] += 1
            own = iterations[page.iteration] if page.iteration < len(iterations) else None
            self._reader.add(found, verdict.document, turned[page.iteration], own)
            self._iteration_of_page.append(page.iteration)

    def holds(self, brief: Brief) -> bool:
        """Whether there is what a brief takes, see :meth:`Reader.holds`."""
        return self._reader.holds(brief.take)

    def table(
        self, brief: Brief, services: Mapping[str, Service], scope: Scope, looked_up: Mapping[str, Answer]
    ) -> Replay | None:
        """The table as a brief says, with the columns of lookups.

        Args:
            services: id → service, for the addresses of lookups.
            scope: what the parameters stand for.
            looked_up: address of a lookup's call → its answer; those that are missing are marked "not asked yet".

        Returns:
            ``None`` where the answers themselves are needed for it.

        Raises:
            ProblemError: the brief names a column, a path or a template that does not fit.
        """
        reading = self._reader.again(brief.take) if self._reader.keep else self._reader.reading()
        if reading is None:
            return None
        table = add_fan_out_columns(brief, reading.table, self._iterations, self._iteration_of_page)
        for look_up in brief.look_up:
            service = services[lookup_service(brief, look_up)]
            plan = plan_lookup(
                with_iterations(brief, look_up, table), table, scope, service.base, service.fixed_headers()
            )
            answers = [looked_up.get(call.address) for call in plan.calls]
            table = join_lookup(look_up, table, plan, answers, service.error_rules)
        return Replay(table, reading, self._reader.sizes, self._problem or reading.problem, self._partial)


def replay(
    brief: Brief,
    services: Mapping[str, Service],
    scope: Scope,
    pages: Sequence[SavedPage],
    iterations: Sequence[Iteration],
    looked_up: Mapping[str, Answer],
) -> Replay:
    """Read answers again, as a brief says: :class:`Pages` and its table in one.

    Raises:
        ProblemError: the brief names a column, a path or a template that does not fit.
    """
    error_rules = services[brief.ask.service].error_rules if brief.ask is not None else ()
    made = Pages(brief, error_rules, pages, iterations).table(brief, services, scope, looked_up)
    assert made is not None
    return made


# What a reading says of itself; another reading of the same answers says it anew.
READING_NOTES = ("absent", "not_taken", "unfit", "records", "rows_for", "empty")


def reading_notes(brief: Brief, reading: Reading) -> dict[str, Any]:
    """What people should know of a reading, ready for JSON; empty when there is nothing to say."""
    notes: dict[str, Any] = {}
    if reading.absent:
        notes["absent"] = reading.absent
    if reading.fresh:
        notes["not_taken"] = len(reading.fresh)
    if reading.unfit:
        notes["unfit"] = reading.unfit
    if len(reading.table.page) != reading.records:
        notes["records"] = reading.records
    if brief.take.rows_for:
        notes["rows_for"] = brief.take.rows_for
        notes["empty"] = reading.empty
    return notes


def lookup_notes(
    plans: Mapping[str, LookUpPlan],
    answers: Mapping[str, list[Answer]],
    brief: Brief,
    services: Mapping[str, Service],
) -> dict[str, Any]:
    """For each lookup how many calls it made, how many found nothing, and how many failed."""
    notes = {}
    for look_up in brief.look_up:
        got = answers.get(look_up.name, [])
        error_rules = services[lookup_service(brief, look_up)].error_rules
        none = sum(answer.failure is None and answer.status in look_up.missing for answer in got)
        failed = sum(
            not (answer.failure is None and answer.status in look_up.missing)
            and classify(answer, error_rules).problem is not None
            for answer in got
        )
        rows = int((plans[look_up.name].call_of_row >= 0).sum()) if look_up.name in plans else 0
        notes[look_up.name] = {"calls": len(got), "rows": rows, "none": none, "failed": failed}
    return notes
