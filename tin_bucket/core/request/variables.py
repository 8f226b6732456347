"""Scope: what each name in a template stands for in one call, written as it is sent."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, tzinfo
from typing import Any
from zoneinfo import ZoneInfo

from tin_bucket.core.formats.json import json_text

from .parameters.models import DateParameter, MomentParameter, MonthParameter, Parameter, Send, YesNoParameter
from .parameters.values import Given


@dataclass(frozen=True, slots=True)
class Value:
    """What a name stands for.

    Attributes:
        texts: the texts to send; none for an optional parameter that was left empty.
        typed: the same as JSON values, for a JSON body.
        many: whether this is a list, however many values it has.
        send: how a list is sent.
        separator: what stands between the values of a joined list.
    """

    texts: tuple[str, ...] = ()
    typed: tuple[Any, ...] = ()
    many: bool = False
    send: Send = "joined"
    separator: str = ","

    @property
    def absent(self) -> bool:
        """Whether there is no value."""
        return not self.texts

    def joined(self) -> str:
        """The value as one text."""
        if self.many and self.send == "json":
            return json_text(list(self.typed))
        return self.separator.join(self.texts)


Scope = Mapping[str, Value]


def one_text(text: str) -> Value:
    """A single text."""
    return Value((text,), (text,))


def make_scope(parameters: Sequence[Parameter], bindings: Mapping[str, Given], here: tzinfo = UTC) -> dict[str, Value]:
    """What the names of a query's templates stand for.

    A date has parts beside it, such as ``day.year``, ``day.month`` and ``day.day``, for a path like
    ``/{day.year}/{day.month}/{day.day}``.

    Args:
        parameters: the brief's parameters.
        bindings: values in their plain forms, as :func:`values.bind` gives them. A name that is no parameter stands
            for its text.
        here: the time zone of this machine.
    """
    scope: dict[str, Value] = {}
    known = {parameter.name: parameter for parameter in parameters}
    for name, given in bindings.items():
        texts = [] if given is None else given if isinstance(given, list) else [given]
        parameter = known.get(name)
        if parameter is None:
            scope[name] = Value(tuple(texts), tuple(texts), isinstance(given, list))
            continue
        typed = [_typed(parameter, text, here) for text in texts]
        many = parameter.many and not isinstance(given, str)
        written = tuple(_text(parameter, text, value) for text, value in zip(texts, typed, strict=True))
        scope[name] = Value(written, tuple(typed), many, parameter.send, parameter.separator)
        for part, take in _PARTS.get(parameter.kind, {}).items():
            parts = tuple(take(_moment(parameter, text, here)) for text in texts)
            scope[f"{name}.{part}"] = Value(parts, parts, many, parameter.send, parameter.separator)
    return scope


def part_names(parameter: Parameter) -> list[str]:
    """The names of a parameter's parts, such as ``day.year``; none for most kinds."""
    return [f"{parameter.name}.{part}" for part in _PARTS.get(parameter.kind, {})]


def _text(parameter: Parameter, text: str, typed: Any) -> str:
    """A value as it stands in an address; a number keeps the text that was typed."""
    if isinstance(parameter, YesNoParameter):
        return parameter.yes if text == "true" else parameter.no
    return text if isinstance(typed, float) else typed if isinstance(typed, str) else json_text(typed)


def _typed(parameter: Parameter, text: str, here: tzinfo) -> Any:
    """A value as it stands in a JSON body."""
    if isinstance(parameter, DateParameter | MomentParameter | MonthParameter):
        return _dated(parameter, text, here)
    if parameter.kind == "whole number":
        return int(text)
    if parameter.kind == "decimal":
        return float(text)
    if isinstance(parameter, YesNoParameter):
        own_words = (parameter.yes, parameter.no) != ("true", "false")
        yes = text == "true"
        return (parameter.yes if yes else parameter.no) if own_words else yes
    return text


def _moment(parameter: Parameter, text: str, here: tzinfo) -> datetime:
    name = getattr(parameter, "zone", "")
    zone = ZoneInfo(name) if name else here
    if parameter.kind == "date and time":
        return datetime.fromisoformat(text).astimezone(zone)
    day = date.fromisoformat(f"{text}-01" if parameter.kind == "month" else text)
    return datetime.combine(day, time(), zone)


def _dated(parameter: DateParameter | MomentParameter | MonthParameter, text: str, here: tzinfo) -> Any:
    if parameter.format == "iso":
        return text
    moment = _moment(parameter, text, here)
    if parameter.format == "epoch seconds":
        return int(moment.timestamp())
    if parameter.format == "epoch milliseconds":
        return int(moment.timestamp()) * 1000
    return moment.strftime(parameter.format)


_DAY: dict[str, Callable[[datetime], str]] = {
    "year": lambda moment: f"{moment.year:04}",
    "month": lambda moment: f"{moment.month:02}",
    "day": lambda moment: f"{moment.day:02}",
    "epoch": lambda moment: str(int(moment.timestamp())),
}
_PARTS: dict[str, dict[str, Callable[[datetime], str]]] = {
    "date": _DAY,
    "month": {name: take for name, take in _DAY.items() if name != "day"},
    "date and time": {
        **_DAY,
        "hour": lambda moment: f"{moment.hour:02}",
        "minute": lambda moment: f"{moment.minute:02}",
        "second": lambda moment: f"{moment.second:02}",
    },
}
