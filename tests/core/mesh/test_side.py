"""On which side of a surface a point lies: true on sharp corners, proof against spikes, folds and turned triangles."""

from __future__ import annotations

import igl
import numpy as np
import pytest
from solids import plate, sphere

from vane_line.core.measure.clearance import clearance
from vane_line.core.mesh.surface import Surface


def ceiling() -> tuple[Surface, int]:
    """A flat opposing surface at z = 5 that faces down, and the vertex in its middle."""
    surface = plate(-8, 8, -8, 8, 5.0, step=0.2, down=True)
    return surface, int(np.argmin(np.linalg.norm(surface.vertices - [0, 0, 5], axis=1)))


def below(count: int, top: float, seed: int = 3) -> np.ndarray:
    random = np.random.default_rng(seed)
    return random.uniform([-4, -4, -1], [4, 4, top], (count, 3))


def test_a_sharp_high_spot_does_not_turn_what_lies_below_it() -> None:
    """A spike of 2 mm on the opposing teeth: every point under it keeps a positive clearance, and the right amount."""
    surface, middle = ceiling()
    vertices = surface.vertices.copy()
    vertices[middle, 2], vertices[middle + 1, 2] = 3.0, 3.3
    points = below(5000, 2.9)
    gap = clearance(points, surface.with_vertices(vertices))
    assert gap.min() > 0
    tip = np.linalg.norm(points - vertices[middle], axis=1)
    assert (gap <= tip + 1e-9).all()


@pytest.mark.parametrize("times", [1, 3])
def test_a_fold_does_not_turn_what_lies_below_it(times: int) -> None:
    """Vertices pushed past their neighbours: the surface passes through itself, the side is still told."""
    surface, middle = ceiling()
    vertices = surface.vertices.copy()
    for k in range(times):
        vertices[middle + 9 * k] += [0.5, 0.1, -1.2]
        vertices[middle + 9 * k + 3] += [-0.7, 0.3, -0.9]
    points = below(4000, 2.5)
    assert (surface.with_vertices(vertices).signed_distance(points)[0] > 0).all()


def test_single_turned_triangles_do_not_turn_the_side() -> None:
    """Every 37th triangle lies the wrong way round."""
    surface, _ = ceiling()
    faces = surface.faces.copy()
    faces[::37] = faces[::37][:, ::-1]
    turned = Surface(surface.vertices, faces)
    assert (turned.signed_distance(below(4000, 4.5))[0] > 0).all()
    over = below(4000, 4.5) * [1, 1, -1] + [0, 0, 10.5]
    assert (turned.signed_distance(over[over[:, 2] > 5.1])[0] < 0).all()


def test_the_side_of_a_closed_spiky_body_is_the_winding_number_s() -> None:
    """Against a general-purpose library: a ball with spikes and dents, 20 000 points, not one on the wrong side."""
    ball, random = sphere(3.0, grid=0.25), np.random.default_rng(5)
    vertices = ball.vertices.copy()
    some = random.choice(len(vertices), 60, replace=False)
    vertices[some] *= 1 + random.uniform(-0.25, 0.35, 60)[:, None]
    spiky = ball.with_vertices(vertices)
    points = random.uniform(-4, 4, (20_000, 3))
    inside = igl.fast_winding_number(spiky.vertices, spiky.faces, points) > 0.5
    np.testing.assert_array_equal(spiky.signed_distance(points)[0] < 0, inside)


def test_the_sign_at_edges_and_corners_of_a_cube() -> None:
    """Nearest places on edges and corners, where no single triangle's normal tells the side: the distance is exact."""
    corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
    faces = np.array([
        [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4],
        [1, 5, 7], [1, 7, 3],
    ])  # fmt: skip
    cube = Surface(corners, faces.astype(np.int64))
    points = np.random.default_rng(1).uniform(-1, 2, (4000, 3))
    outside = np.maximum(np.maximum(-points, points - 1), 0)
    inside = ((points > 0) & (points < 1)).all(axis=1)
    true = np.where(inside, -np.minimum(points, 1 - points).min(axis=1), np.linalg.norm(outside, axis=1))
    np.testing.assert_allclose(cube.signed_distance(points)[0], true, atol=1e-9)
