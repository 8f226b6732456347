"""How a key is put on a call, and how a call is shown without it.

A call is kept and shown without its key; the key is added at the last moment, to a copy that is not kept.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

from tin_bucket.core.formats.http import origin
from tin_bucket.core.masking.looks import looks_secret
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.call import Call

from .credentials import Key
from .place import Secret, unfit
from .placements.body import NO_BODY, BodyPlace
from .source import SIGN_IN

MASK = "••••"


_MARK = "TINBUCKETKEYGOESHERE"  # Letters alone, so that it passes through every encoding unchanged.


def sign(call: Call, key: Key, secret: Secret) -> Call:
    """A copy of the call that carries the key.

    Args:
        secret: field → text: the fields that the places name, ``user`` and ``password`` for RFC 7617.

    Raises:
        ProblemError: ``key-unfit`` when the key cannot stand where it should go.
    """
    fitting = [
        place for place in key.places if place.calls == "all" or (place.calls == "with body") == (call.body is not None)
    ]
    if not fitting and all(isinstance(place, BodyPlace) for place in key.places):
        # It would go without the key, and the service would say no in words that nobody connects with this.
        raise unfit(key.name, "it goes into the body, and this call has none", NO_BODY)
    for place in fitting:
        call = place.put(call, secret, key.name)
    return call


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
            do="If the service has moved, enter its key again on the page Services and keys.",
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
    marks = {
        field: f"{_MARK}{at}X" for at, field in enumerate([*(key.required_fields() if key else []), "key", "basic"])
    }
    if key is not None and call.stage != SIGN_IN:
        with suppress(ProblemError):  # What hinders the key is said when the call is made.
            call = sign(call, key, marks)

    def unmark(text: str) -> str:
        for field, mark in marks.items():
            text = text.replace(mark, mask(field))
        return text

    def value_of(name: str, value: str) -> str:
        return mask("key") if value and _MARK not in value and looks_secret(name) else unmark(value)

    address, _, query = call.address.partition("?")
    address = unmark(address)
    if query:
        pieces = [piece.partition("=") for piece in query.split("&")]
        address += "?" + "&".join(f"{name}{equals}{value_of(name, value)}" for name, equals, value in pieces)
    body = None if call.body is None else unmark(call.body.decode("utf-8", "replace"))
    return ShownCall(call.method, address, [(name, value_of(name, value)) for name, value in call.headers], body)
