"""A table as an entity set: its properties with their types (CSDL 4.01, §7 and §14), and its values."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.table.table import TableColumn

_TYPES = {
    "text": "Edm.String",
    "whole number": "Edm.Int64",
    "decimal": "Edm.Double",
    "yes/no": "Edm.Boolean",
    "date": "Edm.Date",
    "date and time": "Edm.DateTimeOffset",
    "json": "Edm.String",
}
_MOST = 128  # Characters of an identifier (CSDL 4.01, §15.2).
ROW = "row_number"
_LARGEST = 2**63


@dataclass(frozen=True, slots=True)
class Property:
    """A property of an entity: its name, the column that it is, its type."""

    name: str
    column: TableColumn
    type: str


@dataclass(frozen=True, slots=True)
class EntityType:
    """What the rows of a table are.

    Attributes:
        name: of the entity set.
        properties: in the order of the columns.
        key: the names of the properties that tell rows apart; the number of the row where no column does.
    """

    name: str
    properties: tuple[Property, ...]
    key: tuple[str, ...]

    def of(self, name: str) -> Property | None:
        """A property by its name."""
        return next((one for one in self.properties if one.name == name), None)


def entity_type(name: str, columns: Sequence[TableColumn], match: Sequence[str]) -> EntityType:
    """A table as an entity type.

    Args:
        match: the columns whose values tell rows apart; empty where none do.
    """
    taken = {ROW}
    properties = []
    for column in columns:
        made = identifier(column.name, taken)
        taken.add(made)
        properties.append(Property(made, column, _TYPES.get(column.kind, "Edm.String")))
    key = tuple(one.name for title in match for one in properties if one.column.name == title)
    return EntityType(name, tuple(properties), key if match and len(key) == len(match) else (ROW,))


def identifier(name: str, taken: set[str]) -> str:
    """A name as OData takes one (SimpleIdentifier), distinct from others: letters, digits and underscores."""
    told = "".join(char if f"a{char}".isidentifier() else "_" for char in name)
    plain = re.sub(r"_+", "_", told).strip("_") or "column"
    plain = (plain if plain.isidentifier() else f"_{plain}")[:_MOST]
    made, number = plain, 2
    while made in taken:
        made, number = f"{plain[: _MOST - 6]}_{number}", number + 1
    return made


def odata_value(value: Any, kind: str, exact_text: bool = False) -> Any:
    """A cell as JSON has it (JSON Format 4.01, §7.1).

    Args:
        exact_text: whether whole numbers of 64 bits go as texts (``IEEE754Compatible``).
    """
    if value is None or isinstance(value, Miss):
        return None
    if kind == "date":
        return _day(value)
    if kind == "date and time":
        return _moment(value)
    if kind == "yes/no":
        return bool(value)
    if kind in ("whole number", "decimal"):
        return _number(value, kind, exact_text)
    text = value if isinstance(value, str) else str(value)
    return text if text.isascii() else text.encode("utf-8", "replace").decode()


def _number(value: Any, kind: str, exact_text: bool) -> Any:
    if not isinstance(value, int | float) or (isinstance(value, float) and not math.isfinite(value)):
        return None
    if kind == "decimal":
        return value
    if abs(value) >= _LARGEST or value != int(value):
        return None
    return str(int(value)) if exact_text else int(value)


def _day(value: Any) -> str | None:
    try:
        return date.fromisoformat(str(value)[:10]).isoformat()
    except ValueError:
        return None


def _moment(value: Any) -> str | None:
    """A moment with its offset; one without is taken for UTC."""
    try:
        moment = datetime.fromisoformat(str(value))
    except ValueError:
        return None
    if moment.tzinfo is None:
        moment = moment.replace(tzinfo=UTC)
    told = moment.isoformat(timespec="microseconds" if moment.microsecond else "seconds")
    return told.replace("+00:00", "Z")
