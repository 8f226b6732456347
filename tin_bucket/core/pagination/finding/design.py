"""Which values the next call sends, so that its answer tells as many beliefs apart as can be.

A small number of rows tells which of several sizes was heeded; the place of the first row tells which of several
parameters was. What no place can tell goes together, half of it by weight.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from .effects import Beliefs, Effect, Given, Plan
from .rows import FirstRows

SURE = 0.97  # The weight from which a thing counts as known.
_MOST_NAMES = 64  # Of a kind in one call.
_FEW = 10  # Rows below which too few sizes could be told apart.
_FAR = 40  # Page numbers and rows that are sent to tell names apart go no further.


@dataclass(frozen=True, slots=True)
class Second:
    """What is known of the rows behind the first page.

    Attributes:
        values: what was sent for them, of names that are not told apart yet.
        mark: the mark that came with them, if one did.
    """

    values: Plan = field(default_factory=dict)
    mark: Any = None


def next_values(
    beliefs: Beliefs, first: FirstRows, least: int, alone: bool, left: int, second: Second
) -> dict[str, Given]:
    """What the next call sends: name → value.

    Args:
        beliefs: what may be.
        first: the rows of the first answer.
        least: the fewest rows that the API gives on a page.
        left: how many further calls can be made after this one.
        second: what is known of the rows behind the first page.
        alone: whether one name is sent at a time, because the API refuses what it does not know.
    """
    here = first.count
    plan, counts = _sizes(beliefs, here, least, alone)
    effects = beliefs.effects()
    names: dict[str, list[Effect]] = {}
    for effect in effects:
        if effect is not None:
            names.setdefault(effect.name, []).append(effect)
    weight = {name: sum(effects[one] for one in group) for name, group in names.items()}
    ranked = sorted(names, key=lambda name: -weight[name])
    if len(ranked) == 1 and effects.get(None, 0.0) < 1 - SURE:
        return plan | _of_one(names[ranked[0]], here, counts)
    used: set[int] = {0}
    if len(counts) > 1:
        used |= {one * times for one in counts for times in (1, 2)}
    together: list[str] = []
    for name in ranked[: 1 if alone else _MOST_NAMES]:
        given = _told_apart(names[name], first, counts, used)
        if given is not None:
            plan[name] = given
        else:
            together.append(name)
    if alone:
        return plan | {name: _behind(names[name][0], first, counts) for name in together}
    marks = any(names[name][0].kind == "cursor" for name in together)
    if second.values and len(counts) == 1 and (second.mark is not None or not marks):
        # Three outcomes: the rows of the first page, those that were seen since, and others.
        part = -(-len(together) // 3)
        for at, name in enumerate(together[: 2 * part] if len(together) > 2 else together):
            again = second.values.get(name)
            if again is not None and at % 2 == 0:
                plan[name] = again
            else:
                plan[name] = _further(names[name][0], first, counts, again, second.mark)
        return plan
    half = (sum(weight[name] for name in together) + effects.get(None, 0.0)) / 2
    for name in _half(together, weight, half, left):
        plan[name] = _behind(names[name][0], first, counts)
    return plan


def _further(effect: Effect, first: FirstRows, counts: Sequence[int], again: Given | None, mark: Any) -> Given:
    """A value that asks for rows other than those that another value brought."""
    if effect.kind == "cursor":
        return Given(mark)
    behind = _behind(effect, first, counts)
    if effect.kind not in ("number", "offset") or again is None:
        return behind
    return Given(int(again.value) + 1)


def _half(ranked: Sequence[str], weight: Mapping[str, float], half: float, left: int) -> Sequence[str]:
    """The likeliest names that have half of the weight together; but so many on either side as the calls that are left
    can tell apart."""
    most = 2**left
    count, so_far = 0, 0.0
    while count < len(ranked) and count < most and (so_far < half or len(ranked) - count >= most):
        so_far += weight[ranked[count]]
        count += 1
    return ranked[:count]


def _sizes(beliefs: Beliefs, here: int, least: int, alone: bool) -> tuple[dict[str, Given], list[int]]:
    """The sizes that are sent, and how many rows may come."""
    sizes = beliefs.sizes()
    best = next(iter(sizes))
    if sizes[best] >= SURE:
        if best is None or here <= least:
            return {}, [here]
        return {best: Given(least)}, [least]
    plan: dict[str, Given] = {}
    if here < _FEW:
        return plan, [here]
    value = here - 1
    for name in [one for one in sizes if one is not None][: 0 if alone else _MOST_NAMES]:
        if value <= max(here // 2, least - 1):
            break
        plan[name] = Given(value)
        value -= 1
    return plan, [here, *(int(one.value) for one in plan.values())]


def _of_one(group: Sequence[Effect], here: int, counts: Sequence[int]) -> dict[str, Given]:
    """One name is left, and where it begins to count is not known: the first page or row itself is asked for."""
    effect = group[0]
    if effect.kind == "number":
        return {effect.name: Given(1)} if counts == [here] else {effect.name: Given(2)}
    if effect.kind == "offset":
        return {effect.name: Given(2 if here > 2 else 1)}
    return {effect.name: Given(effect.mark)}


def _told_apart(group: Sequence[Effect], first: FirstRows, counts: Sequence[int], used: set[int]) -> Given | None:
    """A value whose outcome no other name has, whatever of the group holds; its outcomes are then used."""
    here, kind = first.count, group[0].kind
    if not first.distinct or kind == "cursor" or (kind == "number" and len(counts) > 1):
        return None
    for at in range(1, min(here, _FAR)):
        if kind == "last row":
            outcomes, given = {at + 1}, _of_row(group[0], first, at)
        elif kind == "offset":
            outcomes, given = {at - one.first for one in group}, Given(at)
        else:
            outcomes, given = {(at - one.first) * counts[0] for one in group}, Given(at)
        if not outcomes & used and min(outcomes) > 0 and max(outcomes) < here:
            used |= outcomes
            return given
    return None


def _behind(effect: Effect, first: FirstRows, counts: Sequence[int]) -> Given:
    """A value that asks for rows behind those that are here."""
    if effect.kind == "number":
        return Given(2 if len(counts) > 1 else -(-first.count // counts[0]) + 1)
    if effect.kind == "offset":
        return Given(first.count + 1)
    return Given(effect.mark) if effect.kind == "cursor" else _of_row(effect, first, first.count - 1)


def _of_row(effect: Effect, first: FirstRows, at: int) -> Given:
    record: Any = first.records[at]
    return Given(record if first.key is None else record[first.key], at)
