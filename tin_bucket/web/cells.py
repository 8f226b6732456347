"""Cells as JSON for the browser: whole numbers that a browser's numbers cannot hold go as text."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

import orjson
from fastapi import Response

from tin_bucket.core.columns.missing import Miss

_SAFE = 2**53 - 1  # ECMAScript's largest safe integer.


def shown(value: Any) -> Any:
    """One cell, ready for JSON."""
    if isinstance(value, Miss):
        return {"miss": value.reason, "words": value.words}
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) > _SAFE:
        return str(value)
    if isinstance(value, str):
        # Lone surrogates cannot be written as UTF-8.
        return value.encode("utf-8", "replace").decode() if not value.isascii() else value
    return value


def shown_rows(rows: Iterable[Sequence[Any]]) -> list[list[Any]]:
    """Rows, ready for JSON."""
    return [[shown(value) for value in row] for row in rows]


def seconds_of(moment: str) -> int:
    """A moment, ISO 8601, in seconds since 1970 (POSIX)."""
    return int(datetime.fromisoformat(moment).timestamp())


def json_response(document: Any) -> Response:
    """A document as a JSON response, written by orjson."""
    try:
        body = orjson.dumps(document)
    except TypeError:
        # Lone surrogates, which a service's words may hold, are written as escapes.
        body = json.dumps(document, default=asdict).encode()
    return Response(body, media_type="application/json")
