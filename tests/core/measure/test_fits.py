"""Straight lines through stretches of many profiles at once, against numpy's decompositions."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.trace.edge import MAX_SHIFT_MM, edges_at
from vane_line.core.trace.fits import Lines, straight_fits, stretches
from vane_line.core.trace.section import STEP_MM

ANGLES = np.array([0.0, 17.0, 45.0, 89.9, 90.0, 135.0, 179.0])


def test_a_straight_fit_is_the_singular_value_decomposition_s() -> None:
    """Against numpy's SVD on noisy points along lines, each over its own stretch: same middle, same direction but for
    its sign."""
    random, a = np.random.default_rng(4), np.radians(ANGLES)[:, None, None]
    along = np.linspace(0, 0.5, 11)[:, None]
    points = along * np.concatenate([np.cos(a), np.sin(a)], axis=2) + 0.01 * random.standard_normal((7, 11, 2)) + [4, 1]
    first, last = np.array([1, 0, 2, 3, 1, 0, 5]), np.array([7, 10, 4, 9, 6, 2, 10])
    fit = straight_fits(points[..., 0], points[..., 1], first, last)
    assert np.isfinite(fit.direction).all()
    for k in range(len(ANGLES)):
        wanted = points[k, first[k] : last[k] + 1]
        np.testing.assert_allclose(fit.middle[k], wanted.mean(axis=0), atol=1e-12)
        turned = np.linalg.svd(wanted - wanted.mean(axis=0))[2][0]
        assert abs(fit.direction[k] @ turned) == pytest.approx(1.0, abs=1e-9)


def test_a_straight_fit_needs_three_points_that_were_seen() -> None:
    """Too few, out of reach or unseen: none."""
    r, h = np.tile(np.arange(6.0), (5, 1)), np.tile([0, 1, np.nan, 3, 4, 5.0], (5, 1))
    fit = straight_fits(r, h, np.array([0, 4, -1, 1, 3]), np.array([1, 6, 3, 4, 5]))
    assert np.isfinite(fit.direction[:, 0]).tolist() == [False, False, False, False, True]
    assert np.isnan(fit.middle[:4]).all()


def test_a_stretch_is_nan_past_its_end_and_off_the_grid() -> None:
    """Each profile's own samples, as many columns as the longest has."""
    grid = np.arange(12.0).reshape(3, 4)
    got = stretches(grid, np.array([-1, 1, 3]), np.array([1, 3, 3]))
    np.testing.assert_array_equal(got, [[np.nan, 0, 1], [5, 6, 7], [11, np.nan, np.nan]])


def test_lines_meet_where_the_linear_system_says() -> None:
    """Against numpy's solver; lines that are nearly parallel do not meet."""
    random = np.random.default_rng(3)
    turn, other = random.uniform(0, np.pi, (2, 40))
    first = Lines(random.normal(size=(40, 2)), np.stack([np.cos(turn), np.sin(turn)], axis=1))
    second = Lines(random.normal(size=(40, 2)), np.stack([np.cos(other), np.sin(other)], axis=1))
    meet = first.meet(second)
    crossing = np.abs(np.sin(turn - other)) >= 0.2
    assert 20 < crossing.sum() < 40
    np.testing.assert_array_equal(np.isfinite(meet[:, 0]), crossing)
    for k in np.flatnonzero(crossing):
        matrix = np.stack([first.direction[k], -second.direction[k]], axis=1)
        t, _ = np.linalg.solve(matrix, second.middle[k] - first.middle[k])
        np.testing.assert_allclose(meet[k], first.middle[k] + t * first.direction[k], atol=1e-9)


def test_edges_lie_where_their_two_sides_meet() -> None:
    """A ledge that ends in a root: the scan's edge, cut off between two samples, is put back; where a side ends too
    soon, and where the sides hardly turn, the crease itself is the edge."""
    corner = np.array([5.02, 1.0])
    s = STEP_MM * np.arange(-20, 21)[:, None] + 0.02
    ledge, root = np.array([1.0, 0.0]), np.array([np.cos(-1.2), np.sin(-1.2)])
    whole = np.where(s < 0, corner + s * ledge, corner + s * root)
    ended = whole.copy()
    ended[22:] = np.nan
    straight = corner + s * ledge
    radius, height = np.stack([whole, ended, straight]).transpose(2, 0, 1)
    crease = np.array([20, 20, 20])
    edge = edges_at(radius, height, crease, 0.0)
    np.testing.assert_allclose(edge[0], corner, atol=1e-9)
    for k in (1, 2):
        np.testing.assert_array_equal(edge[k], [radius[k, 20], height[k, 20]])
    assert np.hypot(*(edge[0] - whole[20])) < MAX_SHIFT_MM
