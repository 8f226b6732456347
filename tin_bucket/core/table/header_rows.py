"""Records that are lists of values, such as the rows of a sheet: their columns' names, and records made of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tin_bucket.core.columns.reduction import text_of
from tin_bucket.core.document.extraction import Heads, HeadsBeside, HeadsGiven
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import Problem


class HeaderRows:
    """Makes records of lists of values, page by page; the first page's names hold for pages that have none."""

    def __init__(self, heads: Heads) -> None:
        self._heads = heads
        self.names: list[str] | None = None
        self.problem: Problem | None = None

    def names_of(self, values: Sequence[Any], document: Any) -> tuple[list[str], int]:
        """The names for a page, and how many of its first rows are no records.

        Args:
            values: the page's records as they were picked.
            document: the page's answer, for names that stand beside the records.
        """
        found: list[str] | None = None
        skipped = 0
        if isinstance(self._heads, HeadsGiven):
            found = self._heads.names
        elif isinstance(self._heads, HeadsBeside):
            beside = pick(document, self._heads.place).values
            if len(beside) == 1 and isinstance(beside[0], list):
                beside = beside[0]
            found = [text_of(name) for name in beside] or None
            if found is None and self.names is None:
                self.problem = Problem(
                    "no-heads-there",
                    f"There are no names of columns at {self._heads.place}.",
                    "take, heads",
                    "Open Answers and look where the names stand, or say that they are in the first row.",
                )
        elif values and isinstance(values[0], list):
            first = [text_of(name) for name in values[0]]
            # A later page may repeat the names, in any order, or begin with rows.
            if self.names is None or sorted(first) == sorted(self.names):
                found, skipped = _distinct(first), 1
        if self.names is None and found is not None:
            self.names = _distinct(found)
        return _distinct(found or self.names or []), skipped

    def records(self, values: Sequence[Any], document: Any) -> tuple[list[Any], int]:
        """The page's records as objects, and how many of its first rows were names."""
        names, skipped = self.names_of(values, document)
        width = len(names)
        out: list[Any] = []
        for value in values[skipped:] if skipped else values:
            if not isinstance(value, list):
                out.append(value)
            elif len(value) <= width:
                out.append(dict(zip(names, value, strict=False)))
            else:
                more = [f"column {at}" for at in range(width + 1, len(value) + 1)]
                out.append(dict(zip([*names, *more], value, strict=True)))
        return out, skipped


def _distinct(names: Sequence[str]) -> list[str]:
    """Names that come twice get a number, empty ones too."""
    out: list[str] = []
    seen: set[str] = set()
    for at, name in enumerate(names, 1):
        base = name if name.strip() else f"column {at}"
        made, number = base, 2
        while made in seen:
            made, number = f"{base} ({number})", number + 1
        seen.add(made)
        out.append(made)
    return out


def index_of(names: Sequence[str], name: str) -> int | None:
    """Where in a list of values a named one stands."""
    if name in names:
        return list(names).index(name)
    _, _, number = name.partition("column ")
    return int(number) - 1 if number.isdecimal() and int(number) > len(names) else None
