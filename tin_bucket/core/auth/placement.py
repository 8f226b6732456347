"""How a key is put on a call: one table of placements.

A call is kept and shown without its key; the key goes on at the last moment, on a copy that nobody keeps.
"""

from __future__ import annotations

import base64
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import parse_qsl, quote, urlencode

from tin_bucket.core.formats.http import origin
from tin_bucket.core.formats.json import json_text, parse_json
from tin_bucket.core.formats.jsonpath import parse_place
from tin_bucket.core.masking import looks_secret
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call

from .credentials import Key, KeyPlace

MASK = "••••"
_MARK = "TINBUCKETKEYGOESHERE"  # Letters alone, so that it passes through every encoding unchanged.
Secret = Mapping[str, str]


def sign(call: Call, key: Key, secret: Secret) -> Call:
    """A copy of the call that carries the key.

    Args:
        secret: field → text: the fields that the places name, ``user`` and ``password`` for RFC 7617.

    Raises:
        ProblemError: ``key-unfit`` when the key cannot stand where it should go.
    """
    for place in key.places:
        if place.calls == "all" or (place.calls == "with body") == (call.body is not None):
            call = PLACEMENTS[place.at](call, place, secret, key.name)
    return call


def _header(call: Call, name: str, value: str, key: str) -> Call:
    if any(ord(char) < 0x20 or ord(char) > 0x7E for char in value):
        raise _unfit(key, "it holds a character that cannot stand in a header", "Paste the key alone, on one line.")
    others = tuple(pair for pair in call.headers if pair[0].lower() != name.lower())
    return replace(call, headers=(*others, (name, value)))


def _in_header(call: Call, place: Any, secret: Secret, key: str) -> Call:
    return _header(call, place.name, place.prefix + secret[place.field], key)


def _as_bearer(call: Call, place: Any, secret: Secret, key: str) -> Call:
    return _header(call, "Authorization", f"Bearer {secret[place.field]}", key)


def _as_basic(call: Call, place: Any, secret: Secret, key: str) -> Call:
    if "basic" in secret:
        return _header(call, "Authorization", f"Basic {secret['basic']}", key)
    if ":" in secret["user"]:
        raise _unfit(key, "the user holds a colon (RFC 7617 §2)", "Check the user's name.")
    return _header(call, "Authorization", f"Basic {basic_text(secret['user'], secret['password'])}", key)


def basic_text(user: str, password: str) -> str:
    """User and password as RFC 7617 §2 sends them, in UTF-8 (§2.1)."""
    return base64.b64encode(f"{user}:{password}".encode()).decode()


def _in_address(call: Call, place: Any, secret: Secret, key: str) -> Call:
    address, _, query = call.address.partition("?")
    name = quote(place.name, safe="")
    pieces = [piece for piece in query.split("&") if piece and piece.partition("=")[0] not in (name, place.name)]
    pieces.append(f"{name}={quote(secret[place.field], safe='')}")
    return replace(call, address=f"{address}?{'&'.join(pieces)}")


def _in_body(call: Call, place: Any, secret: Secret, key: str) -> Call:
    segments = [str(segment) for segment in parse_place(place.place) or ()]
    if call.body is None:
        raise _unfit(key, "it goes into the body, and this call has none", "Give the question a body.")
    if call.media_type() == FORM:
        fields = [pair for pair in parse_qsl(call.body.decode(), keep_blank_values=True) if pair[0] != segments[-1]]
        return replace(call, body=urlencode([*fields, (segments[-1], secret[place.field])]).encode())
    try:
        document = parse_json(call.body) if call.media_type().endswith("json") else None
    except ProblemError:
        document = None
    if not isinstance(document, dict):
        raise _unfit(key, "it goes into a JSON object or a form, and the body is neither", "Change the body's kind.")
    inner: dict[str, Any] = document
    for segment in segments[:-1]:
        found = inner.setdefault(segment, {})
        if not isinstance(found, dict):
            raise _unfit(key, f"“{segment}” in the body is not an object", "Change the place of the key.")
        inner = found
    inner[segments[-1]] = secret[place.field]
    return replace(call, body=json_text(document).encode())


def _unfit(key: str, what: str, do: str) -> Exception:
    return fail("key-unfit", f"The key “{key}” cannot be put on the call: {what}.", where=f"key {key}", do=do)


PLACEMENTS: dict[str, Callable[[Call, KeyPlace, Secret, str], Call]] = {
    "header": _in_header,
    "bearer": _as_bearer,
    "address": _in_address,
    "body": _in_body,
    "user and password": _as_basic,
}


def check_bound(key: Key, base: str, bound_to: str) -> None:
    """Make sure that a stored key goes nowhere but where it was stored for.

    Args:
        base: the service's base address as it is now.
        bound_to: the origins that the key was stored for (RFC 6454 §4).

    Raises:
        ProblemError: ``key-bound-elsewhere``.
    """
    now = key.bound_to(base)
    if not set(now.split()) <= set(bound_to.split()):
        raise fail(
            "key-bound-elsewhere",
            f"The key “{key.name}” was stored for {bound_to} and would now go to {now}.",
            where=origin(base),
            do="If the service has moved, put its key in again on the page Services and keys.",
        )


@dataclass(frozen=True, slots=True)
class ShownCall:
    """A call as people see it: the key's place is there, its text is not."""

    method: str
    address: str
    headers: list[tuple[str, str]]
    body: str | None


def _masked(text: str) -> str:
    return MASK


def shown(call: Call, key: Key | None, mask: Callable[[str], str] = _masked) -> ShownCall:
    """A call for the screen, a copied command or an export.

    Args:
        mask: gives what stands where a field of the key will be; its name is ``key`` for a header or parameter that
            only looks like one.
    """
    marks = {field: f"{_MARK}{at}X" for at, field in enumerate([*(key.wants() if key else []), "key", "basic"])}
    if key is not None and call.stage != "sign in":
        with suppress(ProblemError):  # What hinders the key is said when the call is made.
            call = sign(call, key, marks)

    def unmark(text: str) -> str:
        for field, mark in marks.items():
            text = text.replace(mark, mask(field))
        return text

    def value_of(name: str, value: str) -> str:
        return mask("key") if value and _MARK not in value and looks_secret(name) else unmark(value)

    address, _, query = call.address.partition("?")
    if query:
        pieces = [piece.partition("=") for piece in query.split("&")]
        address += "?" + "&".join(f"{name}{equals}{value_of(name, value)}" for name, equals, value in pieces)
    body = None if call.body is None else unmark(call.body.decode("utf-8", "replace"))
    return ShownCall(call.method, address, [(name, value_of(name, value)) for name, value in call.headers], body)
