"""What no screen shows is left out of a line, and nothing else."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.chart.thin import thinned

VALUE = st.one_of(st.floats(-1e6, 1e6), st.just(float("nan")))
LINE = st.lists(st.tuples(st.floats(0, 1e6), VALUE), min_size=1, max_size=400)


@given(LINE, st.integers(1, 40))
def test_the_lowest_the_highest_the_first_and_the_last_of_each_pixel_stay(points, pixels):
    points = sorted(points, key=lambda one: one[0])
    x, y = (np.array(one, dtype=np.float64) for one in zip(*points, strict=True))
    kept = thinned(x, y, pixels)
    assert kept.tolist() == sorted(set(kept.tolist()))
    if len(x) <= 4 * pixels:
        assert len(kept) == len(x)
        return
    assert {0, len(x) - 1} <= set(kept.tolist())
    span = x[-1] - x[0]
    at = np.minimum(((x - x[0]) / span * pixels).astype(int), pixels - 1) if span > 0 else np.zeros(len(x), dtype=int)
    for pixel in np.unique(at):
        own = np.flatnonzero(at == pixel)
        stay = [place for place in kept.tolist() if place in set(own.tolist())]
        assert {own[0], own[-1]} <= set(stay)
        assert len(stay) <= 5
        there = y[own][~np.isnan(y[own])]
        if len(there):
            drawn = y[stay][~np.isnan(y[stay])]
            assert (drawn.min(), drawn.max()) == (there.min(), there.max())
        # A gap of the pixel is a gap of the line.
        assert bool(np.isnan(y[stay]).any()) == bool(np.isnan(y[own]).any())


def test_a_hundred_thousand_points_become_a_few_thousand():
    x = np.arange(100_000, dtype=np.float64)
    y = np.sin(x / 500) + np.random.default_rng(1).normal(size=100_000) / 5
    kept = thinned(x, y, 900)
    assert len(kept) <= 4 * 900
    assert (y[kept].min(), y[kept].max()) == (y.min(), y.max())
