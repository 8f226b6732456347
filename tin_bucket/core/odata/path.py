"""Resource paths (URL Conventions 4.01, §4): an entity set, an entity by its key, a property, a count, a value."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from .entity import ROW, EntityType
from .fault import ODataError

_SET = re.compile(r"(?P<set>[^\W\d][\w-]*)(?:\((?P<key>.*)\))?", re.DOTALL)
_PAIR = re.compile(r"\s*(?:(?P<name>[^\W\d]\w*)\s*=\s*)?(?P<value>'(?:[^']|'')*'|[^,']+)\s*(?:,|$)")


@dataclass(frozen=True, slots=True)
class Path:
    """A resource.

    Attributes:
        entity_set: its name.
        key: what stands in the brackets; ``None`` for the whole set.
        below: what follows: names of properties, ``$count``, ``$value``.
    """

    entity_set: str
    key: str | None = None
    below: tuple[str, ...] = ()


def read_path(text: str) -> Path:
    """A resource path below the service root.

    Raises:
        ODataError: 404 where it is none.
    """
    first, _, rest = _split(text)
    found = _SET.fullmatch(first)
    if found is None:
        raise ODataError(404, "resource-unknown", f"There is no resource “{text[:80]}”.")
    return Path(found["set"], found["key"], tuple(part for part in rest.split("/") if part))


def _split(text: str) -> tuple[str, str, str]:
    """The first segment and the rest; a slash in a quoted key parts nothing."""
    quoted = False
    for at, char in enumerate(text):
        if char == "'":
            quoted = not quoted
        elif char == "/" and not quoted:
            return text[:at], "/", text[at + 1 :]
    return text, "", ""


def key_values(key: str, entity: EntityType) -> dict[str, Any]:
    """The values of a key by the names of its properties.

    Raises:
        ODataError: 400 where they do not fit.
    """
    wrong = ODataError(400, "key-mistake", f"The key of {entity.name} is {', '.join(entity.key)}.", "key")
    out: dict[str, Any] = {}
    at = 0
    while at < len(key):
        found = _PAIR.match(key, at)
        if found is None or found.end() == at:
            raise wrong
        name = found["name"] or (entity.key[0] if len(entity.key) == 1 else "")
        if name not in entity.key or name in out:
            raise wrong
        out[name] = _literal(found["value"].strip(), "Edm.Int64" if name == ROW else _type(entity, name))
        at = found.end()
    if set(out) != set(entity.key):
        raise wrong
    return out


def _type(entity: EntityType, name: str) -> str:
    found = entity.of(name)
    return found.type if found is not None else "Edm.String"


def _literal(text: str, kind: str) -> Any:
    if text.startswith("'"):
        if kind != "Edm.String":
            raise ODataError(400, "key-mistake", f"{text[:40]} is a text, and the key is none.", "key")
        return text[1:-1].replace("''", "'")
    try:
        if kind == "Edm.Int64":
            return int(text)
        if kind == "Edm.Double":
            return float(text)
    except ValueError as error:
        raise ODataError(400, "key-mistake", f"“{text[:40]}” is no number.", "key") from error
    if kind == "Edm.Boolean":
        return text == "true"
    if kind == "Edm.String":
        raise ODataError(400, "key-mistake", f"Write the text in quotes: '{text[:40]}'.", "key")
    return text
