"""Parameter values: what was given and what is the default, as texts of one plain form for each kind.

The plain forms: ``12``, ``1.5``, ``true``, ``2026-11-25``, ``2026-11-25T07:30:00+00:00``, ``2026-11``. How a value
is written when it is sent is the business of :mod:`scope`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from zoneinfo import ZoneInfo

from tin_bucket.core.formats.durations import anchor_date, parse_duration, shift_date
from tin_bucket.core.problem import fail

from .parameters import ChoiceParameter, MonthParameter, Parameter, RelativeDate, RelativeMoment, YesNoParameter

Given = str | list[str] | None
Bindings = dict[str, Given]
_WHOLE = re.compile(r"[+-]?\d+\Z")
_YES, _NO = {"true", "yes", "y", "1", "on"}, {"false", "no", "n", "0", "off"}


@dataclass(frozen=True, slots=True)
class Moment:
    """What relative dates count from.

    Attributes:
        now: this moment, in the time zone of this machine.
        last_refresh: when the query was refreshed last, if it ever was.
    """

    now: datetime
    last_refresh: datetime | None = None

    def zone(self, name: str) -> tzinfo:
        """A parameter's time zone; this machine's when the name is empty."""
        return ZoneInfo(name) if name else (self.now.tzinfo or UTC)

    def today(self, zone: str = "") -> date:
        """The date that it is now in a zone."""
        return self.now.astimezone(self.zone(zone)).date()


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
        day = _anchored_day(default, moment, zone)
        if day is None:
            return None
        return day.isoformat()[:7] if isinstance(parameter, MonthParameter) else day.isoformat()
    if isinstance(default, RelativeMoment):
        found = _anchored_moment(default, moment, zone)
        return None if found is None else _moment_text(found)
    if isinstance(default, datetime):
        return _moment_text(default if default.tzinfo else default.replace(tzinfo=moment.zone(zone)))
    if isinstance(default, date):
        return default.isoformat()
    if isinstance(default, bool):
        return "true" if default else "false"
    return None if default is None else str(default)


def _anchored_day(relative: RelativeDate, moment: Moment, zone: str) -> date | None:
    if relative.anchor == "last refresh":
        if moment.last_refresh is None:
            return relative.first
        anchor = moment.last_refresh.astimezone(moment.zone(zone)).date()
    else:
        anchor = anchor_date(relative.anchor, moment.today(zone))
    return shift_date(anchor, parse_duration(relative.offset))


def _anchored_moment(relative: RelativeMoment, moment: Moment, zone: str) -> datetime | None:
    where = moment.zone(zone)
    if relative.anchor == "now":
        start = moment.now.astimezone(where).replace(microsecond=0)
    elif relative.anchor == "last refresh":
        if moment.last_refresh is None:
            first = relative.first
            return first if first is None or first.tzinfo else first.replace(tzinfo=where)
        start = moment.last_refresh.astimezone(where)
    else:
        start = datetime.combine(anchor_date(relative.anchor, moment.today(zone)), time(), where)
    return shift_moment(start, relative.offset)


def shift_moment(start: datetime, offset: str) -> datetime:
    """Move a moment by an ISO 8601 duration: days by the calendar of its zone, hours by the clock.

    Raises:
        ValueError: the result lies outside the years 1 to 9999.
    """
    span = parse_duration(offset)
    day = shift_date(start.date(), type(span)(span.months, span.days, 0))
    local = datetime.combine(day, start.timetz())
    try:
        return (local.astimezone(UTC) + timedelta(seconds=span.seconds)).astimezone(start.tzinfo)
    except OverflowError as error:
        raise ValueError("the moment lies outside the years 1 to 9999") from error


def _moment_text(value: datetime) -> str:
    return value.isoformat(timespec="seconds")


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
        raise _unfit(parameter, str(error), "Give it another date.") from error
    if isinstance(value, list) and not parameter.many:
        if len(value) != 1:
            raise _unfit(parameter, f"“{parameter.name}” takes one value, and {len(value)} were given.", "Give one.")
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


def plain_form(parameter: Parameter, text: str, moment: Moment) -> str:
    """One value of a parameter in the plain form of its kind.

    Raises:
        ProblemError: ``parameter-unfit``, which names the parameter and says what it takes.
    """
    return _READERS.get(parameter.kind, _as_it_is)(parameter, text, moment)


def _unfit(parameter: Parameter, what: str, do: str) -> Exception:
    return fail("parameter-unfit", what[:1].upper() + what[1:], where=f"parameter {parameter.name}", do=do)


def _as_it_is(parameter: Parameter, text: str, moment: Moment) -> str:
    return text


def _whole(parameter: Parameter, text: str, moment: Moment) -> str:
    if not _WHOLE.match(text.strip()):
        raise _unfit(parameter, f"“{text}” is not a whole number.", "Write digits alone, such as 25.")
    return text.strip().removeprefix("+")


def _decimal(parameter: Parameter, text: str, moment: Moment) -> str:
    try:
        fits = math.isfinite(float(text)) and "_" not in text
    except ValueError:
        fits = False
    if not fits:
        raise _unfit(parameter, f"“{text}” is not a number.", "Write it with a point, such as 2.5.")
    return text.strip().removeprefix("+")


def _yes_no(parameter: Parameter, text: str, moment: Moment) -> str:
    word = text.strip().lower()
    if isinstance(parameter, YesNoParameter) and word in (parameter.yes.lower(), parameter.no.lower()):
        return "true" if word == parameter.yes.lower() else "false"
    if word in _YES or word in _NO:
        return "true" if word in _YES else "false"
    raise _unfit(parameter, f"“{text}” is neither yes nor no.", "Write yes or no.")


def _choice(parameter: Parameter, text: str, moment: Moment) -> str:
    choices = parameter.choices if isinstance(parameter, ChoiceParameter) else []
    if choices and text not in {choice.code for choice in choices}:
        offered = ", ".join(choice.code for choice in choices[:12])
        raise _unfit(
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
        raise _unfit(
            parameter,
            f"“{text}” is not a date.",
            "Write it as YYYY-MM-DD, or as a duration from today such as -P7D.",
        ) from error


def _date_and_time(parameter: Parameter, text: str, moment: Moment) -> str:
    """A moment as ISO 8601, in the parameter's zone unless it says its own, or a duration counted from now."""
    where = moment.zone(getattr(parameter, "zone", ""))
    try:
        if text.lstrip("+-").startswith("P"):
            return _moment_text(shift_moment(moment.now.astimezone(where).replace(microsecond=0), text))
        found = datetime.fromisoformat(text.strip())
        return _moment_text(found if found.tzinfo else found.replace(tzinfo=where))
    except ValueError as error:
        raise _unfit(
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
        raise _unfit(parameter, f"“{text}” is not a month.", "Write it as YYYY-MM, such as 2026-11.") from error


_READERS: dict[str, Callable[[Parameter, str, Moment], str]] = {
    "whole number": _whole,
    "decimal": _decimal,
    "yes/no": _yes_no,
    "choice": _choice,
    "date": _date,
    "date and time": _date_and_time,
    "month": _month,
}
