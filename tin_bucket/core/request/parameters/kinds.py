"""The registry of parameter kinds: what a parameter takes, how its form is drawn, and how a typed value is read.

A further kind is a model in :mod:`models` and an entry here.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from tin_bucket.core.choice import Choice, FormField, Option
from tin_bucket.core.formats.durations import parse_duration, shift_date
from tin_bucket.core.problem import fail

from .models import (
    DAY_ANCHORS,
    ChoiceParameter,
    DateParameter,
    DecimalParameter,
    MomentParameter,
    MonthParameter,
    Parameter,
    TextParameter,
    WholeParameter,
    YesNoParameter,
)
from .moment import Moment, moment_text, shift_moment

_WHOLE = re.compile(r"[+-]?\d+\Z")
_YES, _NO = {"true", "yes", "y", "1", "on"}, {"false", "no", "n", "0", "off"}


def unfit(parameter: Parameter, what: str, do: str) -> Exception:
    """The problem of a value that does not fit its parameter."""
    return fail("parameter-unfit", what[:1].upper() + what[1:], where=f"parameter {parameter.name}", do=do)


def _as_it_is(parameter: Parameter, text: str, moment: Moment) -> str:
    return text


@dataclass(frozen=True, slots=True, kw_only=True)
class ParameterKind(Choice[Any]):
    """A kind of parameter.

    Attributes:
        phrase: what a value is, such as “a whole number”.
        holds: what a value is in a document.
        typed_as: the type of its input (HTML, 4.10.5.1).
        anchors: what a value that moves with the calendar counts from; none where values do not move.
        units: the steps by which it moves.
        read: reads a typed value into the plain form of the kind.
    """

    holds: Literal["text", "whole number", "number", "yes/no"] = "text"
    typed_as: Literal["text", "date", "datetime-local", "month"] = "text"
    anchors: tuple[str, ...] = ()
    units: tuple[Option, ...] = ()
    read: Callable[[Parameter, str, Moment], str] = _as_it_is


def _whole(parameter: Parameter, text: str, moment: Moment) -> str:
    if not _WHOLE.match(text.strip()):
        raise unfit(parameter, f"“{text}” is not a whole number.", "Write digits alone, such as 25.")
    return text.strip().removeprefix("+")


def _decimal(parameter: Parameter, text: str, moment: Moment) -> str:
    try:
        fits = math.isfinite(float(text)) and "_" not in text
    except ValueError:
        fits = False
    if not fits:
        raise unfit(parameter, f"“{text}” is not a number.", "Write it with a point, such as 2.5.")
    return text.strip().removeprefix("+")


def _yes_no(parameter: Parameter, text: str, moment: Moment) -> str:
    word = text.strip().lower()
    if isinstance(parameter, YesNoParameter) and word in (parameter.yes.lower(), parameter.no.lower()):
        return "true" if word == parameter.yes.lower() else "false"
    if word in _YES or word in _NO:
        return "true" if word in _YES else "false"
    raise unfit(parameter, f"“{text}” is neither yes nor no.", "Write yes or no.")


def _choice(parameter: Parameter, text: str, moment: Moment) -> str:
    choices = parameter.choices if isinstance(parameter, ChoiceParameter) else []
    if choices and text not in {choice.code for choice in choices}:
        offered = ", ".join(choice.code for choice in choices[:12])
        raise unfit(
            parameter, f"“{text}” is not one of the choices of “{parameter.name}”.", f"Choose one of: {offered}."
        )
    return text


def _date(parameter: Parameter, text: str, moment: Moment) -> str:
    """A date as YYYY-MM-DD, or an ISO 8601 duration counted from today."""
    try:
        if text.lstrip("+-").startswith("P"):
            return shift_date(moment.today(getattr(parameter, "zone", "")), parse_duration(text)).isoformat()
        return date.fromisoformat(text.strip()).isoformat()
    except ValueError as error:
        raise unfit(
            parameter,
            f"“{text}” is not a date.",
            "Write it as YYYY-MM-DD, or as a duration from today such as -P7D.",
        ) from error


def _date_and_time(parameter: Parameter, text: str, moment: Moment) -> str:
    """A moment as ISO 8601, in the parameter's zone unless it says its own, or a duration counted from now."""
    where = moment.zone(getattr(parameter, "zone", ""))
    try:
        if text.lstrip("+-").startswith("P"):
            return moment_text(shift_moment(moment.now.astimezone(where).replace(microsecond=0), text))
        found = datetime.fromisoformat(text.strip())
        return moment_text(found if found.tzinfo else found.replace(tzinfo=where))
    except ValueError as error:
        raise unfit(
            parameter,
            f"“{text}” is not a date and time.",
            "Write it as 2026-11-25T07:30, or as a duration from now such as -PT6H.",
        ) from error


def _month(parameter: Parameter, text: str, moment: Moment) -> str:
    try:
        if text.lstrip("+-").startswith("P"):
            today = moment.today(getattr(parameter, "zone", "")).replace(day=1)
            return shift_date(today, parse_duration(text)).isoformat()[:7]
        if not re.match(r"\d{4}-\d{2}(-\d{2})?\Z", text.strip()):
            raise ValueError(text)
        return date.fromisoformat(f"{text.strip()[:7]}-01").isoformat()[:7]
    except ValueError as error:
        raise unfit(parameter, f"“{text}” is not a month.", "Write it as YYYY-MM, such as 2026-11.") from error


_DAY_UNITS = (Option("D", "days"), Option("W", "weeks"), Option("M", "months"), Option("Y", "years"))
_UNITS = (Option("TM", "minutes"), Option("TH", "hours"), *_DAY_UNITS)
_DATED = (FormField("zone", "Time zone", kind="text", placeholder="that of this machine"),)
_YES_NO = (
    FormField("yes", "Yes is sent as", kind="code", required=True),
    FormField("no", "No is sent as", kind="code", required=True),
)

# In the order in which they are offered.
PARAMETER_KINDS: tuple[ParameterKind, ...] = (
    ParameterKind(key="text", model=TextParameter, label="text", phrase="a text"),
    ParameterKind(
        key="whole number",
        model=WholeParameter,
        label="whole number",
        phrase="a whole number",
        holds="whole number",
        read=_whole,
    ),
    ParameterKind(
        key="decimal", model=DecimalParameter, label="number", phrase="a number", holds="number", read=_decimal
    ),
    ParameterKind(
        key="yes/no",
        model=YesNoParameter,
        label="yes or no",
        phrase="yes or no",
        fields=_YES_NO,
        holds="yes/no",
        read=_yes_no,
    ),
    ParameterKind(key="choice", model=ChoiceParameter, label="choice of codes", phrase="a code", read=_choice),
    ParameterKind(
        key="date",
        model=DateParameter,
        label="date",
        phrase="a date",
        fields=_DATED,
        typed_as="date",
        anchors=DAY_ANCHORS,
        units=_DAY_UNITS,
        read=_date,
    ),
    ParameterKind(
        key="date and time",
        model=MomentParameter,
        label="date and time",
        phrase="a date and time",
        fields=_DATED,
        typed_as="datetime-local",
        anchors=("now", *DAY_ANCHORS),
        units=_UNITS,
        read=_date_and_time,
    ),
    ParameterKind(
        key="month",
        model=MonthParameter,
        label="month",
        phrase="a month",
        fields=_DATED,
        typed_as="month",
        anchors=DAY_ANCHORS,
        units=_DAY_UNITS,
        read=_month,
    ),
)
_BY_KEY = {kind.key: kind for kind in PARAMETER_KINDS}

# How a date can be written when it is sent; anything else is a pattern.
DATE_FORMATS = (
    Option("iso", "as ISO 8601"),
    Option("epoch seconds", "seconds since 1970"),
    Option("epoch milliseconds", "milliseconds since 1970"),
)


def plain_form(parameter: Parameter, text: str, moment: Moment) -> str:
    """One value of a parameter in the plain form of its kind.

    Raises:
        ProblemError: ``parameter-unfit``, which names the parameter and says what it takes.
    """
    return _BY_KEY[parameter.kind].read(parameter, text, moment)
