"""What a query asks and what its names stand for → calls. A call never holds a key."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from urllib.parse import parse_qsl, quote, urlencode, urlsplit, urlunsplit

from tin_bucket.core.base import Pair
from tin_bucket.core.formats.http import HEADER_NAME
from tin_bucket.core.problem import fail

from .ask import Ask
from .bodies import encode_body
from .call import Call
from .fields import expand_pairs, fill_pairs
from .templates import expand
from .variables import Scope

MOST_ADDRESS_BYTES = 8_000  # RFC 9110 §4.1 asks recipients to take at least 8,000 octets.


def build_address(base: str, path: str, query: Sequence[Pair], scope: Scope, what: str = "parameter") -> str:
    """Put base address, path template and query pieces together.

    Raises:
        ProblemError: an unreadable template, an unknown name, or an address over 8,000 bytes.
    """
    expanded = expand(path, scope, what)
    joined = base.rstrip("/") + ("" if not expanded or expanded[0] in "/?" else "/") + expanded
    pieces = expand_pairs(query, scope, what)
    if pieces:
        joined += ("&" if "?" in joined else "?") + "&".join(pieces)
    if len(joined) > MOST_ADDRESS_BYTES:
        raise fail(
            "address-too-long",
            f"The address is {len(joined):,} characters long; many services take {MOST_ADDRESS_BYTES:,} at most.",
            where=joined[:120] + "…",
            do="Ask for fewer values at a time, or once for each value.",
        )
    return joined


def build_call(base: str, ask: Ask, scope: Scope, headers: Sequence[tuple[str, str]] = ()) -> Call:
    """The first call of a question.

    Args:
        base: the service's base address.
        ask: what the brief asks.
        scope: what its names stand for.
        headers: the service's fixed headers; one of the question's own of the same name takes its place.

    Raises:
        ProblemError: as :func:`build_address` and :func:`bodies.encode_body`.
    """
    own = [(name, _header_value(value or "")) for name, value in fill_pairs(ask.headers, scope, "header")]
    for name, _ in own:
        if not HEADER_NAME.match(name):
            raise fail(
                "header-unfit",
                f"“{name}” cannot be the name of a header.",
                where="the headers of the question",
                do="A name has letters, digits and hyphens, and no space.",
            )
    taken = {name.lower() for name, _ in own}
    given = [*((name, value) for name, value in headers if name.lower() not in taken), *own]
    body = None
    if ask.body is not None:
        body, media_type = encode_body(ask.body, scope)
        if "content-type" not in {name.lower() for name, _ in given} or ask.body.kind == "multipart":
            given = [(name, value) for name, value in given if name.lower() != "content-type"]
            given.append(("Content-Type", media_type))
    return Call(ask.method, build_address(base, ask.path, ask.query, scope), tuple(given), body=body)


def _header_value(value: str) -> str:
    # A header takes its value as it is (RFC 9110 §5.5), line breaks never.
    return value.replace("\r", " ").replace("\n", " ")


def with_query(call: Call, changes: Mapping[str, str | None], label: str = "") -> Call:
    """The same call with some address parameters set, and without those that are ``None``; others keep their place and
    their values."""
    parts = urlsplit(call.address)
    pairs = parse_qsl(parts.query, keep_blank_values=True)
    left = {name: value for name, value in changes.items() if value is not None}
    out = []
    for name, value in pairs:
        if name not in changes:
            out.append((name, value))
        elif name in left:
            out.append((name, left.pop(name)))
    out.extend(left.items())
    address = urlunsplit(parts._replace(query=urlencode(out, quote_via=quote, safe="!$'()*,/:;?@~")))
    return replace(call, address=address, label=label or call.label)
