"""What differs between two tables, as it is handed on."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.table.table import TableColumn


@dataclass(frozen=True, slots=True)
class KindOfChange:
    """The rows of one kind of change, as a table.

    Attributes:
        kind: ``changed``, ``new``, or ``gone``.
        rows: they are read while they are written, once.
        marks: names of a column and of the one behind it that says what it was; the latter has a value just where the
            first one changed.
        total: how many rows there are.
    """

    kind: str
    columns: Sequence[TableColumn]
    rows: Iterable[Sequence[Any]]
    marks: Sequence[tuple[str, str]]
    total: int
