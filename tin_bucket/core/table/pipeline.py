"""The pipeline: records → table → lookups. A refresh, a preview and another reading of saved answers all drive it.

It is fed page by page. The table is then made by a generator, which yields what a lookup asks and is sent the answers:
over the network in a refresh, from the archive in a reading. Work-out lines have their place behind the lookups.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.report import LookupReport, ReadingReport
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.jsonpath import Picked
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.variables import Scope
from tin_bucket.core.response.response import Answer

from .fan_out_columns import add_fan_out_columns
from .lookup import (
    Kept,
    Key,
    LookUpPlan,
    lookup_keys,
    lookup_service,
    plan_lookup,
    question_of,
    with_iterations,
)
from .lookup_join import find, join_lookup, lookup_report
from .reader import Reader
from .select import Reading
from .table import Table


@dataclass(frozen=True, slots=True)
class KeptRequest:
    """A question for the answers that are kept for some values of a lookup: what is known is sent back.

    Attributes:
        question: what tells the answers of the lookup from those of others.
    """

    look_up: LookUp
    question: bytes
    keys: list[Key]


@dataclass(frozen=True, slots=True)
class LookupRequest:
    """A lookup that is to be made: its calls are in the plan, its answers are sent back in the same order."""

    look_up: LookUp
    service: Service
    plan: LookUpPlan


@dataclass(frozen=True, slots=True)
class FreshAnswers:
    """What was found for values that were not kept: it can be kept now. Nothing is sent back."""

    look_up: LookUp
    question: bytes
    found: Mapping[Key, Any]


@dataclass(slots=True)
class Made:
    """What came of it.

    Attributes:
        table: with the columns of iterations and lookups.
        reading: what the reading of the records found, before lookups.
        lookups: name of a lookup → what it did.
    """

    table: Table
    reading: Reading
    lookups: dict[str, LookupReport]


Request = KeptRequest | LookupRequest | FreshAnswers
Reply = Mapping[Key, Kept] | Sequence[Answer | None] | None
Making = Generator[Request, Reply, Made | None]


class Pipeline:
    """One query's answers on their way to its table."""

    def __init__(
        self,
        brief: Brief,
        iterations: Sequence[Iteration],
        bindings: Mapping[str, Any] | None = None,
        keep: bool = False,
    ) -> None:
        """
        Args:
            iterations: the values that the question is asked for.
            bindings: what the parameters stand for in their plain forms, for columns that hold them.
            keep: whether more than one table will be made of the records, see :meth:`Reader.again`.
        """
        self._brief = brief
        self._iterations = iterations
        self._reader = Reader(brief.take, bindings, keep)
        self._pages_of: Counter[int] = Counter()
        self.iteration_of_page: list[int] = []

    @property
    def records(self) -> int:
        """How many records there are so far."""
        return self._reader.records

    @property
    def sizes(self) -> list[int]:
        """For each page how many records it gave."""
        return self._reader.sizes

    def holds(self, brief: Brief) -> bool:
        """Whether there is what a brief takes, see :meth:`Reader.holds`."""
        return self._reader.holds(brief.take)

    # Feeding -------------------------------------------------------------------------------------------------------

    def add(self, iteration: int, picked: Picked, document: Any) -> None:
        """The records of the next page of an iteration, and the answer around them. Pages come in their order."""
        self._reader.add(picked, document, self._next_page(iteration), self._own(iteration))

    def add_batches(self, iteration: int, batches: Sequence[Any] | Any, document: Any) -> None:
        """The records of a page that is too large to hold, some at a time.

        Args:
            batches: gives lists of records.
            document: what the answer states besides them.
        """
        number, own = self._next_page(iteration), self._own(iteration)
        self._reader.add(None, document, number, own, [])
        for batch in batches:
            self._reader.add(None, document, number, own, batch, more=True)

    def _next_page(self, iteration: int) -> int:
        """The number of the next page of an iteration, counted from 1."""
        self.iteration_of_page.append(iteration)
        self._pages_of[iteration] += 1
        return self._pages_of[iteration]

    def _own(self, iteration: int) -> Iteration | None:
        return self._iterations[iteration] if iteration < len(self._iterations) else None

    # Making --------------------------------------------------------------------------------------------------------

    def make(self, brief: Brief, services: Mapping[str, Service], scope: Scope) -> Making:
        """The table as a brief says; the one that it was made for, or with `keep` another one.

        Args:
            services: id → service, for the addresses of lookups.
            scope: what the parameters stand for.

        Returns:
            ``None`` where the answers themselves are needed for it.

        Raises:
            ProblemError: the brief names a column, a path or a template that does not fit.
        """
        reading = self.read(brief)
        if reading is None:
            return None
        return (yield from self.look_up(brief, reading, services, scope))

    def read(self, brief: Brief) -> Reading | None:
        """The records as columns, before lookups; ``None`` where the answers themselves are needed for it."""
        return self._reader.again(brief.take) if self._reader.keep else self._reader.reading()

    def look_up(self, brief: Brief, reading: Reading, services: Mapping[str, Service], scope: Scope) -> Making:
        """The table of a reading, with the columns of iterations and lookups."""
        table = add_fan_out_columns(brief, reading.table, self._iterations, self.iteration_of_page)
        lookups: dict[str, LookupReport] = {}
        for one in brief.look_up:
            service = services[lookup_service(brief, one)]
            own = with_iterations(brief, one, table)
            question = question_of(own, service.id, scope)
            kept: Any = None
            if own.keep_for is not None:
                kept = yield KeptRequest(own, question, lookup_keys(own, table)[0])
            plan = plan_lookup(own, table, scope, service.base, service.fixed_headers(), kept)
            answers: Any = yield LookupRequest(own, service, plan)
            found = find(own, plan, answers, service.error_rules)
            if own.keep_for is not None and found.fresh:
                yield FreshAnswers(own, question, found.fresh)
            table = join_lookup(own, table, plan, answers, found=found)
            lookups[one.name] = lookup_report(own, plan, answers, found)
        return Made(table, reading, lookups)


def reading_report(brief: Brief, reading: Reading) -> ReadingReport:
    """What people should know of a reading."""
    return ReadingReport(
        absent=reading.absent,
        not_taken=len(reading.fresh),
        unfit=reading.unfit,
        rows_for=brief.take.rows_for,
        empty=reading.empty if brief.take.rows_for else 0,
        left_out=reading.left_out,
    )
