"""What a brief names of the workspace by name: other queries and sheets."""

from __future__ import annotations

from collections.abc import Iterable

from tin_bucket.core.request.fan_out import FanOutColumn, FanOutSheet
from tin_bucket.core.request.parameters.models import ChoiceParameter

from .query import Brief


def queries_named(brief: Brief) -> list[str]:
    """The queries whose tables a brief reads, each once."""
    names = [one.query for one in brief.each if isinstance(one, FanOutColumn)]
    for parameter in brief.parameters:
        if isinstance(parameter, ChoiceParameter) and parameter.choices_from is not None:
            names.append(parameter.choices_from.query)
    if brief.start is not None:
        names += [table.query for table in brief.start.tables if table.query]
    names += [source.query for line in brief.work_out for source in line.sources() if source.query]
    return list(dict.fromkeys(names))


def queries_behind(name: str, briefs: Iterable[tuple[str, Brief]]) -> list[str]:
    """The queries that start from a query's table, or from one that is made of it, each once, nearest first.

    Args:
        name: the query whose table changed; it is not among what is given.
        briefs: the queries by name.
    """
    reads = {one: set(queries_named(brief)) for one, brief in briefs if brief.start is not None and one != name}
    behind: list[str] = []
    while more := [one for one, read in reads.items() if one not in behind and read & {name, *behind}]:
        behind += more
    return behind


def sheets_named(brief: Brief) -> list[str]:
    """The sheets that a brief reads, each once."""
    names = [one.sheet for one in brief.each if isinstance(one, FanOutSheet)]
    if brief.sheet is not None and brief.sheet.sheet is not None:
        names.append(brief.sheet.sheet)
    if brief.start is not None:
        names += [table.sheet for table in brief.start.tables if table.sheet]
    names += [source.sheet for line in brief.work_out for source in line.sources() if source.sheet]
    return list(dict.fromkeys(names))


def rename_queries(brief: Brief, names: dict[str, str]) -> Brief:
    """The brief with new names for other queries; the same brief when it names none of them."""
    if not set(queries_named(brief)) & set(names):
        return brief
    each = [
        one.model_copy(update={"query": names.get(one.query, one.query)}) if isinstance(one, FanOutColumn) else one
        for one in brief.each
    ]
    parameters = []
    for parameter in brief.parameters:
        if isinstance(parameter, ChoiceParameter) and parameter.choices_from is not None:
            source = parameter.choices_from
            source = source.model_copy(update={"query": names.get(source.query, source.query)})
            parameter = parameter.model_copy(update={"choices_from": source})
        parameters.append(parameter)
    work_out = [line.with_names(names) for line in brief.work_out]
    start = brief.start
    if start is not None:
        start = start.model_copy(update={"tables": [table.renamed(names) for table in start.tables]})
    changed = {"each": each, "parameters": parameters, "work_out": work_out, "start": start}
    return brief.model_copy(update=changed)


def rename_services(brief: Brief, ids: dict[str, str]) -> Brief:
    """The brief with its services under other ids."""
    ask = brief.ask
    if ask is not None:
        ask = ask.model_copy(update={"service": ids.get(ask.service, ask.service)})
    look_up = [
        one.model_copy(update={"service": ids.get(one.service, one.service)}) if one.service else one
        for one in brief.look_up
    ]
    return brief.model_copy(update={"ask": ask, "look_up": look_up})
