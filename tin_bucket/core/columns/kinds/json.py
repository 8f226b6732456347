"""Lists and objects as JSON text."""

from __future__ import annotations

from tin_bucket.core.columns.kind import ColumnKind

from .text import as_text

KIND = ColumnKind(name="json", label="", convert=as_text)
