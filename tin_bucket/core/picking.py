"""JSONPath (RFC 9535) → the records of an answer, and guesses at where they are."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import jsonpath_rfc9535
from jsonpath_rfc9535.exceptions import JSONPathError

from .places import Each, Place, format_pointer, parse_place
from .problem import Problem, ProblemError


@dataclass(frozen=True, slots=True)
class Picked:
    """What a JSONPath found in one answer.

    Attributes:
        values: the nodes' values, in document order.
        places: for each value the names and indices that lead to it. Empty where `list_place` tells them all.
        list_place: the place of the one list whose items are the values, or ``None``.
        keyed: whether the values are members of objects, and their last name tells one from the other.
    """

    values: list[Any]
    places: list[tuple[str | int, ...]]
    list_place: tuple[str | int, ...] | None = None
    keyed: bool = False

    @property
    def list_pointer(self) -> str | None:
        """The pointer of the one list whose items are the values, or ``None``."""
        return None if self.list_place is None else format_pointer(self.list_place)

    @property
    def pointers(self) -> list[str]:
        """For each value its JSON Pointer; empty where :attr:`list_pointer` tells them all."""
        return [format_pointer(place) for place in self.places]

    def first(self, count: int) -> Picked:
        """The first values alone."""
        return Picked(self.values[:count], self.places[:count], self.list_place, self.keyed)

    def where(self, index: int) -> tuple[str | int, ...]:
        """The names and indices that lead to the value with that index."""
        return self.places[index] if self.list_place is None else (*self.list_place, index)

    def pointer(self, index: int) -> str:
        """The JSON Pointer of the value with that index."""
        return format_pointer(self.where(index))


def check_path(path: str) -> None:
    """Compile a JSONPath.

    Raises:
        ProblemError: ``path-unreadable``, with the position of the mistake.
    """
    if parse_place(path) is not None:
        return
    try:
        jsonpath_rfc9535.compile(path)
    except (JSONPathError, RecursionError) as error:
        raise ProblemError(_path_problem(path, error)) from error


def _path_problem(path: str, error: Exception) -> Problem:
    token = getattr(error, "token", None)
    at = "" if token is None else f" at character {token.index + 1}"
    message = str(error).splitlines()[0] if str(error) else "it cannot be read"
    message = message.split(", line ")[0].rstrip(".")
    return Problem(
        "path-unreadable",
        f"The JSONPath has a mistake{at}: {message}.",
        path[:200],
        "A path starts with $ and goes on in steps, such as $.data[*] or $.data[?@.open == true].",
    )


def pick(document: Any, path: str) -> Picked:
    """All nodes that the path selects.

    A plain path such as ``$.a.b[*]`` takes a fast way with the same result as the full one.

    Raises:
        ProblemError: ``path-unreadable``.
    """
    place = parse_place(path)
    if place is not None:
        return _pick_plain(document, place)
    check_path(path)
    nodes = jsonpath_rfc9535.find(path, document)
    values = [node.value for node in nodes]
    places = [tuple(node.location) for node in nodes]
    # A selector that chooses several members of objects makes their names tell one from the other.
    last = {place[-1] if place else None for place in places}
    several = len(last) > 1 or path.rstrip().endswith(("[*]", ".*"))
    keyed = several and all(isinstance(name, str) for name in last)
    return Picked(values, places, keyed=keyed)


def _pick_plain(document: Any, place: Place) -> Picked:
    nodes: list[tuple[Any, tuple[str | int, ...]]] = [(document, ())]
    for step, segment in enumerate(place):
        last = step == len(place) - 1
        if last and isinstance(segment, Each) and len(nodes) == 1 and isinstance(nodes[0][0], list):
            return Picked(nodes[0][0], [], nodes[0][1])
        nodes = [found for node in nodes for found in _step(node, segment)]
    keyed = bool(place) and isinstance(place[-1], Each) and any(isinstance(where[-1], str) for _, where in nodes)
    return Picked([value for value, _ in nodes], [where for _, where in nodes], keyed=keyed)


def _step(node: tuple[Any, tuple[str | int, ...]], segment: object) -> list[tuple[Any, tuple[str | int, ...]]]:
    value, where = node
    if isinstance(segment, str):
        return [(value[segment], (*where, segment))] if isinstance(value, dict) and segment in value else []
    if isinstance(segment, int):
        if isinstance(value, list) and -len(value) <= segment < len(value):
            return [(value[segment], (*where, segment % len(value)))]
        return []
    if isinstance(value, list):
        return [(item, (*where, index)) for index, item in enumerate(value)]
    if isinstance(value, dict):
        return [(item, (*where, name)) for name, item in value.items()]
    return []


def pick_number(document: Any, path: str | None) -> int | None:
    """The whole number that a path points at, also when it stands there as text; ``None`` when there is none."""
    if path is None:
        return None
    values = pick(document, path).values
    return as_number(values[0] if values else None)


def as_number(value: Any) -> int | None:
    """A whole number, also when it comes as text; ``None`` for anything else."""
    if isinstance(value, bool):
        return None
    if isinstance(value, int):
        return value
    if isinstance(value, float) and value.is_integer():
        return int(value)
    if isinstance(value, str) and value.strip().isdecimal():
        return int(value.strip())
    return None
