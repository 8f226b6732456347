"""What the parameters of a call may do, how likely each of it is, and what an answer leaves of that.

A *belief* is a pair: what asks for another page, or nothing, and what sets the number of rows, or nothing. Each call
has an outcome that a belief foretells; what an answer contradicts is dropped.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from .rows import Sight

Kind = Literal["number", "offset", "last row", "cursor"]
_SHORT = 0.2  # What foretold more rows than came may still hold: a last page has fewer.


@dataclass(frozen=True, slots=True)
class Effect:
    """A parameter that asks for another page.

    Attributes:
        kind: what its value means.
        name: what it is called.
        first: the number of the first page, or of the first row.
        source: where a mark stands in the answer, or a value in the last row.
        mark: the mark of the first answer.
    """

    kind: Kind
    name: str
    first: int = 0
    source: str = ""
    mark: Any = None


@dataclass(frozen=True, slots=True)
class Given:
    """A value that is sent; `row` is the place of the row that it was taken from."""

    value: Any
    row: int = 0


Plan = Mapping[str, Given]
Belief = tuple[Effect | None, str | None]


def foretold(belief: Belief, plan: Plan, here: int) -> tuple[int, int]:
    """The place of the first row, and the number of rows, that a belief foretells.

    Args:
        here: how many rows the first answer has; a first row at that place or behind is none of them.
    """
    effect, size = belief
    count = here
    if size is not None and size in plan and isinstance(plan[size].value, int):
        count = plan[size].value
    if effect is None or effect.name not in plan:
        return 0, count
    given = plan[effect.name]
    if effect.kind == "number":
        return (int(given.value) - effect.first) * count, count
    if effect.kind == "offset":
        return int(given.value) - effect.first, count
    return (given.row + 1 if effect.kind == "last row" else here), count


def fit(belief: Belief, plan: Plan, sight: Sight, here: int, second: Plan) -> float:
    """How well an answer fits a belief: 1, less where rows are missing, 0 where it contradicts it.

    Args:
        second: the values that brought the rows that `sight.again` tells of.
    """
    start, count = foretold(belief, plan, here)
    if start < 0 or sight.count > count:
        return 0.0
    name = effect_of(belief)
    sized = belief[1] is not None and (belief[1] in plan or belief[1] in second)
    comparable = sight.same_count or not sized or (belief[0] is not None and belief[0].kind == "cursor")
    compared = start >= here and name in second and sight.again is not None and comparable
    if compared and sight.again != (plan[name].value == second[name].value):
        return 0.0
    if start >= here:
        return 0.0 if sight.known else 1.0 if sight.count == count else _SHORT
    if sight.start != start or not sight.in_order:
        return 0.0
    if sight.count == count:
        return 1.0
    return _SHORT if start + count > here and sight.count >= here - start else 0.0


def effect_of(belief: Belief) -> str:
    """The name of what asks for another page."""
    return belief[0].name if belief[0] is not None else ""


class Beliefs:
    """All that may be, each with its weight; the weights add up to 1."""

    def __init__(self, effects: Mapping[Effect, float], nothing: float, sizes: Mapping[str, float], no_size: float):
        """
        Args:
            effects: what may ask for another page, with weights of any sum.
            nothing: how likely it is that none of them does.
            sizes: what may set the number of rows, with weights of any sum.
            no_size: how likely it is that none of them does.
        """
        weighed = _shared(effects, 1 - nothing)
        sized: dict[str | None, float] = dict(_shared(sizes, 1 - no_size))
        sized[None] = no_size if sizes else 1.0
        pairs: list[tuple[Effect | None, float]] = [*weighed.items(), (None, nothing if effects else 1.0)]
        self.weights: dict[Belief, float] = {
            (effect, size): weight * share for effect, weight in pairs for size, share in sized.items()
        }

    def see(self, plan: Plan, sight: Sight, here: int, second: Plan) -> bool:
        """Drop what an answer contradicts; gives whether anything explains it."""
        kept = {one: weight * fit(one, plan, sight, here, second) for one, weight in self.weights.items()}
        total = sum(kept.values())
        if total <= 0:
            return False
        self.weights = {one: weight / total for one, weight in kept.items() if weight > 0}
        return True

    def scale(self, name: str, factor: float) -> None:
        """Make all that a name does so much likelier; 0 drops it."""
        for one in self.weights:
            effect, size = one
            if (effect is not None and effect.name == name) or size == name:
                self.weights[one] *= factor
        total = sum(self.weights.values())
        if total > 0:
            self.weights = {one: weight / total for one, weight in self.weights.items() if weight > 0}
        else:
            self.weights = {(None, None): 1.0}

    def holds(self, name: str) -> bool:
        """Whether a name may still ask for another page."""
        return any(effect is not None and effect.name == name for effect, _ in self.weights)

    def takes_marks(self, name: str) -> bool:
        """Whether a name would take a value of a row, or of an answer."""
        return any(
            effect is not None and effect.name == name and effect.kind in ("last row", "cursor")
            for effect, _ in self.weights
        )

    def effects(self) -> dict[Effect | None, float]:
        """What asks for another page, with its weight, the likeliest first."""
        return _summed((effect, weight) for (effect, _), weight in self.weights.items())

    def sizes(self) -> dict[str | None, float]:
        """What sets the number of rows, with its weight, the likeliest first."""
        return _summed((size, weight) for (_, size), weight in self.weights.items())


def _shared(weights: Mapping[Any, float], total: float) -> dict[Any, float]:
    whole = sum(weights.values())
    return {one: weight / whole * total for one, weight in weights.items()} if whole else {}


def _summed(pairs: Any) -> dict[Any, float]:
    found: dict[Any, float] = {}
    for one, weight in pairs:
        found[one] = found.get(one, 0.0) + weight
    return dict(sorted(found.items(), key=lambda pair: -pair[1]))
