"""Parameter values: what was given and what is the default, as texts of one plain form for each kind.

The plain forms: ``12``, ``1.5``, ``true``, ``2026-11-25``, ``2026-11-25T07:30:00+00:00``, ``2026-11``. How a value
is written when it is sent is the business of :mod:`tin_bucket.core.request.variables`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime

from tin_bucket.core.problem import fail

from .kinds import plain_form, unfit
from .models import ChoiceParameter, MonthParameter, Parameter, RelativeDate, RelativeMoment
from .moment import Moment, anchored_day, anchored_moment, moment_text

Given = str | list[str] | None
Bindings = dict[str, Given]


def default_value(parameter: Parameter, moment: Moment) -> Given:
    """The value that a parameter has when nobody gives one, in its plain form; ``None`` when it has none."""
    default = parameter.default
    if isinstance(default, list):
        found = [_default_text(one, parameter, moment) for one in default]
        return [text for text in found if text is not None]
    return _default_text(default, parameter, moment)


def _default_text(default: object, parameter: Parameter, moment: Moment) -> str | None:
    zone = getattr(parameter, "zone", "")
    if isinstance(default, RelativeDate):
        day = anchored_day(default, moment, zone)
        if day is None:
            return None
        return day.isoformat()[:7] if isinstance(parameter, MonthParameter) else day.isoformat()
    if isinstance(default, RelativeMoment):
        found = anchored_moment(default, moment, zone)
        return None if found is None else moment_text(found)
    if isinstance(default, datetime):
        return moment_text(default if default.tzinfo else default.replace(tzinfo=moment.zone(zone)))
    if isinstance(default, date):
        return default.isoformat()
    if isinstance(default, bool):
        return "true" if default else "false"
    return None if default is None else str(default)


def bind(parameters: Sequence[Parameter], given: Mapping[str, Given], moment: Moment) -> Bindings:
    """Give every parameter its value: the given one, else the default.

    Args:
        parameters: the brief's parameters.
        given: parameter name → text or list of texts; an absent name or ``None`` means "take the default".
        moment: what "today" and "last refresh" mean for relative dates.

    Returns:
        Parameter name → its value in the plain form of its kind, a list of them, or ``None`` for an optional
        parameter that was left empty.

    Raises:
        ProblemError: ``parameter-unknown``, ``parameter-missing`` or ``parameter-unfit``.
    """
    names = {parameter.name for parameter in parameters}
    for name in given:
        if name not in names:
            known = ", ".join(sorted(names)) or "none"
            raise fail(
                "parameter-unknown",
                f"There is no parameter “{name}”.",
                where=f"parameter {name}",
                do=f"This query's parameters: {known}.",
            )
    return {parameter.name: _value(parameter, given.get(parameter.name), moment) for parameter in parameters}


def _value(parameter: Parameter, given: Given, moment: Moment) -> Given:
    try:
        value = default_value(parameter, moment) if given is None else given
    except ValueError as error:
        raise unfit(parameter, str(error), "Give it another date.") from error
    if isinstance(value, list) and not parameter.many:
        if len(value) != 1:
            raise unfit(parameter, f"“{parameter.name}” takes one value, and {len(value)} were given.", "Give one.")
        value = value[0]
    if isinstance(value, str) and parameter.many:
        value = split_values(value)
    empty_text = value == "" and not isinstance(parameter, ChoiceParameter)
    if value is None or value == [] or empty_text:
        if parameter.required:
            raise _missing(parameter)
        return None
    if isinstance(value, list):
        return [plain_form(parameter, one, moment) for one in value]
    return plain_form(parameter, value, moment)


def _missing(parameter: Parameter) -> Exception:
    since = getattr(parameter.default, "anchor", "") == "last refresh"
    return fail(
        "parameter-missing",
        f"The parameter “{parameter.label or parameter.name}” has no value"
        + (": there has been no refresh yet." if since else "."),
        where=f"parameter {parameter.name}",
        do="Give it a value for this first time, or a first date."
        if since
        else "Give it a value, give it a default, or make it optional.",
    )


def split_values(text: str) -> list[str]:
    """A typed or pasted list: one value a line, or else separated by tabs, semicolons or commas."""
    for separator in ("\n", "\t", ";", ","):
        if separator in text:
            return [part.strip() for part in text.split(separator) if part.strip()]
    return [text.strip()] if text.strip() else []
