"""Parsed answers that are looked at now, kept for a while: reading them in another way does not parse them again."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from tin_bucket.cache import LockedCache
from tin_bucket.core.response.classify import Verdict, classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer
from tin_bucket.gc_pause import collector_paused

MOST_BYTES = 24 * 2**20  # Of the answers as they came; parsed they take about ten times as much.


class Documents:
    """The latest parsed answers. The newest one is kept however large it is."""

    def __init__(self) -> None:
        # The owner is kept with it, so that its number in memory stays its own.
        self._kept: LockedCache[Any, tuple[Any, Verdict, int]] = LockedCache(MOST_BYTES, lambda kept: kept[2])

    def classified(
        self,
        owner: Any,
        index: int,
        load: Callable[[], Answer],
        error_rules: Sequence[ErrorRule] = (),
        keep: bool = True,
    ) -> Verdict:
        """The verdict on an answer.

        Args:
            owner: what the answer belongs to: a tuple that names it, or an object that is compared by identity.
            index: which of the owner's answers.
            load: gives the answer when it is not here.
            error_rules: the service's rules for errors inside answers.
            keep: whether it is worth keeping.
        """
        rules = tuple((rule.at, rule.words) for rule in error_rules)
        key = (owner if isinstance(owner, tuple) else id(owner), index, rules)
        known = self._kept.get(key)
        if known is not None:
            return known[1]
        answer = load()
        with collector_paused():
            verdict = classify(answer, error_rules)
        if keep:
            self._kept.put(key, (owner, verdict, answer.length))
        return verdict
