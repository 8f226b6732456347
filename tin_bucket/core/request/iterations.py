"""For each: one question asked for many values, each of them an iteration."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from datetime import date, timedelta

from tin_bucket.core.formats.durations import parse_duration, shift_date
from tin_bucket.core.problem import fail

from .fan_out import (
    FanOut,
    FanOutColumn,
    FanOutList,
    FanOutParameter,
    FanOutRange,
    FanOutSheet,
    OfParameter,
    fan_out_names,
    iterations_words,
)
from .parameters.kinds import plain_form
from .parameters.models import DateParameter, Parameter, RelativeDate
from .parameters.moment import Moment
from .parameters.values import Bindings, default_value

MAX_ITERATIONS = 100_000
Iteration = dict[str, str]


def plan_iterations(
    each: Sequence[FanOut],
    parameters: Sequence[Parameter],
    bindings: Bindings,
    moment: Moment,
    read: Mapping[int, Sequence[Mapping[str, str]]],
) -> list[Iteration]:
    """The iterations of a question: every combination of the values, in order, each once.

    Args:
        each: what the question is asked for; without any there is one iteration, without values of its own.
        parameters: the brief's parameters.
        bindings: the values of the parameters, for those that come from a list parameter.
        moment: what relative dates count from.
        read: index in `each` → values that were read from a table or a sheet, parameter → text.

    Raises:
        ProblemError: ``each-unfit`` or ``parameter-unfit``, before any call is made.
    """
    known = {parameter.name: parameter for parameter in parameters}
    names = fan_out_names(each)
    for name in names:
        if name not in known:
            raise _unfit(f"“{name}” is not a parameter of this query.", "Choose one of its parameters.")
        if names.count(name) > 1:
            raise _unfit(f"“{name}” gets its values twice.", "Remove one of the two.")
    lists = [list(_values(at, one, known, bindings, moment, read)) for at, one in enumerate(each)]
    count = 1
    for one, values in zip(each, lists, strict=True):
        if not values:
            raise _unfit(f"There is no value to ask for ({_source_words(one)}).", "Fill it, or choose other values.")
        count *= len(values)
    if count > MAX_ITERATIONS:
        raise _unfit(
            f"That makes {iterations_words(each, count)}; {MAX_ITERATIONS:,} are the most.",
            "Ask for fewer values, or split the query.",
        )
    iterations = []
    for combination in itertools.product(*lists):
        merged: Iteration = {}
        for part in combination:
            for name, text in part.items():
                merged[name] = plain_form(known[name], text, moment)
        iterations.append(merged)
    return list({tuple(one.items()): one for one in iterations}.values())


def _values(
    at: int,
    one: FanOut,
    known: Mapping[str, Parameter],
    bindings: Bindings,
    moment: Moment,
    read: Mapping[int, Sequence[Mapping[str, str]]],
) -> Iterator[Iteration]:
    if isinstance(one, FanOutList):
        yield from ({one.parameter: value} for value in one.values if value.strip())
    elif isinstance(one, FanOutParameter):
        given = bindings.get(one.parameter)
        yield from ({one.parameter: value} for value in ([given] if isinstance(given, str) else given or []))
    elif isinstance(one, FanOutRange):
        zone = getattr(known[one.parameter], "zone", "")
        ends = [_day(edge, moment, zone, known, bindings) for edge in (one.start, one.end)]
        yield from ({one.parameter: text} for text in _range(one, known[one.parameter], *ends))
    else:
        yield from (dict(values) for values in read.get(at, []) if all(text.strip() for text in values.values()))


def _range(one: FanOutRange, parameter: Parameter, start: date, end: date) -> Iterator[str]:
    if parameter.kind not in ("date", "date and time", "month", "text"):
        raise _unfit(
            f"“{parameter.name}” is a {parameter.kind}, and the values are dates.",
            "Make it a date or a month, or ask for other values.",
        )
    if end < start:
        raise _unfit(f"The range ends on {end}, before it starts on {start}.", "Let it end later.")
    if one.step == "week":
        start -= timedelta(days=start.weekday())
    if one.step == "month":
        start = start.replace(day=1)
    step = parse_duration({"day": "P1D", "week": "P1W", "month": "P1M"}[one.step])
    while start <= end:
        yield start.isoformat()[:7] if parameter.kind == "month" else start.isoformat()
        start = shift_date(start, step)


def _day(
    edge: date | RelativeDate | OfParameter,
    moment: Moment,
    zone: str,
    known: Mapping[str, Parameter],
    bindings: Bindings,
) -> date:
    if isinstance(edge, date):
        return edge
    if isinstance(edge, OfParameter):
        return _day_of(edge.parameter, known, bindings)
    found = default_value(DateParameter(name="edge", default=edge, zone=zone), moment)
    if not isinstance(found, str):
        raise _unfit("The range starts at the last refresh, and there has been none.", "Give it a first date.")
    return date.fromisoformat(found)


def _day_of(name: str, known: Mapping[str, Parameter], bindings: Bindings) -> date:
    """The day that a parameter names: of a month its first, of a moment its date."""
    if name not in known:
        raise _unfit(
            f"The range ends at “{name}”, which is not a parameter of this query.", "Choose one of its parameters."
        )
    text = bindings.get(name)
    if not isinstance(text, str) or not text:
        raise _unfit(f"The range needs a value of “{name}”.", f"Give “{name}” a date.")
    try:
        return date.fromisoformat(f"{text}-01" if len(text) == 7 else text[:10])
    except ValueError as error:
        raise _unfit(f"“{text[:40]}”, the value of “{name}”, is no date.", "Make it a date, or a month.") from error


def _source_words(one: FanOut) -> str:
    if isinstance(one, FanOutColumn):
        return f"column “{one.column}” of “{one.query}”"
    if isinstance(one, FanOutSheet):
        return f"sheet “{one.sheet}”"
    return f"values of “{one.parameter}”"


def _unfit(what: str, do: str) -> Exception:
    return fail("each-unfit", what, where="for each", do=do)


def iteration_label(one: Iteration) -> str:
    """What distinguishes an iteration from its neighbours, such as ``2026-11-24`` or ``harl-oxnith, 2026-11``."""
    return ", ".join(one.values())
