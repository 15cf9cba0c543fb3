"""The small helpers on rings and points that many measures share."""

from __future__ import annotations

import numpy as np

from vane_line.core.arrays import running_median, thinned


def test_a_running_median_goes_round_and_leaves_a_spike_out() -> None:
    """One wild value is not seen; the first place has the last as its neighbour; the unknown stays unknown."""
    values = np.r_[1.0, np.ones(20), 9.0, np.ones(20)]
    np.testing.assert_array_equal(running_median(values, 2), 1.0)
    ring = np.r_[5.0, np.zeros(8), 5.0]
    assert running_median(ring, 1)[0] == 5.0
    assert running_median(ring, 1)[1] == 0.0
    gaps = np.full(12, np.nan)
    gaps[3] = 2.0
    np.testing.assert_array_equal(np.flatnonzero(np.isfinite(running_median(gaps, 1))), [2, 3, 4])


def test_thinned_points_are_some_of_them_one_per_cube() -> None:
    """Fewer than before, each a measured one, every cube still spoken for."""
    points = np.random.default_rng(2).uniform(0, 3, (4000, 3))
    some = thinned(points, 0.5)
    assert len(some) < 600
    assert {tuple(p) for p in some} <= {tuple(p) for p in points}
    gap = np.linalg.norm(points[:, None] - some[None], axis=2).min(axis=1)
    assert gap.max() < 0.5 * np.sqrt(3)
