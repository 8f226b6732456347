"""Answers that are too large to hold: their records are read one after the other, and never all at once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

import ijson

from tin_bucket.core.problem import fail

from .jsonpath import WILDCARD, parse_place

_TOGETHER = 500


def streamed_records(parts: Iterable[bytes], path: str) -> Iterator[list[Any]]:
    """The records of an answer, some hundreds at a time.

    Args:
        parts: the answer's bytes, from its start.
        path: where the records are: a plain place that ends with ``[*]``, such as ``$.data[*]``.

    Raises:
        ProblemError: ``too-large`` for another path, ``cut-off`` or ``not-json``.
    """
    batch: list[Any] = []
    try:
        for record in ijson.items(ijson.from_iter(parts), _prefix(path), use_float=True):
            batch.append(record)
            if len(batch) >= _TOGETHER:
                yield batch
                batch = []
    except ijson.JSONError as error:
        raise _unreadable(error) from error
    if batch:
        yield batch


def outside_of_records(parts: Iterable[bytes], path: str) -> Any:
    """The document without its records: what an answer states besides them.

    Raises:
        ProblemError: as :func:`streamed_records`.
    """
    inner = _prefix(path)
    builder = ijson.ObjectBuilder()
    try:
        for prefix, event, value in ijson.parse(ijson.from_iter(parts), use_float=True):
            if prefix != inner and not prefix.startswith(f"{inner}."):
                builder.event(event, value)
    except ijson.JSONError as error:
        raise _unreadable(error) from error
    return getattr(builder, "value", None)


def _prefix(path: str) -> str:
    place = parse_place(path)
    names = place[:-1] if place and place[-1] is WILDCARD else None
    if names is None or not all(isinstance(name, str) and "." not in name for name in names):
        raise fail(
            "too-large",
            "The answer is too large to hold, and its records are not at a plain list such as $.data[*].",
            where=path,
            do="Take the items of a list as rows, or ask for fewer rows a page.",
        )
    return ".".join([*map(str, names), "item"])


def _unreadable(error: Exception) -> Exception:
    cut = isinstance(error, ijson.IncompleteJSONError)
    return fail(
        "cut-off" if cut else "not-json",
        "The answer is cut off: the JSON is incomplete." if cut else "The answer is not JSON.",
        do="Ask again; if it happens each time, ask for fewer rows a page.",
    )
