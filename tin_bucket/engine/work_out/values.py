"""What a question takes from other tables: the values that it is asked for, and the choices of its parameters."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import Brief
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.fan_out import FanOut, FanOutColumn, FanOutSheet
from tin_bucket.core.request.parameters.models import Choice, ChoiceParameter
from tin_bucket.engine.workspace.sources import kept_sheet
from tin_bucket.store.workspace import Workspace

MOST_CHOICES = 5_000


def read_fan_out(workspace: Workspace, each: Sequence[FanOut]) -> dict[int, list[Mapping[str, str]]]:
    """The values that *for each* takes from tables and sheets: index → parameter → text.

    Raises:
        ProblemError: ``query-unknown``, ``sheet-unknown``, ``column-unknown`` or ``table-missing``.
    """
    out: dict[int, list[Mapping[str, str]]] = {}
    for at, one in enumerate(each):
        if isinstance(one, FanOutColumn):
            values = column_values(workspace, one.query, [one.column])
            distinct = dict.fromkeys(text for (text,) in values if text is not None)
            out[at] = [{one.parameter: text} for text in distinct]
        elif isinstance(one, FanOutSheet):
            table = kept_sheet(workspace, one.sheet)
            for column in one.with_.values():
                if column not in table.headings:
                    raise _no_column(column, f"sheet “{one.sheet}”", table.headings)
            out[at] = [
                {name: _text(record.get(column)) or "" for name, column in one.with_.items()}
                for record in table.records
                if isinstance(record, dict)
            ]
    return out


def column_values(workspace: Workspace, query: str, columns: list[str]) -> Iterator[tuple[str | None, ...]]:
    """Columns of a query's newest table, with its work-out lines done to it, row by row, as texts.

    Raises:
        ProblemError: ``query-unknown``, ``table-missing`` or ``column-unknown``, or what is wrong with a line.
    """
    # Few refreshes read another table, and it takes a while to be able to.
    from .source import rows_of
    from .work import WorkOut

    table = WorkOut(workspace).newest(query)
    names = [column.name for column in table.columns]
    for column in columns:
        if column not in names:
            raise _no_column(column, f"table of “{query}”", names)
    places = [names.index(column) for column in columns]
    return (tuple(_text(row[place]) for place in places) for row in rows_of(table))


def _text(value: Any) -> str | None:
    if value is None or isinstance(value, Miss):
        return None
    return value if isinstance(value, str) else json_text(value)


def _no_column(column: str, where: str, have: list[str]) -> Exception:
    return fail(
        "column-unknown",
        f"There is no column “{column}” in the {where}.",
        where=where,
        do=f"It has: {', '.join(have[:20])}.",
    )


def with_choices(workspace: Workspace, brief: Brief) -> Brief:
    """The brief with the choices in it that are read from another query's table.

    A query that has no table yet leaves its parameter open to any code.
    """
    parameters = []
    for parameter in brief.parameters:
        if isinstance(parameter, ChoiceParameter) and parameter.choices_from is not None:
            choices = choices_of(workspace, parameter)
            parameter = parameter.model_copy(update={"choices": choices, "choices_from": None})
        parameters.append(parameter)
    return brief.model_copy(update={"parameters": parameters})


def choices_of(workspace: Workspace, parameter: ChoiceParameter) -> list[Choice]:
    """A parameter's choices: its own, or those in two columns of a query's newest table; none without a table."""
    source = parameter.choices_from
    if source is None:
        return parameter.choices
    columns = [source.code, *([source.label] if source.label else [])]
    found: dict[str, str] = {}
    try:
        for code, *label in column_values(workspace, source.query, columns):
            if code is not None and code not in found:
                found[code] = (label[0] or "") if label else ""
            if len(found) >= MOST_CHOICES:
                break
    except ProblemError as error:
        if error.problem.kind in ("table-missing", "query-unknown"):
            return []
        raise
    return [Choice(code=code, label=label) for code, label in found.items()]
