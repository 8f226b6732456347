"""Pairs of name and value: address parameters, headers and form fields, with the parameters' values filled in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from urllib.parse import quote

from tin_bucket.core.base import Pair

from .templates import expand, fill, list_problem, template_names, text_names
from .variables import Scope, Value


def _repeats(names: set[str], scope: Scope, where: str) -> Iterator[Scope]:
    """The scope once, or, where a repeated list is named, once for each of its values."""
    lists = [name for name in names if name in scope and scope[name].many and scope[name].send == "repeated"]
    if not lists:
        yield scope
        return
    if len({name.split(".")[0] for name in lists}) > 1:
        raise list_problem(sorted(lists)[1], where)
    for at in range(len(scope[lists[0]].texts)):
        one = {name: Value((scope[name].texts[at],), (scope[name].typed[at],)) for name in lists}
        yield {**scope, **one}


def _absent(names: set[str], scope: Scope) -> bool:
    """Whether all that a template names has no value: its whole piece then goes."""
    return bool(names) and all(name in scope and scope[name].absent for name in names)


def expand_pairs(pairs: Sequence[Pair], scope: Scope, what: str = "parameter") -> list[str]:
    """The pieces of an address's query, percent-encoded.

    Raises:
        ProblemError: as :func:`templates.expand`.
    """
    out = []
    for pair in pairs:
        name = quote(fill(pair.name, scope, f"address parameter {pair.name}"), safe="")
        if pair.value is None:
            out.append(name)
            continue
        names = template_names(pair.value)
        if _absent(names, scope):
            continue
        for one in _repeats(names, scope, pair.value):
            value = expand(pair.value, one, what)
            # In a query `&`, `#` and `+` would end or change the value (RFC 3986 §3.4; HTML form rules for `+`).
            value = value.replace("&", "%26").replace("#", "%23").replace("+", "%2B")
            out.append(f"{name}={value}")
    return out


def fill_pairs(pairs: Sequence[Pair], scope: Scope, what: str) -> list[tuple[str, str | None]]:
    """Names and values of headers or form fields; a name that stands alone has none.

    Raises:
        ProblemError: as :func:`templates.fill`.
    """
    out: list[tuple[str, str | None]] = []
    for pair in pairs:
        where = f"{what} {pair.name}"
        if pair.value is None:
            out.append((fill(pair.name, scope, where), None))
            continue
        text = pair.value
        names = text_names(text)
        if _absent(names, scope):
            continue
        for one in _repeats(names, scope, where):
            out.append((fill(pair.name, scope, where), fill(text, one, where)))
    return out
