"""The answers of a lookup → columns of the rows that they are for. What is not there, what failed and what was not
asked is told apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from tin_bucket.core.columns.kind_registry import convert, guess_kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.look_up import LookUp
from tin_bucket.core.document.report import FailedPart, LookupReport
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import parse_place, pick
from tin_bucket.core.problem import Problem
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer

from .context_columns import value_at
from .flatten import Cells
from .lookup import Kept, Key, LookUpPlan, is_missing
from .row_expansion import Ints
from .table import Table, TableColumn

_TOLD = 20  # Values without an answer that a report lists.
NOT_THERE = Miss("none", "not found")


@dataclass(slots=True)
class Found:
    """What was found for the values of a lookup.

    Attributes:
        records: for each value its records, or what it misses. Shape (keys,).
        fresh: what can be kept: value → what was found for it now.
        failed: how many calls failed.
        why: the index of the first call that failed, and its problem.
    """

    records: list[list[Any] | Miss]
    fresh: dict[Key, Any] = field(default_factory=dict)
    failed: int = 0
    why: tuple[int, Problem] | None = None


def find(
    look_up: LookUp, plan: LookUpPlan, answers: Sequence[Answer | None], error_rules: Sequence[ErrorRule] = ()
) -> Found:
    """What the answers, and those that are kept, hold for each value.

    Args:
        answers: one for each of the plan's calls, in the same order; ``None`` for a call that was not made.
        error_rules: the service's rules for errors inside answers.
    """
    found = Found([NOT_THERE] * len(plan.keys))
    batched = look_up.batch is not None
    read: list[Any] = []
    for at, answer in enumerate(answers):
        told = _read(look_up, answer, error_rules)
        if isinstance(told, Problem):
            found.failed += 1
            found.why = found.why or (at, told)
            words = f"status {answer.status}" if answer and answer.status else told.kind.replace("-", " ")
            told = Miss("failed", f"failed: {words}")
        read.append(_by_value(look_up, told) if batched and not isinstance(told, Miss) else told)
    many = list(look_up.with_).index(look_up.many) if batched else 0
    for at, key in enumerate(plan.keys):
        call = int(plan.call_of_key[at])
        if call < 0:
            kept = plan.kept[key].found
            found.records[at] = NOT_THERE if kept is None else _records(look_up, kept)
            continue
        told = read[call]
        if isinstance(told, Miss):
            found.records[at] = told
            if told.reason == "none":
                found.fresh[key] = None
            continue
        own = told.get(key[many]) if batched else told
        found.fresh[key] = own
        found.records[at] = NOT_THERE if own is None else _records(look_up, own)
    return found


def _read(look_up: LookUp, answer: Answer | None, error_rules: Sequence[ErrorRule]) -> Any:
    """The document of an answer, or what is missing of it, or why it cannot be used."""
    if answer is None:
        return Miss("unasked", "not asked yet")
    if is_missing(look_up, answer):
        return NOT_THERE
    verdict = classify(answer, error_rules)
    return verdict.document if verdict.problem is None else verdict.problem


def _by_value(look_up: LookUp, document: Any) -> dict[str, list[Any]]:
    """The records of a batch by the values that they say they are of, in any order."""
    batch = look_up.batch
    assert batch is not None
    place = parse_place(batch.match) or ()
    out: dict[str, list[Any]] = {}
    for record in pick(document, batch.records).values:
        value = value_at(record, place, None)
        if value is not None:
            out.setdefault(value if isinstance(value, str) else json_text(value), []).append(record)
    return out


def record_place(look_up: LookUp, document: Any, key: Key) -> tuple[str | int, ...] | None:
    """Where in an answer the first record of a value stands; ``None`` where there is none."""
    batch = look_up.batch
    path = batch.records if batch is not None else look_up.records
    if path is None:
        return ()
    picked = pick(document, path)
    many = list(look_up.with_).index(look_up.many) if batch is not None else 0
    own = _by_value(look_up, document).get(key[many], []) if batch is not None else document
    records = _records(look_up, own) if own else NOT_THERE
    if isinstance(records, Miss):
        return None
    at = next((at for at, value in enumerate(picked.values) if value is records[0]), None)
    return None if at is None else picked.where(at)


def _records(look_up: LookUp, own: Any) -> list[Any] | Miss:
    """The records that are meant for one value."""
    if look_up.batch is not None:
        records = list(own)
    elif look_up.records is not None:
        records = list(pick(own, look_up.records).values)
    else:
        records = [own]
    if look_up.where is not None:
        place = parse_place(look_up.where.place) or ()
        records = [one for one in records if _text(value_at(one, place, None)) == look_up.where.value]
    return records or NOT_THERE


def _text(value: Any) -> str:
    return value if isinstance(value, str) else json_text(value)


def join_lookup(
    look_up: LookUp,
    table: Table,
    plan: LookUpPlan,
    answers: Sequence[Answer | None],
    error_rules: Sequence[ErrorRule] = (),
    found: Found | None = None,
) -> Table:
    """A new table with the lookup's columns at its end, and with several records a row for each where that is wanted.

    Args:
        answers: one for each of the plan's calls, in the same order; ``None`` for a call that was not made.
        error_rules: the service's rules for errors inside answers.
        found: what :func:`find` makes of these, where it is known.
    """
    found = found or find(look_up, plan, answers, error_rules)
    each = look_up.several == "each"
    # For each value the indexes of its records among all that are read, and the cells of these.
    places: list[list[int]] = []
    cells: list[list[Any]] = [[] for _ in look_up.take]
    counts: list[Any] = []
    for records in found.records:
        some: list[Any] = [records] if isinstance(records, Miss) else records if each else records[:1]
        places.append(list(range(len(counts), len(counts) + len(some))))
        for record in some:
            counts.append(records if isinstance(records, Miss) else len(records))
            for spec, values in zip(look_up.take, cells, strict=True):
                missing = isinstance(record, Miss)
                values.append(record if missing else value_at(record, parse_place(spec.place) or (), spec.reduction))
    rows, at = _rows(plan.key_of_row, places, each)
    taken = {column.name for column in table.columns}
    columns = list(table.columns)
    data: list[Cells] = list(table.data) if rows is None else [_picked(values, rows) for values in table.data]
    asked = min((kept.asked for kept in plan.kept.values()), default="")
    headings = [
        (spec.name, spec.place, spec.unit, spec.kind, spec.reads, spec.note, spec.hidden) for spec in look_up.take
    ]
    if look_up.count:
        headings.append((look_up.count, "", "", "whole number", None, "", False))
        cells.append([NOT_THERE if isinstance(one, Miss) and one.reason != "none" else one for one in counts])
    for (own, place, unit, kind, reads, note, hidden), values in zip(headings, cells, strict=True):
        if kind is not None:
            values = list(convert(values, kind, reads)[0])
        name = own if own not in taken else f"{look_up.name}.{own}"
        taken.add(name)
        # A row without a call gets the empty cell that stands at index −1.
        whole = [*values, None]
        data.append([whole[index] for index in at])
        columns.append(
            TableColumn(
                name, kind or guess_kind(values), look_up.name, place, unit, note=note, hidden=hidden, asked=asked
            )
        )
    if rows is None:
        return replace(table, columns=columns, data=data)
    return Table(columns, data, table.page[rows], table.record[rows], [numbers[rows] for numbers in table.items])


def _rows(key_of_row: Ints, places: list[list[int]], each: bool) -> tuple[Ints | None, list[int]]:
    """For each row of the new table its row in the old one, the same when ``None``, and its record, −1 for none."""
    if not each:
        first = [own[0] for own in places]
        return None, [first[key] if key >= 0 else -1 for key in key_of_row.tolist()]
    rows: list[int] = []
    at: list[int] = []
    for row, key in enumerate(key_of_row.tolist()):
        own = places[key] if key >= 0 else [-1]
        rows += [row] * len(own)
        at += own
    return np.array(rows, dtype=np.int64), at


def _picked(values: Cells, rows: Ints) -> Cells:
    whole = list(values)
    return [whole[row] for row in rows.tolist()]


def lookup_report(look_up: LookUp, plan: LookUpPlan, answers: Sequence[Answer | None], found: Found) -> LookupReport:
    """How many calls a lookup made, for which values nothing was found, and how many calls failed."""
    missing = [key for key, one in zip(plan.keys, found.records, strict=True) if one == NOT_THERE]
    several = sum(not isinstance(one, Miss) and len(one) > 1 for one in found.records)
    return LookupReport(
        calls=sum(answer is not None for answer in answers),
        rows=int((plan.key_of_row >= 0).sum()),
        none=len(missing),
        failed=found.failed,
        why=FailedPart.of(plan.calls[found.why[0]].label, found.why[1]) if found.why is not None else None,
        values=len(plan.keys),
        kept=len(plan.kept),
        oldest=min((kept.asked for kept in plan.kept.values()), default=""),
        missing=[", ".join(key) for key in missing[:_TOLD]],
        several=several if look_up.several == "first" and not look_up.count else 0,
    )


def still_kept(kept: Mapping[Key, Kept], since: str) -> dict[Key, Kept]:
    """The kept answers that were asked for since a moment, ISO 8601."""
    return {key: one for key, one in kept.items() if one.asked >= since}
