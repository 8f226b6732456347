"""Leaves points of a line out that no screen can show: of those that share a pixel the first, the last, the lowest and
the highest stay, so that the drawn line covers the same pixels."""

from __future__ import annotations

import numpy as np

from tin_bucket.core.columns.readings import Floats, Ints


def thinned(x: Floats, y: Floats, pixels: int) -> Ints:
    """Which points are drawn, ascending. Shape (kept,).

    Args:
        x: ascending. Shape (points,).
        y: NaN is a gap, of which one stays for each pixel. Shape (points,).
        pixels: how many there are from the first point to the last.
    """
    count = len(x)
    if count <= 4 * pixels or pixels < 1:
        return np.arange(count, dtype=np.int64)
    span = float(x[-1] - x[0])
    at = np.zeros(count, dtype=np.int64)
    if span > 0:
        at = np.minimum(((x - x[0]) / span * pixels).astype(np.int64), pixels - 1)
    starts = np.flatnonzero(np.r_[True, at[1:] != at[:-1]])
    ends = np.r_[starts[1:], count] - 1
    keep = np.zeros(count, dtype=bool)
    keep[starts] = keep[ends] = True
    gaps = np.isnan(y)
    of_bin = np.repeat(np.arange(len(starts)), ends - starts + 1)
    for values in (np.where(gaps, np.inf, y), np.where(gaps, np.inf, -y)):
        # The first of the lowest of each pixel.
        lowest = np.minimum.reduceat(values, starts)
        found = np.flatnonzero((values == lowest[of_bin]) & ~gaps)
        keep[found[np.unique(of_bin[found], return_index=True)[1]]] = True
    holes = np.flatnonzero(gaps)
    keep[holes[np.unique(of_bin[holes], return_index=True)[1]]] = True
    return np.flatnonzero(keep).astype(np.int64)
