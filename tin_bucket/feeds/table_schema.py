"""Table Schema (Frictionless Standards, version 1): what the columns of a CSV file are, in a JSON file beside it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from tin_bucket.core.table.table import TableColumn

from .formats.format import utf8_text
from .options import DECIMALS, ENCODINGS, LINE_ENDS, SEPARATORS, ExportOptions

_TYPES = {
    "text": "string",
    "whole number": "integer",
    "decimal": "number",
    "yes/no": "boolean",
    "date": "date",
    "date and time": "datetime",
    "json": "string",
}
_CODECS = {"utf-8": "utf-8", "utf-8-bom": "utf-8", "utf-16": "utf-16"}


def table_schema(columns: Sequence[TableColumn], match: Sequence[str], options: ExportOptions) -> dict[str, Any]:
    """The schema of a table, with the dialect of its file.

    Args:
        match: the columns whose values say which row is which.
    """
    fields = []
    for column in columns:
        field: dict[str, Any] = {"name": utf8_text(column.name), "type": _TYPES.get(column.kind, "string")}
        if column.kind == "decimal" and options.decimal != "point":
            field["decimalChar"] = DECIMALS[options.decimal]
        if column.kind == "date and time":
            field["format"] = "any"
        if column.unit:
            field["unit"] = utf8_text(column.unit)
        if column.note:
            field["description"] = utf8_text(column.note)
        fields.append(field)
    schema: dict[str, Any] = {"fields": fields, "missingValues": [""]}
    names = {column.name for column in columns}
    if match and set(match) <= names:
        schema["primaryKey"] = list(match)
    return schema


def table_resource(path: str, columns: Sequence[TableColumn], match: Sequence[str], options: ExportOptions) -> bytes:
    """The file that stands beside a CSV file: a tabular data resource with its schema.

    Args:
        path: the name of the CSV file.
    """
    dialect = {
        "delimiter": SEPARATORS[options.separator],
        "lineTerminator": LINE_ENDS[options.line_ends],
        "header": options.headings,
    }
    made = {
        "profile": "tabular-data-resource",
        "name": "".join(char if char.isalnum() else "-" for char in path.rpartition(".")[0].lower()),
        "path": path,
        "encoding": _CODECS[options.encoding] if options.encoding in ENCODINGS else "utf-8",
        "dialect": dialect,
        "schema": table_schema(columns, match, options),
    }
    return (json.dumps(made, indent=1, ensure_ascii=False) + "\n").encode()
