"""How a brief differs from an earlier one that a table was made with: by its calls, or by its reading of answers."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.request.parameters.models import Parameter
from tin_bucket.core.request.parameters.values import Given

from .look_up import LookUp
from .query import Brief

# What is said about a parameter, and what was found out about pages, changes no call.
_SAID_OF_PARAMETERS = frozenset({"label", "hint", "ask"})
_KNOWN_OF_PAGES = frozenset({"said", "total_proved"})
_DATES = frozenset({"date", "date and time", "month"})
_READ_OF_LOOKUPS = frozenset({"take", "name", "records", "several", "where", "count", "keep_for"})


@dataclass(frozen=True, slots=True)
class MadeWith:
    """What of a brief was changed since a table was made with it.

    Attributes:
        asks: whether other calls would be made now.
        reads: whether the same answers would give another table.
    """

    asks: bool
    reads: bool


def changed_since(made: Brief, now: Brief) -> MadeWith | None:
    """How a brief differs from the one that a table was made with; ``None`` where the table would be the same.

    Names, notes, schedules and how long answers are kept have no part in a table.
    """
    asks = _asking(made) != _asking(now) or _rows(now) > _rows(made)
    reads = made.take != now.take or [_read(one) for one in made.look_up] != [_read(one) for one in now.look_up]
    return MadeWith(asks, reads) if asks or reads else None


def other_values(parameters: Iterable[Parameter], was: Mapping[str, Given], now: Mapping[str, Given]) -> list[str]:
    """The names of the parameters with another value than before. Dates move with the calendar, and are no news."""
    dates = {one.name for one in parameters if one.kind in _DATES}
    return [name for name in dict.fromkeys([*was, *now]) if name not in dates and was.get(name) != now.get(name)]


def _asking(brief: Brief) -> dict[str, Any]:
    parts = brief.model_dump(include={"ask", "sheet", "each"}, by_alias=True)
    parts["parameters"] = [one.model_dump(exclude=set(_SAID_OF_PARAMETERS)) for one in brief.parameters]
    parts["pages"] = brief.pages.model_dump(exclude=set(_KNOWN_OF_PAGES))
    parts["look_up"] = [one.model_dump(exclude=set(_READ_OF_LOOKUPS), by_alias=True) for one in brief.look_up]
    return parts


def _rows(brief: Brief) -> float:
    """How many rows may be asked for."""
    return math.inf if brief.take.most_rows is None else brief.take.most_rows


def _read(look_up: LookUp) -> tuple[Any, ...]:
    return look_up.name, look_up.take, look_up.records, look_up.several, look_up.where, look_up.count
