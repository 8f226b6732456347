"""Per-row lookups: rows → distinct calls → columns joined back. Equal values are asked once, misses are marked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tin_bucket.core.columns.kind_registry import convert, guess_kind
from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import Brief, LookUp
from tin_bucket.core.document.report import LookupReport
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import parse_place
from tin_bucket.core.problem import fail
from tin_bucket.core.request.build import build_address
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.templates import template_names
from tin_bucket.core.request.variables import Scope, one_text
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer

from .context_columns import value_at
from .fan_out_columns import FAN_OUT_ORIGIN
from .flatten import Cells
from .row_expansion import Ints
from .table import Table, TableColumn


@dataclass(slots=True)
class LookUpPlan:
    """What a lookup will ask.

    Attributes:
        calls: the distinct calls, in the order in which the rows first need them.
        call_of_row: for each row the index of its call, −1 where a value is empty and nothing is asked. Shape (rows,).
    """

    calls: list[Call]
    call_of_row: Ints


def lookup_service(brief: Brief, look_up: LookUp) -> str:
    """The id of the service that a lookup asks: its own, or that of the question."""
    return look_up.service or (brief.ask.service if brief.ask is not None else "")


def with_iterations(brief: Brief, look_up: LookUp, table: Table) -> LookUp:
    """The lookup with the values that the question was asked for taken from their columns, row by row."""
    columns = {heading.place: heading.name for heading in table.columns if heading.origin == FAN_OUT_ORIGIN}
    names = template_names(look_up.path)
    for pair in look_up.query:
        names |= template_names(pair.value or "")
    more = {name: columns[name] for name in names & set(columns) - set(look_up.with_)}
    return look_up.model_copy(update={"with_": {**look_up.with_, **more}}) if more else look_up


def plan_lookup(
    look_up: LookUp,
    table: Table,
    scope: Scope,
    base: str,
    headers: Sequence[tuple[str, str]] = (),
) -> LookUpPlan:
    """Find the distinct calls that the rows need.

    Args:
        scope: what the query's parameters stand for.
        base: the base address of the lookup's service, and with it its fixed headers.

    Raises:
        ProblemError: ``lookup-column-unknown`` when the table has no such column, or a template problem.
    """
    columns: list[Cells] = []
    for name in look_up.with_.values():
        column = table.column(name)
        if column is None:
            have = ", ".join(heading.name for heading in table.columns[:20])
            raise fail(
                "lookup-column-unknown",
                f"The lookup “{look_up.name}” needs the column “{name}”, and the table has none of that name.",
                where=f"look up {look_up.name}",
                do=f"The table's columns: {have}.",
            )
        columns.append(column)
    calls: list[Call] = []
    index_of: dict[tuple[Any, ...], int] = {}
    call_of_row = np.full(table.height, -1, dtype=np.int64)
    for row, values in enumerate(zip(*columns, strict=True)):
        if any(value is None or value == "" or type(value) is Miss for value in values):
            continue
        # 1, 1.0 and True are equal in Python and differ in an address.
        texts = _address_texts(values)
        index = index_of.get(texts)
        if index is None:
            index = index_of[texts] = len(calls)
            own = {name: one_text(text) for name, text in zip(look_up.with_, texts, strict=True)}
            address = build_address(base, look_up.path, look_up.query, {**scope, **own}, "column or parameter")
            calls.append(Call("GET", address, tuple(headers), f"look up {look_up.name}", lookup_label(texts)))
        call_of_row[row] = index
    return LookUpPlan(calls, call_of_row)


def _address_texts(values: Sequence[Any]) -> tuple[str, ...]:
    return tuple(value if isinstance(value, str) else json_text(value) for value in values)


def lookup_label(values: Sequence[Any]) -> str:
    """The label of the call that a row's values were looked up with, as :func:`plan_lookup` gives it."""
    return ", ".join(_address_texts(values))


def is_missing(look_up: LookUp, answer: Answer) -> bool:
    """Whether the answer says that there is no such thing, which is a result and not a failure."""
    return answer.failure is None and answer.status in look_up.missing


def join_lookup(
    look_up: LookUp,
    table: Table,
    plan: LookUpPlan,
    answers: Sequence[Answer | None],
    error_rules: Sequence[ErrorRule] = (),
) -> Table:
    """A new table with the lookup's columns at its end.

    Args:
        answers: one for each of the plan's calls, in the same order; ``None`` for a call that was not made.
        error_rules: the service's rules for errors inside answers.
    """
    found: list[list[Any]] = [[] for _ in look_up.take]
    for answer in answers:
        for cell, values in zip(_cells(look_up, answer, error_rules), found, strict=True):
            values.append(cell)
    taken = {column.name for column in table.columns}
    columns = list(table.columns)
    data: list[Cells] = list(table.data)
    for wanted, values in zip(look_up.take, found, strict=True):
        if wanted.kind is not None:
            values = list(convert(values, wanted.kind, wanted.reads)[0])
        name = wanted.name if wanted.name not in taken else f"{look_up.name}.{wanted.name}"
        taken.add(name)
        # A row without a call gets the empty cell that stands at index -1.
        cells = [*values, None]
        data.append([cells[index] for index in plan.call_of_row.tolist()])
        kind = wanted.kind or guess_kind(values)
        columns.append(
            TableColumn(name, kind, look_up.name, wanted.place, wanted.unit, note=wanted.note, hidden=wanted.hidden)
        )
    return replace(table, columns=columns, data=data)


def _cells(look_up: LookUp, answer: Answer | None, error_rules: Sequence[ErrorRule]) -> list[Any]:
    if answer is None:
        return [Miss("unasked", "not asked yet")] * len(look_up.take)
    if is_missing(look_up, answer):
        return [Miss("none", "not found")] * len(look_up.take)
    verdict = classify(answer, error_rules)
    if verdict.problem is not None:
        words = f"status {answer.status}" if answer.status else verdict.problem.kind.replace("-", " ")
        return [Miss("failed", f"failed: {words}")] * len(look_up.take)
    cells = []
    for wanted in look_up.take:
        cells.append(value_at(verdict.document, parse_place(wanted.place) or (), wanted.reduction))
    return cells


def lookup_report(
    look_up: LookUp, plan: LookUpPlan, answers: Sequence[Answer | None], error_rules: Sequence[ErrorRule]
) -> LookupReport:
    """How many calls a lookup made, how many found nothing, and how many failed."""
    got = [answer for answer in answers if answer is not None]
    missing = [is_missing(look_up, answer) for answer in got]
    failed = sum(
        not gone and classify(answer, error_rules).problem is not None
        for answer, gone in zip(got, missing, strict=True)
    )
    return LookupReport(calls=len(got), rows=int((plan.call_of_row >= 0).sum()), none=sum(missing), failed=failed)
