"""How a key is put on a call, and what must be masked.

A call is kept and shown without its key; the key goes on at the last moment, in the engine, on a copy that
nobody keeps.
"""

from __future__ import annotations

import base64
import json
import re
from dataclasses import dataclass, replace
from urllib.parse import quote, quote_plus

from .calls import Call, origin
from .problem import fail

MASK = "••••"
_SECRET_NAME = re.compile(
    r"(^|[-_. ])(api[-_]?key|key|apikey|token|secret|password|passwd|pwd|auth|authorization|sig|signature|"
    r"access[-_]?token|client[-_]?secret|appid|app[-_]?key|subscription[-_]?key)$",
    re.IGNORECASE,
)
_TOKEN_LIKE = re.compile(r"(?=.*\d)(?=.*[A-Za-z])[A-Za-z0-9_\-.~+/=]{24,}\Z")


@dataclass(frozen=True, slots=True)
class Placement:
    """Where a service takes its key.

    Attributes:
        header: name of the header.
        prefix: text before the key, such as ``Token ``.
        key: the key's name, for what is shown.
    """

    header: str
    prefix: str
    key: str


def sign(call: Call, placement: Placement, secret: str, bound_to: str) -> Call:
    """A copy of the call that carries the key.

    Args:
        bound_to: the origin that the key was stored for (RFC 6454 §4).

    Raises:
        ProblemError: ``key-bound-elsewhere`` when the call goes to another origin; ``key-unfit`` when the key cannot
            stand in a header.
    """
    if origin(call.address) != bound_to:
        raise fail(
            "key-bound-elsewhere",
            f"The key “{placement.key}” was stored for {bound_to} and this call goes to {origin(call.address)}.",
            where=call.address.split("?")[0],
            do="If the service has moved, put its key in again on the page Services and keys.",
        )
    if any(ord(char) < 0x20 or ord(char) > 0x7E for char in secret):
        raise fail(
            "key-unfit",
            f"The key “{placement.key}” holds a line break or a character that cannot stand in a header.",
            do="Copy the key again, without anything around it, and put it in anew.",
        )
    others = tuple(pair for pair in call.headers if pair[0].lower() != placement.header.lower())
    return replace(call, headers=(*others, (placement.header, placement.prefix + secret)))


def masked_headers(call: Call, placement: Placement | None) -> list[tuple[str, str]]:
    """The headers as they are shown: the key's place is there, its text is not."""
    shown = [
        (name, MASK if looks_secret(name) or name.lower() in ("cookie", "authorization") else value)
        for name, value in call.headers
        if placement is None or name.lower() != placement.header.lower()
    ]
    if placement is not None:
        shown.append((placement.header, f"{placement.prefix}{MASK}"))
    return shown


def looks_secret(name: str, value: str = "") -> bool:
    """Whether a parameter or header, by its name or by the look of its value, is likely to hold a key."""
    return bool(_SECRET_NAME.search(name)) or bool(value and _TOKEN_LIKE.match(value))


def scrub(data: bytes, secret: str) -> bytes:
    """Blot a key out of bytes that came back from a service, in every spelling in which it may be echoed.

    A key of fewer than eight characters is left: it may well stand in the data for itself, and blotting it out
    would ruin them unseen.
    """
    if len(secret) < 8:
        return data
    for spelling in _spellings(secret):
        if spelling in data:
            data = data.replace(spelling, b"*" * 8)
    return data


def scrub_text(text: str, secret: str) -> str:
    """As :func:`scrub`, for text."""
    return scrub(text.encode("utf-8", "surrogateescape"), secret).decode("utf-8", "surrogateescape")


def _spellings(secret: str) -> list[bytes]:
    raw = secret.encode()
    return sorted(
        {
            raw,
            json.dumps(secret)[1:-1].encode(),
            json.dumps(secret)[1:-1].replace("/", "\\/").encode(),
            quote(secret, safe="").encode(),
            quote_plus(secret).encode(),
            base64.b64encode(raw),
            base64.urlsafe_b64encode(raw).rstrip(b"="),
        },
        key=len,
        reverse=True,
    )
