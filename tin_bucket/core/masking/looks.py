"""What looks like a secret, by its name or by itself."""

from __future__ import annotations

import re
from collections.abc import Mapping
from urllib.parse import parse_qsl, unquote, urlsplit, urlunsplit

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


def looks_secret(name: str, value: str = "") -> bool:
    """Whether a parameter or header, by its name or by the look of its value, is likely to hold a key."""
    if _NOT_SECRET.search(name):
        return False
    if _SECRET_NAME.search(name) or _CAMEL.search(name):
        return True
    return bool(value) and looks_like_token(value)


_NAMED = re.compile(
    r"""["']?\b([A-Za-z][\w-]{0,60})["']?\]?\s*(?::|=>|=)\s*["'`]?((?:(?:Bearer|Basic|Token|ApiKey)\s+)?[^\s"'`,;<>{}]{6,})""",
    re.IGNORECASE,
)
# Names that data has as well: there the value must look like a key, too.
_COMMON = re.compile(r"(key|pass|auth|sig|app[-_]?id|session[-_]?id)\Z", re.IGNORECASE)


def secrets_in(text: str) -> list[str]:
    """Where in a text of any kind a key seems to be named: “line 3: Authorization”. Values are not told."""
    found: list[str] = []
    for number, line in enumerate(text.splitlines(), start=1):
        for name, value in _NAMED.findall(line):
            plain = _PREFIXES.sub("", value, count=1)
            if not looks_secret(name) or plain.startswith(("$", "http://", "https://")):
                continue
            if looks_like_token(plain) or plain != value or not _COMMON.match(name):
                found.append(f"line {number}: {name}")
    return found


def looks_like_token(value: str) -> bool:
    """Whether a text looks like a key by itself: long, of one piece, letters and digits mixed."""
    text = _PREFIXES.sub("", value, count=1)
    if not _TOKEN_LIKE.match(text) or _UUID.match(text) or _WORDS.match(text):
        return False
    # Dates and paths are long, too.
    return not re.match(r"\d{4}-\d{2}-\d{2}", text) and text.strip("/=").count("/") <= 3


def address_without_secrets(address: str) -> str | None:
    """An address without what looks like a key in it: user, parameters, a piece of the path; ``None`` when there is no
    such thing, or this is no address."""
    if not re.match(r"https?://", address, re.IGNORECASE):
        return None
    try:
        parts = urlsplit(address)
        named = parse_qsl(f"{parts.query}&{parts.fragment.rpartition('?')[2]}", keep_blank_values=True)
    except ValueError:
        return None
    in_path = any(looks_like_token(unquote(piece)) for piece in parts.path.split("/"))
    if not in_path and parts.username is None and not any(looks_secret(name, value) for name, value in named):
        return None
    host = parts.netloc.rpartition("@")[2]
    return urlunsplit((parts.scheme, host, "/" if in_path else parts.path, "", ""))


def fingerprint(secret: str) -> str:
    """At most the last four characters of a secret, for distinguishing secrets; nothing of a short one."""
    return secret[-4:] if len(secret) >= 16 else secret[-2:] if len(secret) >= 10 else ""


def hidden(secret: Mapping[str, str]) -> list[str]:
    """The fields of a secret that nobody may read. A user's name or a client's id is none, unless it looks like a key:
    some services take their key in its place."""
    open_fields = ("user", "client_id")
    return [text for name, text in secret.items() if text and (name not in open_fields or looks_like_token(text))]
