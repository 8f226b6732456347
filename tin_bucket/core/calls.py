"""Brief and bindings → calls. Addresses are RFC 6570 templates; a call never holds a key."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any
from urllib.parse import parse_qsl, quote, urlencode, urlsplit, urlunsplit

import uritemplate

from .problem import fail

if TYPE_CHECKING:
    from .brief import Ask, Pair

MOST_ADDRESS_BYTES = 8_000  # RFC 9110 §4.1 asks recipients to take at least 8,000 octets.
_EXPRESSION = re.compile(r"(\{[^{}]*\})")
_RESERVED = "!$&'()*+,/:;=?@[]~-._%"


@dataclass(frozen=True, slots=True)
class Call:
    """One request, without its key.

    Attributes:
        method: the HTTP method.
        address: the absolute address.
        headers: pairs of name and value, in the order in which they are sent.
        stage: ``pages`` or ``look up NAME``: what the call is for.
        label: what tells this call from its neighbours, such as ``page 3`` or ``007``.
    """

    method: str
    address: str
    headers: tuple[tuple[str, str], ...] = ()
    stage: str = "pages"
    label: str = ""


def template_names(template: str) -> set[str]:
    """The names that a template's expressions use.

    Raises:
        ProblemError: ``template-unreadable`` where a brace has no partner or an expression is empty.
    """
    for part in _EXPRESSION.split(template):
        is_expression = part.startswith("{") and part.endswith("}") and len(part) > 1
        if not is_expression and ("{" in part or "}" in part):
            at = template.index("{" if "{" in part else "}")
            raise fail(
                "template-unreadable",
                f"A brace at position {at + 1} has no partner.",
                where=template,
                do="Write a parameter as {name}, with both braces.",
            )
        if is_expression and not part.strip("{}+#./;?&*").strip():
            raise fail(
                "template-unreadable",
                "There is an empty pair of braces.",
                where=template,
                do="Put a name in it.",
            )
    return set(uritemplate.variables(template))


def expand(template: str, bindings: Mapping[str, str | None], what: str = "parameter") -> str:
    """Expand a template (RFC 6570 §3); text outside its expressions is percent-encoded where it must be.

    Raises:
        ProblemError: ``template-unreadable``, or ``template-unknown-name`` for a name without a binding.
    """
    for name in sorted(template_names(template)):
        if name not in bindings:
            known = ", ".join(sorted(bindings)) or "none"
            raise fail(
                "template-unknown-name",
                f"“{name}” is not a {what} of this query.",
                where=template,
                do=f"Known names: {known}.",
            )
    values: dict[str, Any] = {name: value for name, value in bindings.items() if value is not None}
    parts = []
    for part in _EXPRESSION.split(template):
        parts.append(uritemplate.expand(part, values) if part.startswith("{") else quote(part, safe=_RESERVED))
    return "".join(parts)


def _expand_pairs(pairs: Sequence[Pair], bindings: Mapping[str, str | None]) -> list[str]:
    out = []
    for pair in pairs:
        names = template_names(pair.value)
        # An optional parameter without a value takes its whole piece of the address with it.
        if names and all(name in bindings and bindings[name] is None for name in names):
            continue
        value = expand(pair.value, bindings)
        # In a query `&`, `#` and `+` would end or change the value (RFC 3986 §3.4; HTML form rules for `+`).
        value = value.replace("&", "%26").replace("#", "%23").replace("+", "%2B")
        out.append(f"{quote(pair.name, safe='')}={value}")
    return out


def build_address(
    base: str, path: str, query: Sequence[Pair], bindings: Mapping[str, str | None], what: str = "parameter"
) -> str:
    """Put base address, path template and query pieces together.

    Raises:
        ProblemError: an unreadable template, an unknown name, or an address over 8,000 bytes.
    """
    expanded = expand(path, bindings, what)
    joined = base.rstrip("/") + ("" if not expanded or expanded[0] in "/?" else "/") + expanded
    pieces = _expand_pairs(query, bindings)
    if pieces:
        joined += ("&" if "?" in joined else "?") + "&".join(pieces)
    if len(joined) > MOST_ADDRESS_BYTES:
        raise fail(
            "address-too-long",
            f"The address is {len(joined):,} characters long; many services take {MOST_ADDRESS_BYTES:,} at most.",
            where=joined[:120] + "…",
            do="Ask for fewer values at a time.",
        )
    return joined


def build_call(
    base: str, ask: Ask, bindings: Mapping[str, str | None], headers: Sequence[tuple[str, str]] = ()
) -> Call:
    """The first call of a question.

    Args:
        base: the service's base address.
        ask: what the brief asks.
        bindings: parameter name → value.
        headers: the service's fixed headers, which come first.

    Raises:
        ProblemError: as :func:`build_address`.
    """
    own = [(pair.name, _header_value(pair, bindings)) for pair in ask.headers]
    return Call(ask.method, build_address(base, ask.path, ask.query, bindings), (*headers, *own))


def _header_value(pair: Pair, bindings: Mapping[str, str | None]) -> str:
    for name in sorted(template_names(pair.value)):
        if name not in bindings:
            raise fail(
                "template-unknown-name",
                f"“{name}” is not a parameter of this query.",
                where=f"header {pair.name}",
                do="Name one of the query's parameters.",
            )
    # A header is not an address: values go in as they are (RFC 9110 §5.5), line breaks never.
    text = re.sub(r"\{([^{}]*)\}", lambda match: bindings[match[1]] or "", pair.value)
    return text.replace("\r", " ").replace("\n", " ")


def with_query(call: Call, changes: Mapping[str, str], label: str = "") -> Call:
    """The same call with some address parameters set; others keep their place and their values."""
    parts = urlsplit(call.address)
    pairs = parse_qsl(parts.query, keep_blank_values=True)
    left = dict(changes)
    out = []
    for name, value in pairs:
        if name in changes:
            if name in left:
                out.append((name, left.pop(name)))
        else:
            out.append((name, value))
    out.extend(left.items())
    address = urlunsplit(parts._replace(query=urlencode(out, quote_via=quote, safe="!$'()*,/:;?@~")))
    return replace(call, address=address, label=label or call.label)


def origin(address: str) -> str:
    """Scheme, host and port of an address in lower case: what a key is bound to (RFC 6454 §4)."""
    parts = urlsplit(address)
    port = parts.port or {"http": 80, "https": 443}.get(parts.scheme.lower(), 0)
    return f"{parts.scheme.lower()}://{(parts.hostname or '').lower()}:{port}"
