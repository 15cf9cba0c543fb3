"""The heart against general-purpose libraries: trimesh for distances and sections, scipy for rigid fits."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation
from solids import Stump, turned

from vane_line.core.align.fine import register
from vane_line.core.case import Geometry
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import plane_section
from vane_line.demo.cases import MadeCase


def other(surface: Surface) -> trimesh.Trimesh:
    return trimesh.Trimesh(surface.vertices, surface.faces, process=False)


def library_distance(surface: Surface, points: np.ndarray) -> np.ndarray:
    """Distance of each point by trimesh's point-to-triangle routine over every triangle that could be nearest."""
    triangles = surface.vertices[surface.faces]
    tree, corners = cKDTree(surface.face_centres), cKDTree(surface.vertices)
    reach = np.linalg.norm(triangles - surface.face_centres[:, None], axis=2).max()
    out = np.empty(len(points))
    for k, (point, bound) in enumerate(zip(points, corners.query(points)[0], strict=True)):
        near = tree.query_ball_point(point, bound + reach + 1e-9)
        place = trimesh.triangles.closest_point(triangles[near], np.tile(point, (len(near), 1)))
        out[k] = np.linalg.norm(place - point, axis=1).min()
    return out


def test_areas_normals_and_borders(demo_case: MadeCase) -> None:
    """Area, face normals and the length of open borders of a demo scan."""
    assert demo_case.preop is not None
    ours, theirs = demo_case.preop, other(demo_case.preop)
    assert ours.face_areas.sum() == pytest.approx(theirs.area, rel=1e-9)
    fat = ours.face_areas > 1e-6  # slivers have no normal to speak of
    assert (ours.face_normals[fat] * theirs.face_normals[fat]).sum(axis=1).min() > 0.999
    lone = trimesh.grouping.group_rows(theirs.edges_sorted, require_count=1)
    assert len(ours.border_edges) == len(lone)


def test_distances_agree_to_a_nanometre(demo_case: MadeCase) -> None:
    """Closest points from random places near a demo scan."""
    assert demo_case.preop is not None
    random = np.random.default_rng(8)
    points = demo_case.preop.vertices[random.integers(0, demo_case.preop.n_vertices, 400)]
    points = points + random.normal(0, 0.8, points.shape)
    ours = demo_case.preop.closest(points)[0]
    np.testing.assert_allclose(ours, library_distance(demo_case.preop, points), atol=1e-6)


def test_reduction_agrees_with_plain_distances(stump_geometry: Geometry, stump: Stump) -> None:
    """On the flat top our smoothed distances and the library's plain ones agree in the median within 5 µm."""
    assert stump_geometry.space is not None
    top = np.flatnonzero(stump_geometry.inside.vertices[:, 2] > 5.4)[::7]
    plain = library_distance(stump.preop(), stump_geometry.inside.vertices[top])
    assert np.median(stump_geometry.space.value[top]) == pytest.approx(np.median(plain), abs=0.005)


def test_sections_have_the_library_s_length(demo_case: MadeCase) -> None:
    """Three planes through the demo's preparation."""
    centre = np.array(demo_case.stands["centre"])
    for name in ("facial", "mesial", "occlusal"):
        normal = np.array(demo_case.stands[name])
        ours = sum(
            float(np.linalg.norm(np.diff(c, axis=0), axis=1).sum())
            for c in plane_section(demo_case.prep, centre, normal)
        )
        assert ours == pytest.approx(other(demo_case.prep).section(normal, centre).length, rel=1e-6)


def test_registration_beats_pairs_of_known_points() -> None:
    """The found matrix brings known places as near as scipy's rotation from exact point pairs, within 5 µm."""
    stump = Stump(grid_mm=0.22, noise_um=8)
    true = turned((0.3, 1, 0.2), 2.0, (0.1, -0.1, 0.05))
    fit = register(stump.preop().moved(np.linalg.inv(true)), stump.prep(), np.array([0.0, 0, 1]))
    places = np.random.default_rng(4).uniform(-6, 6, (50, 3))
    before = places @ np.linalg.inv(true)[:3, :3].T + np.linalg.inv(true)[:3, 3]
    rotation, _ = Rotation.align_vectors(places - places.mean(0), before - before.mean(0))
    angle = np.degrees((Rotation.from_matrix(fit.matrix[:3, :3]) * rotation.inv()).magnitude())
    assert angle < 0.05
    ours = before @ fit.matrix[:3, :3].T + fit.matrix[:3, 3]
    assert np.abs(ours - places).max() < 0.008
