"""Derived fields against closed forms; welding, orientation, pieces."""

from __future__ import annotations

import pickle

import numpy as np
import pytest
from solids import plate, sphere, turned

from vane_line.core.mesh.mend import without_pinholes
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.mesh.weld import QUANTUM_MM, _weld_index, weld
from vane_line.core.mesh.write import stl_bytes
from vane_line.demo.scanner import stray_piece


def test_area_and_normals_of_a_ball() -> None:
    """Area is 4 pi r² less the chords' share; normals point outward within 3 degrees."""
    ball = sphere(5.0, grid=0.25)
    assert ball.face_areas.sum() == pytest.approx(4 * np.pi * 25, rel=2e-3)
    assert ball.vertex_areas.sum() == pytest.approx(ball.face_areas.sum())
    outward = ball.vertices / np.linalg.norm(ball.vertices, axis=1, keepdims=True)
    assert (ball.vertex_normals * outward).sum(axis=1).min() > np.cos(np.radians(3))
    assert len(ball.border_edges) == 0


def test_normals_are_freed_of_noise_over_the_same_way_however_fine_the_scan() -> None:
    """The same 6 µm tilt small triangles more; freed of it, a scan twice as fine is no rougher by far. A bend keeps
    its place: a roof's two sides are told apart a third of a millimetre from its ridge."""

    def tilt_deg(step: float) -> float:
        flat = plate(-3, 3, -3, 3, 0.0, step)
        bumps = 0.006 * np.random.default_rng(2).standard_normal(flat.n_vertices)
        rough = flat.with_vertices(flat.vertices + bumps[:, None] * [0.0, 0, 1])
        inner = np.abs(flat.vertices[:, :2]).max(axis=1) < 2.5
        return float(np.degrees(np.arccos(np.clip(rough.even_normals[inner] @ [0.0, 0, 1], -1, 1))).mean())

    usual = tilt_deg(0.16)
    assert tilt_deg(0.08) < 1.6 * usual
    assert tilt_deg(0.05) < 2.5 * usual
    for step in (0.05, 0.16):
        flat = plate(-3, 3, -3, 3, 0.0, step)
        x, y = flat.vertices[:, :2].T
        roof = flat.with_vertices(np.column_stack([x, y, -np.abs(x)]))
        side = (x > 0.35) & (x < 2.5) & (np.abs(y) < 2.5)
        assert (roof.even_normals[side] @ [np.sqrt(0.5), 0, np.sqrt(0.5)]).min() > np.cos(np.radians(6))


def test_how_often_to_average_follows_the_triangles() -> None:
    """Each time widens it by an edge, and widths add in squares; never oftener than the most."""
    edges = {step: plate(-2, 2, -2, 2, 0.0, step) for step in (0.04, 0.1, 0.2)}
    for surface in edges.values():
        share = (0.25 / surface.usual_edge_mm) ** 2
        assert surface.passes(0.25, most=1000) == round(share)
    assert edges[0.04].passes(0.25, most=12) == 12
    assert edges[0.2].passes(0.05) == 0


@pytest.mark.parametrize("offset", [-1.0, -0.2, 0.2, 1.0])
def test_signed_distance_to_a_ball(offset: float) -> None:
    """Distance of points at a known offset, negative inside, within the sagitta of a chord (3 µm)."""
    ball = sphere(5.0, grid=0.2)
    directions = np.random.default_rng(3).standard_normal((500, 3))
    points = (5 + offset) * directions / np.linalg.norm(directions, axis=1, keepdims=True)
    signed, face, place = ball.signed_distance(points)
    assert np.abs(signed - offset).max() < 0.003
    assert face.shape == (500,)
    assert np.linalg.norm(place, axis=1).max() <= 5.0 + 1e-9


def test_a_mesh_without_faces_is_far_from_everything() -> None:
    """No face, no distance: never nought."""
    empty = Surface(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    assert np.isinf(empty.closest(np.zeros((2, 3)))[0]).all()


def test_rigid_motion_keeps_what_was_known() -> None:
    """Moved normals equal those made anew; areas stay."""
    ball = sphere(3.0)
    assert ball.vertex_normals.shape == ball.vertices.shape
    moved = ball.moved(turned((1, 2, 3), 50, (4, -2, 7)))
    fresh = Surface(moved.vertices, moved.faces)
    np.testing.assert_allclose(moved.vertex_normals, fresh.vertex_normals, atol=1e-9)
    assert moved.face_areas.sum() == pytest.approx(ball.face_areas.sum())


def _anew(surface: Surface) -> Surface:
    """The same surface that knows nothing of itself yet."""
    return Surface(surface.vertices, surface.faces, surface.colours)


def test_a_laid_surface_is_searched_as_if_it_were_moved() -> None:
    """Distances, sides and places of one that was laid elsewhere equal those by a tree of its own; also of one that was
    laid twice, and after it went to another process, which takes no tree along."""
    first, second = turned((1, 2, 3), 50, (4, -2, 7)), turned((-1, 0, 2), 20, (-3, 1, 1))
    ball = sphere(3.0, grid=0.3)
    laid, moved = ball.laid(first).laid(second), ball.moved(first).moved(second)
    points = moved.vertices.mean(axis=0) + np.random.default_rng(2).uniform(-5, 5, (400, 3))
    signed, _, place = laid.signed_distance(points)
    assert np.ptp(np.sign(signed)) == 2
    for other in (moved, pickle.loads(pickle.dumps(laid))):
        theirs, _, where = other.signed_distance(points)
        assert np.abs(signed - theirs).max() < 1e-9
        assert np.abs(place - where).max() < 1e-6


@pytest.mark.parametrize("jumbled_mm", [0.0, 0.2])
def test_no_point_is_nearer_than_the_corners_tell(jumbled_mm: float) -> None:
    """Of an open plate, of long triangles too, beside and past its border; and what is told is little less."""
    random = np.random.default_rng(4)
    flat = plate(-4, 4, -3, 3, 0.0, 0.5)
    surface = flat.with_vertices(flat.vertices + jumbled_mm * random.standard_normal(flat.vertices.shape))
    points = random.uniform((-7, -6, -4), (7, 6, 4), (3000, 3))
    true, (least, corner) = surface.closest(points)[0], surface.away_at_least(points)
    assert (least <= true + 1e-9).all()
    assert (np.linalg.norm(points - surface.vertices[corner], axis=1) >= true - 1e-9).all()
    assert (true - least).max() < float(surface.edge_lengths.max())
    assert np.median((true - least)[true > 2]) < 0.15
    for until_mm in (0.0, 1.0, 2.5):
        near, _ = surface.away_at_least(points, until_mm)
        np.testing.assert_array_equal(near[least <= until_mm], least[least <= until_mm])
        assert np.isinf(near[least > until_mm + 1e-9]).all()


def test_a_part_s_normals_are_those_it_would_have_by_itself() -> None:
    """What is known of the whole is taken over but for where faces were cut away, to the last digit; so it is round a
    pinhole that was closed."""
    ball = sphere(3.0, grid=0.3)
    whole = ball.vertex_normals
    half, numbers = ball.keep_vertices(ball.vertices[:, 2] > 0.4)
    assert "vertex_normals" in half.__dict__
    np.testing.assert_array_equal(half.vertex_normals, _anew(half).vertex_normals)
    assert (half.vertex_normals != whole[numbers]).any()  # the rim's
    holed, _ = ball.keep_faces(np.arange(ball.n_faces) != 700)
    assert "vertex_normals" in holed.__dict__
    closed, count = without_pinholes(holed)
    assert count == 1
    np.testing.assert_array_equal(closed.vertex_normals, _anew(closed).vertex_normals)


def test_what_hangs_on_faces_alone_goes_on_when_corners_move() -> None:
    """Moved corners have neighbours and borders as before, and normals of their own."""
    tile = plate(0, 2, 0, 2, 0.0)
    assert tile.on_border.sum() > 0
    assert tile.averaging.shape == (tile.n_vertices,) * 2
    bent = tile.with_vertices(tile.vertices + [[0, 0, 1.0]] * (tile.vertices[:, :1] ** 2))
    fresh = _anew(bent)
    np.testing.assert_array_equal(bent.on_border, fresh.on_border)
    np.testing.assert_array_equal(bent.edges, fresh.edges)
    assert abs(bent.averaging - fresh.averaging).max() == 0
    np.testing.assert_array_equal(bent.vertex_normals, fresh.vertex_normals)
    assert np.abs(bent.vertex_normals - tile.vertex_normals).max() > 0.5


def test_smoothing_takes_noise_and_leaves_form() -> None:
    """Taubin's filter halves white noise at least and shrinks a ball by less than 2 µm."""
    ball = sphere(5.0, grid=0.2)
    noise = 0.01 * np.random.default_rng(1).standard_normal(ball.n_vertices)
    rough = ball.with_vertices(ball.vertices * (1 + noise / 5)[:, None]).smoothed(4)
    radius = np.linalg.norm(rough.vertices, axis=1)
    assert radius.std() < 0.005
    assert abs(radius.mean() - 5.0) < 0.002


def test_welding_turns_a_surface_outward_and_leaves_strays_out() -> None:
    """A soup inside out with a loose fold beside it comes back as the one outward surface, and says so."""
    ball = sphere(5.0)
    inside_out = Surface(ball.vertices, ball.faces[:, ::-1].copy())
    fold = stray_piece(np.array([9.0, 9, 9]), np.random.default_rng(1))
    welded = weld(read_soup(stl_bytes(merge([inside_out, fold])), "a.stl"), "mm", "a.stl")
    assert welded.flipped
    assert welded.loose_pieces == 1
    assert welded.surface.n_vertices == ball.n_vertices
    centre_out = (welded.surface.face_centres * welded.surface.face_normals).sum(axis=1)
    assert (centre_out > 0).mean() > 0.999


def test_border_of_a_plate() -> None:
    """An open plate's border is its circumference."""
    square = plate(0, 5, 0, 3, 0.0)
    length = np.linalg.norm(
        square.vertices[square.border_edges[:, 0]] - square.vertices[square.border_edges[:, 1]], axis=1
    ).sum()
    assert length == pytest.approx(16.0)
    assert square.on_border.sum() == len(square.border_edges)


@pytest.mark.parametrize("extent_mm", [80.0, 400.0])
def test_points_are_welded_as_their_places_say(extent_mm: float) -> None:
    """Against numpy's unique rows: the same points become one, numbered by the first; also where a scan is so large
    that unequal points share a sorting key."""
    random = np.random.default_rng(5)
    once = np.concatenate([random.uniform(0, extent_mm, (400, 3)), random.uniform(0, 0.004, (400, 3))])
    corners = random.permutation(np.concatenate([once, once, once[::3]]))
    index, first = _weld_index(corners)
    low = corners.min(axis=0)
    _, wanted = np.unique(np.rint((corners - low) / QUANTUM_MM), axis=0, return_inverse=True)
    wanted = wanted.ravel()
    assert len(first) == wanted.max() + 1
    pairs = np.unique(np.stack([index, wanted]), axis=1)
    assert pairs.shape[1] == len(first)  # one number stands for one place, and the other way round
    np.testing.assert_array_equal(first, [np.flatnonzero(index == k)[0] for k in range(len(first))])
