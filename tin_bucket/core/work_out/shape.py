"""What a work-out line knows of the table before it: its columns, and the tables that it may reach."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.problem import ProblemError, fail


@dataclass(frozen=True, slots=True)
class ColumnShape:
    """A column as a line sees it.

    Attributes:
        kind: what its values are.
        unit: what its numbers count.
        has_texts: whether there are texts among its values; it is asked only when that matters.
    """

    name: str
    kind: str
    unit: str = ""
    has_texts: Callable[[], bool] = lambda: True

    @property
    def texts(self) -> bool:
        """Whether there are texts among its values."""
        return self.has_texts()

    @property
    def numeric(self) -> bool:
        """Whether it is a column of numbers."""
        return kind_of(self.kind).numeric

    @property
    def temporal(self) -> bool:
        """Whether it is a column of dates."""
        return kind_of(self.kind).temporal


@dataclass(frozen=True, slots=True)
class Shape:
    """A table as a line sees it.

    Attributes:
        columns: in their order.
        as_of: the moment that the table is of, ISO 8601.
        values: the distinct values of a column, for lines whose columns depend on them.
    """

    columns: Sequence[ColumnShape]
    as_of: str = ""
    values: Callable[[str], list[Any]] = field(default=lambda name: [])

    @property
    def names(self) -> list[str]:
        """The names of the columns."""
        return [column.name for column in self.columns]

    def find(self, name: str) -> ColumnShape | None:
        """The column with a name; where there is none, the only one that differs from it in case."""
        exact = next((one for one in self.columns if one.name == name), None)
        if exact is not None:
            return exact
        folded = [one for one in self.columns if one.name.lower() == name.lower()]
        return folded[0] if len(folded) == 1 else None

    def column(self, name: str) -> ColumnShape:
        """The column with a name.

        Raises:
            ProblemError: ``column-unknown``.
        """
        found = next((one for one in self.columns if one.name == name), None)
        if found is None:
            raise column_unknown(name, self.names)
        return found

    def check_new(self, name: str) -> None:
        """Check that a new column's name is free.

        Raises:
            ProblemError: ``column-twice``.
        """
        if any(one.name == name for one in self.columns):
            raise fail(
                "column-twice",
                f"The table has a column “{name[:200]}” already.",
                where="the name of the new column",
                do="Give the new column another name.",
            )


def column_unknown(name: str, names: Sequence[str]) -> ProblemError:
    """The problem of a column that is not there, with those that are."""
    some = ", ".join(f"“{one[:60]}”" for one in names[:8]) + (" …" if len(names) > 8 else "")
    return fail(
        "column-unknown",
        f"The table has no column “{name[:200]}” here.",
        where=f"column “{name[:200]}”",
        do=f"Choose another column; there are {some}." if names else "The table has no columns here.",
    )
