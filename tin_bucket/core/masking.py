"""What looks like a secret, and masking it wherever it may be echoed."""

from __future__ import annotations

import base64
import json
import re
from collections.abc import Iterable, Mapping
from urllib.parse import quote, quote_plus

_SECRET_NAME = re.compile(
    r"(^|[-_. ])(x[-_])?(api[-_]?key|key|apikey|token|secret|password|passwd|pass|pwd|auth|authorization|cookie|"
    r"sig|signature|access[-_]?token|client[-_]?secret|app[-_]?id|app[-_]?key|subscription[-_]?key|license[-_]?key|"
    r"session[-_]?id|credential|credentials|bearer|registration[-_]?key)$",
    re.IGNORECASE,
)
_CAMEL = re.compile(r"(?:[a-z0-9])(Key|Token|Secret|Password)$")
_NOT_SECRET = re.compile(
    r"(page|next|prev|previous|continuation|cursor|sync|sort|order|group|primary|foreign|partition)[-_ ]?"
    r"(token|key)$",
    re.IGNORECASE,
)
_TOKEN_LIKE = re.compile(r"(?=.*\d)(?=.*[A-Za-z])[A-Za-z0-9_\-.~+/=]{24,}\Z")
_UUID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}\Z", re.IGNORECASE)
_WORDS = re.compile(r"[a-z]+(?:[-_/.][a-z]+)*[-_/.]?\d{0,4}\Z", re.IGNORECASE)
_PREFIXES = re.compile(r"(Bearer|Token|Basic|ApiKey|Key)\s+", re.IGNORECASE)
SHORTEST = 8  # A shorter secret may well stand in the data for itself.


def looks_secret(name: str, value: str = "") -> bool:
    """Whether a parameter or header, by its name or by the look of its value, is likely to hold a key."""
    if _NOT_SECRET.search(name):
        return False
    if _SECRET_NAME.search(name) or _CAMEL.search(name):
        return True
    return bool(value) and looks_like_token(value)


def looks_like_token(value: str) -> bool:
    """Whether a text looks like a key by itself: long, of one piece, letters and digits mixed."""
    text = _PREFIXES.sub("", value, count=1)
    if not _TOKEN_LIKE.match(text) or _UUID.match(text) or _WORDS.match(text):
        return False
    # Dates and paths are long, too.
    return not re.match(r"\d{4}-\d{2}-\d{2}", text) and text.strip("/=").count("/") <= 3


def fingerprint(secret: str) -> str:
    """At most the last four characters of a secret, for distinguishing secrets; nothing of a short one."""
    return secret[-4:] if len(secret) >= 16 else secret[-2:] if len(secret) >= 10 else ""


def hidden(secret: Mapping[str, str]) -> list[str]:
    """The fields of a secret that nobody may read; a user's name or a client's id is none."""
    return [text for name, text in secret.items() if name not in ("user", "client_id") and text]


def scrub(data: bytes, secrets: Iterable[str]) -> bytes:
    """Blot secrets out of bytes that came back from a service, in every spelling in which they may be echoed.

    A secret of fewer than eight characters is left: it may well stand in the data for itself, and masking it
    would ruin them unseen.
    """
    for secret in secrets:
        if len(secret) < SHORTEST:
            continue
        for spelling in spellings(secret):
            if spelling in data:
                data = data.replace(spelling, b"*" * 8)
    return data


def scrub_text(text: str, secrets: Iterable[str]) -> str:
    """As :func:`scrub`, for text."""
    return scrub(text.encode("utf-8", "surrogateescape"), secrets).decode("utf-8", "surrogateescape")


def holds_secret(text: str, secrets: Iterable[str]) -> bool:
    """Whether a text holds one of the secrets, in any spelling."""
    data = text.encode("utf-8", "surrogateescape")
    return any(spelling in data for secret in secrets if secret for spelling in spellings(secret))


def spellings(secret: str) -> list[bytes]:
    """A secret as it may stand in JSON, in an address or in Base64; the longest first."""
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
