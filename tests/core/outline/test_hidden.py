"""What hangs over a cut along a path, on prisms whose outline is known."""

from __future__ import annotations

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.hidden import FLOOR_COSINE, hidden_depth
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import unit

STEP_MM = 0.1


def prism(outline: Floats) -> Surface:
    """The outline (N, 2), x and z, drawn out along y from -1 to 1; its normals look to the left of its way."""
    legs = np.linalg.norm(np.diff(outline, axis=0), axis=1)
    at = np.r_[0.0, legs.cumsum()]
    fine = np.unique(np.r_[at, np.arange(0, at[-1], STEP_MM)])
    x, z = (np.interp(fine, at, outline[:, k]) for k in (0, 1))
    rows = np.arange(-1, 1 + STEP_MM / 2, STEP_MM)
    points = np.stack([np.tile(x, len(rows)), np.repeat(rows, len(x)), np.tile(z, len(rows))], axis=1)
    k, row = np.meshgrid(np.arange(len(x) - 1), np.arange(len(rows) - 1))
    a = (row * len(x) + k).ravel()
    b, c, d = a + 1, a + 1 + len(x), a + len(x)
    return Surface(points, np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)]))


def along(direction: Floats) -> Axes:
    return Axes.make(np.zeros(3), direction, np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0]))


def test_a_floor_at_the_foot_of_a_wall_is_not_hidden_by_it() -> None:
    """A thin fin stands on the floor's end; along a path that leans away from the fin the floor looks towards it, and
    nothing hangs over its foot."""
    fin = np.array([[3.0, 0.0], [0.0, 0.0], [-0.2, 1.2], [-0.5, 0.0], [-2.0, -0.5]])[::-1]
    surface = prism(fin)
    axes = along(unit(np.array([0.87, 0.0, 0.49])))
    floor = np.abs(surface.vertices[:, 2]) < 1e-9
    floor &= surface.vertices[:, 0] > -1e-9
    assert np.abs(np.array([0.0, 0.0, 1.0]) @ axes.up) < FLOOR_COSINE  # it counts as a wall along this path
    part, _ = surface.keep_vertices(floor)  # the fin itself is no part of the cut
    assert part.n_vertices > 100
    assert hidden_depth(surface, part, axes)[0].max() == 0.0


@pytest.mark.parametrize("over_mm", [0.1, 0.3, 0.8])
def test_a_wall_under_an_eave_is_hidden_by_as_much_as_it_reaches_out(over_mm: float) -> None:
    """An upright wall with a square eave over it, looked at from straight above."""
    wall = np.array([[-3.0, 2.0], [over_mm, 2.0], [over_mm, 1.5], [0.0, 1.5], [0.0, 0.0], [3.0, 0.0]])
    surface = prism(wall)
    depth, across = hidden_depth(surface, surface, along(np.array([0.0, 0.0, 1.0])))
    x, y, z = surface.vertices.T
    middle = (np.abs(x) < 1e-9) & (z > 0.4) & (z < 1.1) & (np.abs(y) < 0.6)
    assert middle.sum() > 20
    np.testing.assert_allclose(depth[middle], over_mm, atol=0.01)
    np.testing.assert_allclose(across[middle][:, 0], 1.0, atol=0.01)
    free = (np.abs(z - 2.0) < 1e-9) & (x < 0)
    assert depth[free].max() == 0.0
