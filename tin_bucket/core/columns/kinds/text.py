"""Texts."""

from __future__ import annotations

from typing import Any

from tin_bucket.core.columns.kind import ColumnKind
from tin_bucket.core.formats.json import json_text


def as_text(value: Any) -> Any:
    """A value as text; anything else than text as JSON."""
    return value if isinstance(value, str) else json_text(value)


KIND = ColumnKind(name="text", label="text", convert=as_text, of_types=(frozenset(), frozenset({str})))
