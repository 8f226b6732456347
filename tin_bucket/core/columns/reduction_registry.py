"""The registry of list reductions. A further one is a file in ``reductions`` and a line here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from tin_bucket.core.choice import Choice, union_of
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import WILDCARD, Place

from .reduction import Cell, ReductionModel, as_cell, items_of, values_in
from .reductions import count, first, highest, joined, last, lowest, mean, median, nth, sum, where

REDUCTIONS: tuple[Choice[Any], ...] = (
    joined.REDUCTION,
    count.REDUCTION,
    first.REDUCTION,
    last.REDUCTION,
    nth.REDUCTION,
    sum.REDUCTION,
    mean.REDUCTION,
    median.REDUCTION,
    lowest.REDUCTION,
    highest.REDUCTION,
    where.REDUCTION,
)

if TYPE_CHECKING:
    ListReduction = ReductionModel
else:
    ListReduction = union_of("by", REDUCTIONS)


@dataclass(frozen=True, slots=True)
class ItemAt:
    """One item of a list by its index, with which the rest of the place begins; `choice` is for a list behind it."""

    choice: ReductionModel | None


def _item_reader(choice: ReductionModel | None, rest: Place) -> Callable[[list[Any]], Any]:
    cut = rest.index(WILDCARD) if WILDCARD in rest else len(rest)
    inner = list_reader(choice, rest[cut + 1 :]) if cut < len(rest) else None

    def read(items: list[Any]) -> Any:
        found = values_in([items], rest[:cut])
        if inner is None or not found:
            return as_cell(found[0]) if found else None
        behind = items_of(found[0], keyed=False)
        return None if behind is None else inner(behind)

    return read


def list_reader(choice: ReductionModel | ItemAt | None, rest: Place) -> Cell:
    """A function that makes one cell of a list's items.

    Args:
        choice: how; JSON text of the values when absent.
        rest: place of the value in an item; it may lead through further lists, whose values are all meant.
    """
    if choice is None:
        return lambda items: json_text(values_in(items, rest))
    if isinstance(choice, ItemAt):
        return _item_reader(choice.choice, rest)
    return choice.reader(rest)
