"""The tape laid on a surface, against closed forms and against a general-purpose library."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.tape import tape
from vane_line.errors import InputError
from vane_line.work.look import TAPE_PAIRS


def of(mesh: trimesh.Trimesh) -> Surface:
    return Surface(np.array(mesh.vertices, float), np.array(mesh.faces, np.int64))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_on_a_sphere_the_tape_is_an_arc(seed: int) -> None:
    """Great circle: radius times angle (elementary geometry); the chord is straight."""
    ball = of(trimesh.creation.icosphere(subdivisions=5, radius=5.0))
    rng = np.random.default_rng(seed)
    for _ in range(4):
        a, b = (v / np.linalg.norm(v) * 5.0 for v in rng.normal(size=(2, 3)))
        angle = np.arccos(np.clip(a @ b / 25, -1, 1))
        if angle < 0.2 or angle > 2.6:
            continue
        found = tape(ball, a, b)
        assert found.straight_mm == pytest.approx(10 * np.sin(angle / 2), rel=2e-3)
        assert found.along_mm == pytest.approx(5 * angle, rel=3e-3)


def test_over_the_edge_of_a_box_the_tape_unfolds() -> None:
    """From the middle of one face to the middle of the next of a cube of 4: 2 + 2, straight sqrt(8)."""
    box = of(trimesh.creation.box(extents=(4, 4, 4)))
    found = tape(box, np.array([0.0, 0, 2]), np.array([2.0, 0, 0]))
    assert found.along_mm == pytest.approx(4.0, abs=1e-3)  # a hair of a face 4 mm wide
    assert found.straight_mm == pytest.approx(np.sqrt(8.0), abs=1e-9)


def test_within_one_triangle_and_at_one_place() -> None:
    box = of(trimesh.creation.box(extents=(4, 4, 4)))
    a, b = np.array([0.3, 0.1, 2.0]), np.array([0.5, 0.2, 2.0])
    assert tape(box, a, b).along_mm == pytest.approx(np.linalg.norm(a - b), abs=1e-9)
    assert tape(box, a, a).along_mm == 0.0


def test_the_order_of_triangles_and_the_position_do_not_matter() -> None:
    rng = np.random.default_rng(4)
    ball = trimesh.creation.icosphere(subdivisions=4, radius=4.0)
    a, b = ball.vertices[10] * 1.0, ball.vertices[700] * 1.0
    turn = trimesh.transformations.random_rotation_matrix(rng.random(3))
    turn[:3, 3] = (40, -7, 3)
    moved = ball.copy()
    moved.faces = moved.faces[rng.permutation(len(moved.faces))]
    moved.apply_transform(turn)
    one = tape(of(ball), a, b)
    other = tape(of(moved), *trimesh.transform_points([a, b], turn))
    assert one.along_mm is not None
    assert other.along_mm == pytest.approx(one.along_mm, abs=1e-4)


def test_no_way_between_two_bodies_and_places_off_the_surface() -> None:
    far = trimesh.creation.box(extents=(1, 1, 1), transform=trimesh.transformations.translation_matrix([3, 0, 0]))
    two = of(trimesh.util.concatenate([trimesh.creation.box(extents=(1, 1, 1)), far]))
    assert tape(two, np.array([0, 0, 0.5]), np.array([3.0, 0, 0.5])).along_mm is None
    with pytest.raises(InputError, match="off the surface"):
        tape(two, np.array([0, 0, 5.0]), np.array([3.0, 0, 0.5]))


def test_noise_does_not_lengthen_the_tape_of_an_eased_scan() -> None:
    """10 µm of noise, eased as the sheet asks it: within 0.3 % of the arc; uneased it would be some 1 % too long."""
    ball = of(trimesh.creation.icosphere(subdivisions=6, radius=5.0))
    random = np.random.default_rng(2)
    noisy = ball.with_vertices(ball.vertices * (1 + 0.002 * random.standard_normal(ball.n_vertices))[:, None])
    a, b = np.array([5.0, 0, 0]), np.array([0.0, 5.0, 0])
    arc = 5 * np.pi / 2
    eased = tape(noisy.smoothed(TAPE_PAIRS), a, b).along_mm
    bare = tape(noisy, a, b).along_mm
    assert eased == pytest.approx(arc, rel=3e-3)
    assert bare is not None
    assert bare > arc * 1.005
