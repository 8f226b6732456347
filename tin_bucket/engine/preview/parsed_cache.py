"""Parsed answers that are looked at now, kept for a while: reading them in another way does not parse them again."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from threading import Lock
from typing import Any

from tin_bucket.core.response.classify import Verdict, classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer

MOST_BYTES = 24 * 2**20  # Of the answers as they came; parsed they take about ten times as much.


class Documents:
    """The latest parsed answers. The newest one is kept however large it is."""

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[Any, ...], tuple[Any, Verdict, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

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
            owner: what the answer belongs to: a tuple that names it, or an object that is told by being the same.
            index: which of the owner's answers.
            load: gives the answer when it is not here.
            error_rules: the service's rules for errors inside answers.
            keep: whether it is worth keeping.
        """
        rules = tuple((fault.at, fault.words) for fault in error_rules)
        key = (owner if isinstance(owner, tuple) else id(owner), index, rules)
        with self._lock:
            known = self._kept.get(key)
            if known is not None:
                self._kept.move_to_end(key)
                return known[1]
        answer = load()
        verdict = classify(answer, error_rules)
        if keep:
            with self._lock:
                # The owner is kept with it, so that its number in memory stays its own.
                if key not in self._kept:
                    self._kept[key] = (owner, verdict, answer.length)
                    self._bytes += answer.length
                while len(self._kept) > 1 and self._bytes > MOST_BYTES:
                    self._bytes -= self._kept.popitem(last=False)[1][2]
        return verdict
