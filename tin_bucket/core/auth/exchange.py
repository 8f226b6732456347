"""One call to a service and all that belongs to it: the key put on, a dead token renewed, redirects followed.

A generator: it yields :class:`SecretRequest` where it needs the secret, and calls as they are to be sent; it is sent
the secret, and the answers.
"""

from __future__ import annotations

from collections.abc import Generator
from dataclasses import dataclass, replace
from urllib.parse import urljoin, urlsplit

from tin_bucket.core.formats.http import origin
from tin_bucket.core.masking.looks import hidden
from tin_bucket.core.masking.scrub import holds_secret
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer

from .credentials import Key
from .place import Secret
from .sign import sign

MOST_HOPS = 5


@dataclass(frozen=True, slots=True)
class SecretRequest:
    """The secret is wanted; `refused` is the one that the service did not take, if it was tried."""

    refused: Secret | None = None


Exchange = Generator[SecretRequest | Call, Secret | Answer, Answer]


def exchange(call: Call, key: Key | None, base: str) -> Exchange:
    """Make a call to a service.

    A token is renewed once when the service answers 401. A redirect within the service's origin is followed with the
    key. One that leads elsewhere is followed without it, and the answer says so; where it would carry the key or a
    body along, it is not followed.

    Args:
        call: the call, without its key.
        base: the service's base address: the key goes to its origin alone (RFC 6454 §4).

    Raises:
        ProblemError: ``key-unfit``.
    """
    home = origin(base)
    secret: Secret | None = None
    if key is not None:
        secret = _secret((yield SecretRequest()))
    renewed = False
    hops = 0
    note = ""
    while True:
        at_home = origin(call.address) == home
        signed = sign(call, key, secret) if key is not None and secret is not None and at_home else call
        answer = _answer((yield signed))
        renewable = key is not None and key.source.token_path is not None
        if answer.status == 401 and renewable and not renewed and at_home:
            renewed = True
            secret = _secret((yield SecretRequest(secret)))
            continue
        target = redirected(call, answer)
        if target is None:
            return replace(answer, note=note)
        if hops >= MOST_HOPS:
            return _failed(
                call,
                "redirect-loop",
                f"The service keeps redirecting the call; Tin Bucket stopped after {MOST_HOPS} redirects.",
                "Check the path; a missing or additional / at its end is often the reason.",
            )
        hops += 1
        if origin(target.address) != home:
            if secret is not None and holds_secret(target.address, hidden(secret)):
                return _not_followed(call, "with the key in the address")
            if target.body is not None:
                return _not_followed(call, "together with what was sent")
            kept = ("accept", "accept-language", "user-agent")
            target = replace(target, headers=tuple(pair for pair in target.headers if pair[0].lower() in kept))
            without = ", without the key" if key is not None else ""
            note = f"The service redirected the call to {_host(target.address)}{without}."
        call = target


def _not_followed(call: Call, how: str) -> Answer:
    return _failed(
        call,
        "redirect-elsewhere",
        f"The service redirects the call to another host, {how}. The redirect was not followed.",
        "If the service has moved, enter its new base address and its key again.",
    )


def _failed(call: Call, kind: str, what: str, do: str) -> Answer:
    return Answer(0, failure=Problem(kind, what, call.address.split("?")[0], do))


def _host(address: str) -> str:
    parts = urlsplit(address)
    return f"{parts.scheme}://{parts.hostname}" + (f":{parts.port}" if parts.port else "")


def _secret(sent: Secret | Answer) -> Secret:
    assert not isinstance(sent, Answer)
    return sent


def _answer(sent: Secret | Answer) -> Answer:
    assert isinstance(sent, Answer)
    return sent


def redirected(call: Call, answer: Answer) -> Call | None:
    """Where an answer sends the call on (RFC 9110 §15.4), or ``None``."""
    where = answer.headers.get("location")
    if answer.status not in (301, 302, 303, 307, 308) or not where:
        return None
    try:
        address = urljoin(call.address, where)
        parts = urlsplit(address)
        if parts.scheme not in ("http", "https") or not parts.hostname or parts.port == 0:
            return None
    except ValueError:
        return None
    address = address.partition("#")[0]
    becomes_get = answer.status == 303 or (answer.status in (301, 302) and call.method == "POST")
    if becomes_get and call.method not in ("GET", "HEAD"):
        headers = tuple(pair for pair in call.headers if pair[0].lower() != "content-type")
        return replace(call, method="GET", address=address, body=None, headers=headers)
    return replace(call, address=address)
