"""A table in memory: named columns of a kind, their values, and where each row came from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from .brief import Kind
from .flatten import Cells, Ints


@dataclass(frozen=True, slots=True)
class TableColumn:
    """What is known of a column.

    Attributes:
        name: distinct within its table.
        kind: what its values are.
        origin: ``taken`` from the records, or the name of the lookup that brought it.
        place: plain JSONPath from the record, or from the lookup's answer.
        unit: what its numbers count, for the heading.
    """

    name: str
    kind: Kind
    origin: str = "taken"
    place: str = ""
    unit: str = ""


@dataclass(slots=True)
class Table:
    """Columns and their values.

    Attributes:
        columns: the headings.
        data: for each column the list of its values, each of the same length.
        page: for each row which page it came from, counted from 0. Shape (rows,).
        record: for each row which record of that page. Shape (rows,).
        item: for each row which item of the list made rows, −1 for none; ``None`` when there is no such list.
    """

    columns: list[TableColumn]
    data: list[Cells]
    page: Ints
    record: Ints
    item: Ints | None = None

    @property
    def height(self) -> int:
        """The number of rows."""
        return len(self.page)

    def column(self, name: str) -> Cells | None:
        """The values of the column with that name, or ``None``."""
        for heading, values in zip(self.columns, self.data, strict=True):
            if heading.name == name:
                return values
        return None

    def rows(self, start: int, stop: int) -> list[tuple[Any, ...]]:
        """The rows from `start` up to `stop`, each a tuple in column order."""
        if not self.data:
            return [()] * max(0, min(stop, self.height) - start)
        return list(zip(*(values[start:stop] for values in self.data), strict=True))


def empty_table() -> Table:
    """A table without rows and columns."""
    none = np.zeros(0, dtype=np.int64)
    return Table([], [], none, none)
