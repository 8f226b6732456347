"""Writes the values of parameters into a brief's question, so that it asks the same without them."""

from __future__ import annotations

import re
from collections.abc import Collection
from datetime import UTC
from typing import Any
from urllib.parse import quote

from tin_bucket.core.base import Pair
from tin_bucket.core.request.ask import Ask
from tin_bucket.core.request.bodies import Body
from tin_bucket.core.request.fan_out import fan_out_names
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import default_value
from tin_bucket.core.request.templates import IN_TEXT, literal_text, sole_name
from tin_bucket.core.request.variables import Scope, make_scope, part_names

from .lint import used_names
from .query import Brief

# What may stand for itself in a template and be no part of its syntax; all else is percent-encoded (RFC 6570 §3.1).
_PLAIN = " -._~"


def fix_parameters(brief: Brief, names: Collection[str], moment: Moment) -> Brief:
    """A brief whose question holds the default values of some parameters in their place.

    A parameter stays where something else still names it, or where it has no default or several.
    """
    if brief.ask is None:
        return brief
    fixed = [parameter for parameter in brief.parameters if parameter.name in names and not parameter.many]
    values = {parameter.name: default_value(parameter, moment) for parameter in fixed}
    given = {name: value for name, value in values.items() if value is not None}
    ask = with_values(brief.ask, make_scope(fixed, given, moment.now.tzinfo or UTC))
    changed = brief.model_copy(update={"ask": ask})
    used = used_names(changed, ask) | set(fan_out_names(brief.each))
    left = [one for one in brief.parameters if one.name not in given or used & {one.name, *part_names(one)}]
    return changed.model_copy(update={"parameters": left})


def with_values(ask: Ask, scope: Scope) -> Ask:
    """A question with the values of `scope` in the place of its names.

    Its call is the same one as before: a value stands for itself, whatever characters it holds, and keeps its kind
    where it is a whole text of a JSON body. Names in other expressions than ``{name}`` stay, and so do lists.
    """
    one = {name: value for name, value in scope.items() if len(value.texts) == 1 and not value.many}
    return ask.model_copy(
        update={
            "path": _in_template(ask.path, one),
            "query": [_pair(pair, one, address=True) for pair in ask.query],
            "headers": [_pair(pair, one) for pair in ask.headers],
            "body": _in_body(ask.body, one),
        }
    )


def _in_template(template: str, scope: Scope) -> str:
    def put(match: re.Match[str]) -> str:
        value = scope.get(match[1])
        if value is None:
            return match[0]
        # Letters of every script stay readable: the call encodes them.
        return "".join(char if char.isalnum() or char in _PLAIN else quote(char, safe="") for char in value.joined())

    return re.sub(r"\{([A-Za-z_][A-Za-z0-9_.]*)\}", put, template)


def _in_text(text: str, scope: Scope) -> str:
    def put(match: re.Match[str]) -> str:
        if match["literal"]:
            return match[0]
        value = scope.get(match["name"])
        return match[0] if value is None else literal_text(value.joined())

    return IN_TEXT.sub(put, text)


def _pair(pair: Pair, scope: Scope, address: bool = False) -> Pair:
    put = _in_template if address else _in_text
    value = None if pair.value is None else put(pair.value, scope)
    return pair.model_copy(update={"name": _in_text(pair.name, scope), "value": value})


def _in_body(body: Body | None, scope: Scope) -> Body | None:
    if body is None:
        return None
    if body.kind == "json":
        return body.model_copy(update={"value": _in_json(body.value, scope)})
    if body.kind == "text":
        return body.model_copy(update={"text": _in_text(body.text, scope)})
    return body.model_copy(update={"fields": [_pair(field, scope) for field in body.fields]})


def _in_json(value: Any, scope: Scope) -> Any:
    if isinstance(value, str):
        name = sole_name(value)
        found = scope.get(name) if name is not None else None
        if found is None:
            return _in_text(value, scope)
        typed = found.typed[0]
        return literal_text(typed) if isinstance(typed, str) else typed
    if isinstance(value, dict):
        return {_in_text(key, scope): _in_json(item, scope) for key, item in value.items()}
    if isinstance(value, list):
        return [_in_json(item, scope) for item in value]
    return value
