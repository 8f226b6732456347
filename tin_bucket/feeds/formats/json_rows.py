"""Tables → JSON (RFC 8259) and JSON Lines: an object a row, with every digit of a whole number."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import Any, BinaryIO

import orjson

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions

from .format import Format, handed_on, utf8_text

_LARGEST = 2**63 - 1  # What orjson writes by itself.


def write_json(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write a list of objects, a line each. What a lookup did not find is null."""
    out.write(b"[")
    for number, line in enumerate(_objects(columns, rows)):
        out.write((b",\n" if number else b"\n") + line)
    out.write(b"\n]\n")
    return FormulaCells()


def write_json_lines(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write an object a line."""
    for line in _objects(columns, rows):
        out.write(line + b"\n")
    return FormulaCells()


def _objects(columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]]) -> Iterator[bytes]:
    columns, rows = handed_on(columns, rows)
    names = [utf8_text(column.name) for column in columns]
    nested = [column.kind == "json" for column in columns]
    for row in rows:
        yield orjson.dumps({name: _value(value, inner) for name, value, inner in zip(names, row, nested, strict=True)})


def _value(value: Any, nested: bool) -> Any:
    """A cell as JSON has it; a list or an object that stands in a cell as text is itself again."""
    if value is None or isinstance(value, Miss):
        return None
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if isinstance(value, int) and abs(value) > _LARGEST:
        return orjson.Fragment(str(value))
    if not isinstance(value, str):
        return value
    if nested and value[:1] in ("[", "{"):
        try:
            orjson.loads(value)
        except orjson.JSONDecodeError:
            return utf8_text(value)
        return orjson.Fragment(value)
    return utf8_text(value)


JSON = Format(ending="json", label="JSON", media_type="application/json", write=write_json)
JSON_LINES = Format(ending="jsonl", label="JSON Lines", media_type="application/jsonl", write=write_json_lines)
