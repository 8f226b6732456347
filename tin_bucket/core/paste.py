"""Paste to begin: an address taken apart into service, path, parameters, and what looks like a key."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from datetime import date
from urllib.parse import parse_qsl, unquote, urlsplit

from .brief import Ask, Brief, DateParameter, Pair, Parameter, TextParameter
from .problem import fail
from .service import Service
from .signing import looks_secret

_PAGE_NAMES = re.compile(r"(page|per_?page|page_?size|limit|size|offset|page_?no|page_?number)\Z", re.IGNORECASE)
_NOT_NAME = re.compile(r"[^A-Za-z0-9_]+")


@dataclass(slots=True)
class Understood:
    """What was read out of a pasted address.

    Attributes:
        service_id: the id of the known service that the address belongs to, or ``None``.
        base: the base address, for a service that is new.
        brief: a draft of the query.
        left_out: names of parameters that look like keys; their values are nowhere in the brief.
    """

    service_id: str | None
    base: str
    brief: Brief
    left_out: list[str] = field(default_factory=list)


def take_apart(text: str, services: list[Service]) -> Understood:
    """Read an address.

    Args:
        text: what was pasted.
        services: the known services; the one with the longest base address that fits is taken.

    Raises:
        ProblemError: ``paste-unreadable``.
    """
    address = text.strip().strip("<>\"'` ")
    if not address:
        raise fail("paste-unreadable", "There is nothing to read.", where="the paste box", do="Paste an address.")
    if "://" not in address and re.match(r"[\w.-]+(:\d+)?(/|\Z)", address) and "." in address.split("/")[0]:
        address = "https://" + address
    try:
        parts = urlsplit(address)
        port = parts.port
    except ValueError:
        parts, port = urlsplit(""), None
    if parts.scheme not in ("http", "https") or not parts.hostname or re.search(r"\s", address):
        raise fail(
            "paste-unreadable",
            "This is not an address.",
            where="the paste box",
            do="Paste one that starts with http:// or https://, as the API's docs show it.",
        )
    if parts.username or parts.password:
        raise fail(
            "paste-unreadable",
            "The address holds a user or a password in front of the host.",
            where="the paste box",
            do="Take that part out; store it as a key of the service instead.",
        )
    host = f"[{parts.hostname}]" if ":" in parts.hostname else parts.hostname
    root = f"{parts.scheme}://{host}" + (f":{port}" if port else "")
    plain = root + (parts.path or "/")
    known = [service for service in services if plain == service.base or plain.startswith(service.base + "/")]
    service = max(known, key=lambda one: len(one.base)) if known else None
    base = service.base if service else root
    path = _braces_out(plain[len(base) :] or "/")
    left_out: list[str] = []
    query: list[Pair] = []
    parameters: list[Parameter] = []
    names: set[str] = set()
    for name, value in parse_qsl(parts.query, keep_blank_values=True):
        if looks_secret(name, value):
            left_out.append(name)
        elif _PAGE_NAMES.match(name):
            query.append(Pair(name=name, value=_braces_out(value)))
        else:
            own = _free(_NOT_NAME.sub("_", name).strip("_") or "value", names)
            parameters.append(_parameter(own, value))
            query.append(Pair(name=name, value=f"{{{own}}}"))
    pieces = [unquote(piece) for piece in path.split("/") if piece]
    name = (pieces[-1] if pieces else parts.hostname).replace("_", " ").replace("-", " ")[:80]
    ask = Ask(service=service.id if service else "new", path=path, query=query)
    brief = Brief(name=name[:1].upper() + name[1:], parameters=parameters, ask=ask)
    return Understood(service.id if service else None, base, brief, left_out)


def _braces_out(text: str) -> str:
    """An address that is no template yet: its braces must not become expressions."""
    return text.replace("{", "%7B").replace("}", "%7D")


def _free(name: str, taken: set[str]) -> str:
    base = name if not name[0].isdigit() else f"p_{name}"
    free, number = base[:70], 2
    while free in taken:
        free, number = f"{base[:70]}_{number}", number + 1
    taken.add(free)
    return free


def _parameter(name: str, value: str) -> Parameter:
    if re.match(r"\d{4}-\d{2}-\d{2}\Z", value):
        try:
            return DateParameter(name=name, default=date.fromisoformat(value))
        except ValueError:
            pass
    return TextParameter(name=name, default=value, required=bool(value))
