"""The values that a question was asked for, as columns of its table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tin_bucket.core.columns.kind_registry import KINDS, converter
from tin_bucket.core.document.query import Brief
from tin_bucket.core.request.fan_out import fan_out_names
from tin_bucket.core.request.iterations import Iteration
from tin_bucket.core.request.parameters.models import Parameter

from .flatten import Cells
from .table import Table, TableColumn

FAN_OUT_ORIGIN = "for each"
# Kinds of parameters that are kinds of columns too; the values of the others are texts.
_ALSO = {kind.name for kind in KINDS}


def fan_out_names_of(brief: Brief, taken: Sequence[str]) -> dict[str, str]:
    """Parameter → name of its column, for the parameters that the question is asked for each value of.

    Args:
        taken: the names of the columns that the answers gave; a clash is told apart by a word.
    """
    named = {parameter.name: parameter.label or parameter.name for parameter in brief.parameters}
    used = set(taken)
    out = {}
    for name in fan_out_names(brief.each):
        column = named.get(name, name)
        while column in used:
            column = f"{column} asked for"
        used.add(column)
        out[name] = column
    return out


def add_fan_out_columns(
    brief: Brief, table: Table, iterations: Sequence[Iteration], iteration_of_page: Sequence[int]
) -> Table:
    """A new table with the values of its iterations as first columns.

    Args:
        iterations: the values of each iteration.
        iteration_of_page: for each page of the table the iteration that it belongs to.
    """
    columns: list[TableColumn] = []
    data: list[Cells] = []
    known = {parameter.name: parameter for parameter in brief.parameters}
    of_row = np.asarray(iteration_of_page, dtype=np.int64)[table.page].tolist() if table.height else []
    for name, column in fan_out_names_of(brief, [heading.name for heading in table.columns]).items():
        if not all(name in one for one in iterations):
            continue  # These answers were fetched before the question was asked for each of these.
        values = [_cell(known.get(name), one[name]) for one in iterations]
        data.append([values[index] for index in of_row])
        kind = _kind_of(known.get(name))
        columns.append(TableColumn(column, kind, FAN_OUT_ORIGIN, name))
    return replace(table, columns=[*columns, *table.columns], data=[*data, *table.data])


def _cell(parameter: Parameter | None, text: str) -> Any:
    return converter(_kind_of(parameter))(text)


def _kind_of(parameter: Parameter | None) -> str:
    return parameter.kind if parameter is not None and parameter.kind in _ALSO else "text"
