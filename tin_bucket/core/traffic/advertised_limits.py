"""The limits that a service advertises in the headers of its answers."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from .rate_window import Window

_ITEM = re.compile(
    r'\s*("(?:[^"\\]|\\.)*"|[A-Za-z*][\w.:*/-]*|-?\d+)((?:\s*;\s*[a-z*][\w.*-]*(?:=(?:"[^"]*"|[^;,\s]+))?)*)\s*(?:,|$)'
)
_PART = re.compile(r";\s*([a-z*][\w.*-]*)(?:=(?:\"([^\"]*)\"|([^;,\s]+)))?")
_FAR = 1_000_000_000  # A reset that is larger is a moment since 1970, not a number of seconds.
_SPANS = {1: "PT1S", 60: "PT1M", 3600: "PT1H", 86_400: "P1D"}


@dataclass(frozen=True, slots=True)
class AdvertisedLimits:
    """What headers say.

    Attributes:
        windows: the windows that they name; each is worth keeping in advance.
        left: calls that are left, if it is said.
        resets: seconds until there are more again, if it is said.
        words: the headers as they came.
    """

    windows: list[Window]
    left: int | None
    resets: float | None
    words: str


def advertised_limits(headers: Mapping[str, str], now: float) -> AdvertisedLimits | None:
    """Read RateLimit, RateLimit-Policy, RateLimit-Limit and X-RateLimit headers; ``None`` when there are none.

    The structured fields are those of the IETF's draft "RateLimit header fields for HTTP"; the older ones are what
    most APIs send, with the reset in seconds or as a moment.

    Args:
        headers: names in lower case.
        now: seconds since 1970.
    """
    names = [name for name in headers if "ratelimit" in name.replace("-", "")]
    if not names:
        return None
    words = ", ".join(f"{name}: {headers[name]}" for name in sorted(names))[:300]
    left, resets = _number(headers, "remaining"), _number(headers, "reset")
    for item, parts in _items(headers.get("ratelimit", "")):
        left, resets = _least(left, parts.get("r")), _least(resets, parts.get("t"))
        if item == "remaining" and "" in parts:
            left = _least(left, parts[""])
    if resets is not None and resets > _FAR:
        resets = resets / 1000 if resets > 1000 * _FAR else resets
        resets = max(0.0, resets - now)
    windows = []
    policy = headers.get("ratelimit-policy", "") or headers.get("ratelimit-limit", "")
    for item, parts in _items(policy):
        quota = parts.get("q") or (item if item.isdigit() else None)
        span = parts.get("w")
        if quota and span and quota.isdigit() and span.isdigit() and int(quota) > 0 and 0 < int(span) <= 2_678_400:
            windows.append(Window(calls=int(quota), per=span_of(int(span))))
    return AdvertisedLimits(windows, None if left is None else int(left), resets, words)


def _items(text: str) -> list[tuple[str, dict[str, str]]]:
    """The members of a list of structured fields (RFC 9651 §3.1), as far as limits use them."""
    found = []
    at = 0
    while at < len(text) and (match := _ITEM.match(text, at)) is not None and match.end() > at:
        at = match.end()
        parts = {name: quoted or plain for name, quoted, plain in _PART.findall(match[2])}
        found.append((match[1].strip('"'), parts))
    return found


def _number(headers: Mapping[str, str], what: str) -> float | None:
    for name in (f"ratelimit-{what}", f"x-ratelimit-{what}", f"x-rate-limit-{what}"):
        text = headers.get(name, "").split(",")[0].split(";")[0].strip()
        if re.fullmatch(r"\d+(\.\d+)?", text):
            return float(text)
    return None


def _least(one: float | None, other: str | None) -> float | None:
    if other is None or not other.isdigit():
        return one
    return float(other) if one is None else min(one, float(other))


def span_of(seconds: int) -> str:
    """A number of seconds as an ISO 8601 duration."""
    if seconds in _SPANS:
        return _SPANS[seconds]
    for size, unit in ((86_400, "P{}D"), (3600, "PT{}H"), (60, "PT{}M")):
        if seconds % size == 0:
            return unit.format(seconds // size)
    return f"PT{seconds}S"
