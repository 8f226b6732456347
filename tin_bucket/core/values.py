"""Parameter values: what was given and what is the default, turned into the texts that go into a call."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date

from .brief import ChoiceParameter, DateParameter, Parameter, RelativeDate
from .durations import anchor_date, parse_duration, shift_date
from .problem import fail

Bindings = dict[str, str | None]


def default_value(parameter: Parameter, today: date) -> str | None:
    """The value that a parameter has when nobody gives one, as text; ``None`` when it has none."""
    default = parameter.default
    if isinstance(default, RelativeDate):
        return shift_date(anchor_date(default.anchor, today), parse_duration(default.offset)).isoformat()
    if isinstance(default, date):
        return default.isoformat()
    return default


def bind(parameters: list[Parameter], given: Mapping[str, str | None], today: date) -> Bindings:
    """Give every parameter its value: the given one, else the default.

    Args:
        parameters: the brief's parameters.
        given: parameter name → text; an absent name or ``None`` means "take the default".
        today: what "today" means for relative dates.

    Returns:
        Parameter name → text, or ``None`` for an optional parameter that was left empty.

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
    return {parameter.name: _value(parameter, given.get(parameter.name), today) for parameter in parameters}


def _value(parameter: Parameter, given: str | None, today: date) -> str | None:
    text = default_value(parameter, today) if given is None else given
    if text is None or (text == "" and not isinstance(parameter, ChoiceParameter)):
        if parameter.required:
            raise fail(
                "parameter-missing",
                f"The parameter “{parameter.label or parameter.name}” has no value.",
                where=f"parameter {parameter.name}",
                do="Give it a value, give it a default, or make it optional.",
            )
        return None
    if isinstance(parameter, DateParameter):
        return _date(parameter.name, text, today)
    if isinstance(parameter, ChoiceParameter) and text not in {choice.code for choice in parameter.choices}:
        offered = ", ".join(choice.code for choice in parameter.choices[:12])
        raise fail(
            "parameter-unfit",
            f"“{text}” is not one of the choices of “{parameter.name}”.",
            where=f"parameter {parameter.name}",
            do=f"Choose one of: {offered}.",
        )
    return text


def _date(name: str, text: str, today: date) -> str:
    """A date as YYYY-MM-DD, or an ISO 8601 duration counted from today."""
    try:
        if text.lstrip("+-").startswith("P"):
            return shift_date(today, parse_duration(text)).isoformat()
        return date.fromisoformat(text).isoformat()
    except ValueError as error:
        raise fail(
            "parameter-unfit",
            f"“{text}” is not a date.",
            where=f"parameter {name}",
            do="Write it as YYYY-MM-DD, or as a duration from today such as -P7D.",
        ) from error
