"""Saved answers → table, lookups and all, so that reading them differently costs no call."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from .brief import Brief
from .each import Round
from .lookup import LookUpPlan, join_lookup, lookup_service, plan_lookup, with_rounds
from .picking import pick
from .problem import Problem
from .reading import Reader, Reading, no_rows_problem
from .rounds import add_round_columns
from .scope import Scope
from .service import Service
from .table import Table
from .verdict import Answer, Verdict, judge


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
    round: int = 0


def replay(
    brief: Brief,
    services: Mapping[str, Service],
    scope: Scope,
    pages: Sequence[SavedPage],
    rounds: Sequence[Round],
    looked_up: Mapping[str, Answer],
    bindings: Mapping[str, Any] | None = None,
    judged: Callable[[int], Verdict] | None = None,
    most: int | None = None,
) -> Replay:
    """Read answers again, as a brief says.

    Args:
        brief: the brief, which may differ from the one that asked for the answers.
        services: id → service, for the addresses of lookups.
        scope: what the parameters stand for.
        pages: the answers of the pages, in order.
        rounds: the values that the question was asked for.
        looked_up: address of a lookup's call → its answer; those that are missing are marked "not asked yet".
        bindings: what the parameters stand for in their plain forms, for columns that hold them.
        judged: gives the verdict on an answer by its number, where it may be known already.
        most: about how many records are read, for a table that is in sight at once.

    Raises:
        ProblemError: the brief names a column, a path or a template that does not fit.
    """
    reader = Reader(brief.take, bindings)
    turned: Counter[int] = Counter()
    problem: Problem | None = None
    round_of_page: list[int] = []
    faults = services[brief.ask.service].faults if brief.ask is not None else ()
    partial = False
    for at, page in enumerate(pages):
        if most is not None and reader.records >= most:
            partial = True
            break
        verdict = judged(at) if judged is not None else judge(page.answer, faults)
        if verdict.problem is not None:
            problem = verdict.problem
            break
        found = pick(verdict.document, brief.take.records)
        if not found.values and not reader.sizes and not verdict.nothing:
            problem = no_rows_problem(verdict.document, brief.take.records)
        if most is not None and len(found.values) > 2 * most:
            found, partial = found.first(most), True
        turned[page.round] += 1
        own = rounds[page.round] if page.round < len(rounds) else None
        reader.add(found, verdict.document, turned[page.round], own)
        round_of_page.append(page.round)
    reading = reader.reading()
    table = add_round_columns(brief, reading.table, rounds, round_of_page)
    for look_up in brief.look_up:
        service = services[lookup_service(brief, look_up)]
        plan = plan_lookup(with_rounds(brief, look_up, table), table, scope, service.base, service.fixed_headers())
        table = join_lookup(look_up, table, plan, [looked_up.get(call.address) for call in plan.calls], service.faults)
    return Replay(table, reading, reader.sizes, problem or reading.problem, partial)


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
        faults = services[lookup_service(brief, look_up)].faults
        none = sum(answer.failure is None and answer.status in look_up.missing for answer in got)
        failed = sum(
            not (answer.failure is None and answer.status in look_up.missing)
            and judge(answer, faults).problem is not None
            for answer in got
        )
        rows = int((plans[look_up.name].call_of_row >= 0).sum()) if look_up.name in plans else 0
        notes[look_up.name] = {"calls": len(got), "rows": rows, "none": none, "failed": failed}
    return notes
