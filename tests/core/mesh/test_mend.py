"""Fins come off, pinholes are closed, holes stay: by count, by area and by what a profile needs."""

from __future__ import annotations

import numpy as np
from solids import plate, sphere

from vane_line.core.mesh.mend import whole_faces, without_pinholes
from vane_line.core.mesh.quality import border_lengths
from vane_line.core.mesh.soup import Soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld

BALL = sphere(2.0, grid=0.15)


def without(surface: Surface, faces: list[int]) -> Surface:
    """The surface with some triangles lost."""
    keep = np.ones(surface.n_faces, dtype=bool)
    keep[faces] = False
    return surface.keep_faces(keep)[0]


def test_lost_triangles_are_closed_flat() -> None:
    """Five lost triangles far apart: five pinholes, the ball is whole again and as large, its faces outward."""
    ball, count = without_pinholes(without(BALL, [10, 300, 700, 1100, 1500]))
    assert count == 5
    assert not ball.on_border.any()
    np.testing.assert_allclose(ball.face_areas.sum(), BALL.face_areas.sum(), rtol=1e-9)
    assert (np.einsum("fk,fk->f", ball.face_normals, ball.face_centres) > 0).all()


def test_a_hole_is_left_open() -> None:
    """What is wider than a pinhole was not scanned, and is not invented."""
    far = np.linalg.norm(BALL.face_centres - [2.0, 0, 0], axis=1) < 0.5
    open_ball = BALL.keep_faces(~far)[0]
    same, count = without_pinholes(open_ball)
    assert count == 0
    assert same is open_ball


def test_the_rim_of_a_small_piece_is_no_pinhole_to_be_doubled() -> None:
    """A plate's own border is longer than a pinhole; its four corners stay."""
    flat = plate(0, 3, 0, 3, 0.0)
    assert without_pinholes(flat)[1] == 0


def test_holes_that_meet_in_a_point_are_closed_one_by_one() -> None:
    """Two lost triangles that share a corner."""
    ball = sphere(2.0, grid=0.12)
    fan = np.flatnonzero((ball.faces == ball.faces[500, 0]).any(axis=1))
    apart = next(int(f) for f in fan if len(set(ball.faces[f]) & set(ball.faces[fan[0]])) == 1)
    ball, count = without_pinholes(without(ball, [int(fan[0]), apart]))
    assert count == 2
    assert not ball.on_border.any()
    assert (np.einsum("fk,fk->f", ball.face_vectors, ball.face_centres) >= 0).all()


def test_where_triangles_lie_the_wrong_way_nothing_is_closed() -> None:
    """A hole beside a triangle turned over does not go round."""
    faces = BALL.faces.copy()
    beside = next(f for f in range(BALL.n_faces) if len(set(faces[f]) & set(faces[40])) == 2)
    faces[beside] = faces[beside][::-1]
    torn = without(Surface(BALL.vertices, faces), [40])
    same, count = without_pinholes(torn)
    assert count == 0
    assert same is torn


def test_colours_follow_a_closed_pinhole() -> None:
    """The new corner has the mean colour of those round it."""
    colours = np.tile(np.array([[210, 190, 160]], np.uint8), (BALL.n_vertices, 1))
    mended, count = without_pinholes(without(Surface(BALL.vertices, BALL.faces, colours), [40]))
    assert count == 1
    assert mended.colours is not None
    assert (mended.colours[-1] == [210, 190, 160]).all()


def test_fins_come_off_whole_and_doubled_triangles_once() -> None:
    """Back to back: both go. The same way round: one stays."""
    a, b, c = BALL.faces[7]
    faces = np.concatenate([BALL.faces, [[a, c, BALL.n_vertices], [c, a, BALL.n_vertices], [b, c, a]]])
    keep = whole_faces(faces)
    assert list(np.flatnonzero(~keep)) == [BALL.n_faces, BALL.n_faces + 1, BALL.n_faces + 2]


def test_more_than_two_million_corners_are_told_apart_too() -> None:
    """The other way of comparing gives the same answer."""
    faces = np.array([[0, 1, 2_000_001], [1, 0, 2_000_001], [3, 4, 5], [4, 5, 3]])
    assert list(whole_faces(faces)) == [False, False, True, False]


def test_a_scan_with_fins_and_pinholes_is_read_whole() -> None:
    """As decimation leaves them: every kind of damage at once, counted."""
    tip = BALL.vertices[BALL.faces[20, 0]] * 1.02
    points = np.concatenate([BALL.vertices, tip[None]])
    keep = np.ones(BALL.n_faces, dtype=bool)
    keep[[100, 900]] = False
    a, b = BALL.faces[20, :2]
    fin = [[a, b, BALL.n_vertices], [b, a, BALL.n_vertices]]
    read = weld(Soup(points, np.concatenate([BALL.faces[keep], fin]), None, "mm"), "mm", "ball.stl")
    assert (read.bad_faces, read.pinholes) == (2, 2)
    assert border_lengths(read.surface) == []
