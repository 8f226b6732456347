"""Puts a value on a call that is made already: into its address, a header or its body."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal
from urllib.parse import parse_qsl, urlencode, urlsplit

from tin_bucket.core.formats.json import json_text, parse_json
from tin_bucket.core.formats.jsonpath import parse_place
from tin_bucket.core.problem import ProblemError, fail

from .bodies import FORM
from .build import with_query
from .call import Call


def put(call: Call, at: ParameterLocation, values: dict[str, Any], label: str = "") -> Call:
    """The same call with some values set, or without those that are ``None``.

    Args:
        at: where the values go.
        values: name → value. In a JSON body a name that starts with ``$.`` is a place, any other a member.

    Raises:
        ProblemError: ``pages-unfit``: the body is none that a value can be put into.
    """
    call = replace(call, label=label or call.label)
    if at == "header":
        lower = {name.lower() for name in values}
        headers = [pair for pair in call.headers if pair[0].lower() not in lower]
        headers += [(name, as_text(value)) for name, value in values.items() if value is not None]
        return replace(call, headers=tuple(headers))
    if at == "address":
        changes = {name: None if value is None else as_text(value) for name, value in values.items()}
        return with_query(call, changes)
    return _in_body(call, values)


def as_text(value: Any) -> str:
    """A JSON value as a parameter takes it."""
    return value if isinstance(value, str) else json_text(value)


def _in_body(call: Call, values: dict[str, Any]) -> Call:
    if call.media_type() == FORM:
        sent = parse_qsl((call.body or b"").decode(), keep_blank_values=True)
        fields = [pair for pair in sent if pair[0] not in values]
        fields += [(name, as_text(value)) for name, value in values.items() if value is not None]
        return replace(call, body=urlencode(fields).encode())
    document = body_document(call)
    if not isinstance(document, dict):
        raise fail(
            "pages-unfit",
            "The pages are turned in the body, and the question has no JSON object and no form there.",
            where="turn pages",
            do="Give the question such a body, or put the parameter into the address.",
        )
    for name, value in values.items():
        steps = [str(step) for step in (parse_place(name) or ())] if name.startswith(("$.", "$[")) else [name]
        inner: dict[str, Any] = document
        for step in steps[:-1]:
            found = inner.get(step)
            if not isinstance(found, dict):
                found = inner[step] = {}
            inner = found
        if value is None:
            inner.pop(steps[-1], None)
        else:
            inner[steps[-1]] = value
    return replace(call, body=json_text(document).encode())


def body_document(call: Call) -> Any:
    """The JSON document of a call's body; ``None`` when it has none."""
    if call.body is None or not call.media_type().endswith("json"):
        return None
    try:
        return parse_json(call.body)
    except ProblemError:
        return None


def sent_value(call: Call, at: ParameterLocation, name: str) -> str | None:
    """What a call sends under a name, as text; ``None`` when it is not there."""
    if at == "header":
        return next((value for own, value in call.headers if own.lower() == name.lower()), None)
    if at == "address":
        return dict(parse_qsl(urlsplit(call.address).query, keep_blank_values=True)).get(name)
    if call.media_type() == FORM:
        return dict(parse_qsl((call.body or b"").decode(), keep_blank_values=True)).get(name)
    inner = body_document(call)
    for step in (parse_place(name) or ()) if name.startswith(("$.", "$[")) else (name,):
        inner = inner.get(str(step)) if isinstance(inner, dict) else None
    return None if inner is None else as_text(inner)


ParameterLocation = Literal["address", "header", "body"]
