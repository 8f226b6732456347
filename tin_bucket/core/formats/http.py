"""The Link header (RFC 8288)."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

_LINK = re.compile(r"\s*<([^>]*)>((?:\s*;\s*[^\s=;,]+(?:\s*=\s*(?:\"(?:[^\"\\]|\\.)*\"|[^\s;,\"]+))?)*)\s*(?:,|$)")
_PARAMETER = re.compile(r";\s*([^\s=;,]+)(?:\s*=\s*(?:\"((?:[^\"\\]|\\.)*)\"|([^\s;,\"]+)))?")


def links(header: str) -> dict[str, str]:
    """The targets of a Link header by their relation, in lower case; the first of each (RFC 8288 §3)."""
    found: dict[str, str] = {}
    at = 0
    while (match := _LINK.match(header, at)) is not None and match.end() > at:
        at = match.end()
        for name, quoted, plain in _PARAMETER.findall(match[2]):
            if name.lower() == "rel":
                for relation in (re.sub(r"\\(.)", r"\1", quoted) or plain).lower().split():
                    found.setdefault(relation, match[1])
                break  # Only the first rel parameter counts (RFC 8288 §3.3).
    return found


HEADER_NAME = re.compile(r"[!#$%&'*+\-.^_`|~0-9A-Za-z]+\Z")


def origin(address: str) -> str:
    """Scheme, host and port of an address in lower case: what a key is bound to (RFC 6454 §4)."""
    parts = urlsplit(address)
    port = parts.port or {"http": 80, "https": 443}.get(parts.scheme.lower(), 0)
    return f"{parts.scheme.lower()}://{(parts.hostname or '').lower()}:{port}"
