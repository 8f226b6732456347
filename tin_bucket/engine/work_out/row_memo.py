"""What was worked out of a stored row by itself, by its id: rows that several snapshots share are worked out once.

A line that looks at one row at a time gives the same for the same content, whatever snapshot the row is seen in. The
row store knows equal rows by one id; so what a line made of a row is kept by that id, and for another snapshot only
the rows are worked out that it does not share.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from tin_bucket.cache import LockedCache
from tin_bucket.core.table.row_expansion import Ints

MOST_KEPT = 6_000_000  # Values of all lines together.


@dataclass(frozen=True, slots=True)
class Known:
    """What is known of some rows.

    Attributes:
        ids: of the rows, ascending. Shape (rows,).
        values: what was worked out of each. Shape (rows,).
    """

    ids: Ints
    values: np.ndarray[Any, np.dtype[np.object_]]


class RowMemo:
    """Values that were worked out of stored rows."""

    def __init__(self, most: int = MOST_KEPT) -> None:
        self._known: LockedCache[str, Known] = LockedCache(most, lambda known: len(known.ids) + 1)

    def values(self, what: str, ids: Ints, work: Callable[[Ints], Sequence[Any]]) -> list[Any]:
        """The values of some rows.

        Args:
            what: says what is worked out, and of what.
            ids: of the rows; a row may come several times. Shape (rows,).
            work: works out the values of the rows at some positions among `ids`.
        """
        known = self._known.get(what)
        if known is None or not len(known.ids):
            distinct, first, inverse = np.unique(ids, return_index=True, return_inverse=True)
            made = _objects(work(first.astype(np.int64)))
            self._known.put(what, Known(distinct, made))
            return list(made[inverse.reshape(-1)].tolist())
        at = np.minimum(np.searchsorted(known.ids, ids), len(known.ids) - 1)
        fresh = np.flatnonzero(known.ids[at] != ids)
        values = known.values[at]
        if len(fresh):
            distinct, first, inverse = np.unique(ids[fresh], return_index=True, return_inverse=True)
            made = _objects(work(fresh[first].astype(np.int64)))
            values[fresh] = made[inverse.reshape(-1)]
            order = np.argsort(np.concatenate([known.ids, distinct]), kind="stable")
            self._known.put(
                what,
                Known(np.concatenate([known.ids, distinct])[order], np.concatenate([known.values, made])[order]),
            )
        return list(values.tolist())


def _objects(values: Sequence[Any]) -> np.ndarray[Any, np.dtype[np.object_]]:
    out = np.empty(len(values), dtype=object)
    out[:] = list(values)
    return out


def digest(*parts: object) -> str:
    """A short name for what is worked out."""
    return hashlib.blake2b(repr(parts).encode("utf-8", "replace"), digest_size=16).hexdigest()
