"""The small helpers on rings and points that many measures share."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import maximum_filter

from vane_line.core.pictures import highest_within
from vane_line.core.rings import in_runs, longest_run, running_median, true_about
from vane_line.core.spread import middling, near_cells, thinned_index, weighted_quantile


@pytest.mark.parametrize("count", [1, 5, 72, 360])
@pytest.mark.parametrize("half", [1, 4, 40])
def test_a_running_median_is_that_of_numpy(count: int, half: int) -> None:
    """Gaps, and places that count as lower than all, included: to the last bit, where enough is known."""
    random = np.random.default_rng(count + half)
    values = random.normal(size=count)
    values[random.random(count) < 0.3], values[random.random(count) < 0.2] = np.nan, -np.inf
    for least in (1, 3):
        found = running_median(values, half, least)
        for k, told in enumerate(found):
            around = values[np.arange(k - half, k + half + 1) % count]
            known = np.isfinite(around).sum() >= least
            np.testing.assert_array_equal(told, np.nanmedian(around) if known else np.nan)


@pytest.mark.parametrize("shape", [(50, 60), (20, 7), (3, 2), (1, 40), (40, 1)])
@pytest.mark.parametrize("reach", [0, 1, 6, 8])
def test_the_highest_within_a_disc_is_that_of_scipy(shape: tuple[int, int], reach: int) -> None:
    picture = np.random.default_rng(reach).normal(size=shape)
    picture[picture < -0.5] = -np.inf
    i, j = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    true = maximum_filter(picture, footprint=i**2 + j**2 <= reach**2, mode="constant", cval=-np.inf)
    np.testing.assert_array_equal(highest_within(picture, reach), true)


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


def test_runs_of_a_ring_go_over_its_seam() -> None:
    """Two at the end and three at the beginning are one of five; a place is true all about within it."""
    ring = np.array([1, 1, 1, 0, 1, 1, 0, 0, 1, 1], dtype=bool)
    assert longest_run(ring) == 5
    assert (longest_run(np.ones(7, dtype=bool)), longest_run(np.zeros(7, dtype=bool))) == (7, 0)
    np.testing.assert_array_equal(np.flatnonzero(true_about(ring, 1)), [0, 1, 9])
    np.testing.assert_array_equal(true_about(ring, 0), ring)


def test_thinned_points_are_some_of_them_one_per_cube() -> None:
    """Fewer than before, each a measured one, every cube still spoken for."""
    points = np.random.default_rng(2).uniform(0, 3, (4000, 3))
    some = points[thinned_index(points, 0.5)]
    assert len(some) < 600
    assert {tuple(p) for p in some} <= {tuple(p) for p in points}
    gap = np.linalg.norm(points[:, None] - some[None], axis=2).min(axis=1)
    assert gap.max() < 0.5 * np.sqrt(3)


def test_which_points_are_kept_does_not_hang_on_their_order() -> None:
    """Shuffled, the same places are kept."""
    points = np.random.default_rng(3).uniform(0, 3, (4000, 3))
    order = np.random.default_rng(4).permutation(4000)
    here, there = points[thinned_index(points, 0.5)], points[order][thinned_index(points[order], 0.5)]
    assert {tuple(p) for p in here} == {tuple(p) for p in there}


def test_a_blurred_quantile_moves_evenly() -> None:
    """Between two values a plain quantile jumps, a blurred one goes over by degrees; on a straight rise they agree."""
    weights = np.ones(100)
    rise = np.linspace(0, 1, 100)
    assert weighted_quantile(rise, weights, 0.3, 0.05) == pytest.approx(weighted_quantile(rise, weights, 0.3), abs=0.01)
    step = np.r_[np.zeros(50), np.ones(50)]
    shares = [weighted_quantile(step, weights, q, 0.05) for q in (0.40, 0.48, 0.50, 0.52, 0.60)]
    np.testing.assert_allclose(shares, [0, 0.3, 0.5, 0.7, 1.0], atol=1e-9)


def test_cells_beside_those_that_hold_something() -> None:
    """Against each pair by itself: the cubes of two points differ by one at most along every axis."""
    random = np.random.default_rng(5)
    points, others, size = random.uniform(-4, 4, (300, 3)), random.uniform(-2, 6, (40, 3)), 0.7
    low = np.minimum(points.min(axis=0), others.min(axis=0))
    cube = [np.floor((some - low) / size + 2).astype(int) for some in (points, others)]
    brute = (np.abs(cube[0][:, None] - cube[1][None]).max(axis=2) <= 1).any(axis=1)
    assert 0 < brute.sum() < len(points)
    assert (near_cells(points, others, size) == brute).all()


@pytest.mark.parametrize("count", [1, 2, 7, 31, 200])
def test_what_most_values_agree_on_moves_evenly(count: int) -> None:
    """A value that goes from below all others to above them takes the middle with it by no more than the values beside
    the middle lie apart, and no step of its way by more than its share; a median jumps."""
    values = np.random.default_rng(count).normal(size=count).cumsum()
    steps = np.linspace(values.min() - 1, values.max() + 1, 2001)
    told = np.array([middling(np.r_[step, values[1:]]) for step in steps])
    share = 2.5 / count * (steps[1] - steps[0])
    assert (np.diff(told) >= -1e-12).all()
    assert np.diff(told).max() <= share + 1e-12


def test_what_most_values_agree_on_is_no_outlier_s() -> None:
    """Three tenths of the values at most, all to one side, only shifts which of the others agree; order has no say."""
    random = np.random.default_rng(5)
    sound = random.normal(4.0, 0.01, 60)
    values = np.r_[sound, np.full(25, 40.0)]
    assert middling(random.permutation(values)) == pytest.approx(middling(values), abs=1e-12)
    assert middling(values) == pytest.approx(4.0, abs=0.02)
    assert middling(sound) == pytest.approx(float(np.median(sound)), abs=0.004)
    assert np.isnan(middling(np.zeros(0)))


def test_short_runs_of_a_ring_are_left_out() -> None:
    """One that goes over the ring's end counts as a whole."""
    mask = np.array([1, 1, 0, 1, 0, 0, 1, 1, 1, 0, 1], dtype=bool)
    assert in_runs(mask, 3).astype(int).tolist() == [1, 1, 0, 0, 0, 0, 1, 1, 1, 0, 1]
    assert in_runs(mask, 4).sum() == 0
    assert in_runs(np.ones(5, dtype=bool), 5).all()
    assert not in_runs(np.zeros(5, dtype=bool), 1).any()
