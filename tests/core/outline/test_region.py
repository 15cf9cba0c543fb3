"""Which part of a scan is cut: what hangs together with it, and scraps of a scan that do not."""

from __future__ import annotations

import numpy as np
import trimesh
from solids import plate

from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.region import cut_region, under, whole
from vane_line.core.tooth.reference import ReferenceTooth

STEP_MM = 0.2


def test_islands_in_the_cut_belong_to_it_and_scraps_beside_it_do_not() -> None:
    """A contact that no scan saw leaves pieces of the next wall that hang on nothing: told as cut, such a piece on the
    tooth's uncut side hung over by 0.65."""
    main, scrap = plate(-4, 4, -4, 4, 0.0, STEP_MM), plate(5, 5.8, 5, 5.8, 0.0, STEP_MM)
    surface = Surface(
        np.concatenate([main.vertices, scrap.vertices]), np.concatenate([main.faces, scrap.faces + main.n_vertices])
    )
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    island = away < 0.3
    mask = (away < 2.5) & ~island
    found = whole(surface, mask, mask)
    assert found is not None
    assert found[island].all()
    assert not found[surface.vertices[:, 0] > 4.5].any()
    assert (found == (away < 2.5)).all()


def test_a_hole_as_large_as_a_tooth_s_top_is_no_island() -> None:
    surface = plate(-4, 4, -4, 4, 0.0, STEP_MM)
    away = np.linalg.norm(surface.vertices[:, :2], axis=1)
    mask = (away < 2.5) & (away > 1.2)
    found = whole(surface, mask, mask)
    assert found is not None
    assert (found == mask).all()


def ball_above(level_mm: float, radius_mm: float = 5.0) -> Surface:
    """A ball as far down as a scan saw it."""
    mesh = trimesh.creation.icosphere(subdivisions=5, radius=radius_mm)
    ball = Surface(np.asarray(mesh.vertices), np.asarray(mesh.faces))
    return ball.keep_vertices(ball.vertices[:, 2] > level_mm)[0]


def test_what_lies_under_a_tooth_is_told_along_the_path() -> None:
    """Of a ball, whatever the direction: within its radius across, at any level."""
    tooth = ball_above(-1.0)
    for turn in (np.eye(3), trimesh.transformations.rotation_matrix(1.1, [2, -1, 1])[:3, :3]):
        points = np.array([[4.7, 0, -9.0], [0, -4.7, 0], [5.2, 0, -9.0], [-3.6, 3.8, 1.0]]) @ turn.T
        assert under(points, tooth.with_vertices(tooth.vertices @ turn.T), turn[:, 2]).tolist() == [
            True,
            True,
            False,
            False,
        ]


def test_a_ledge_deep_under_what_was_seen_of_the_tooth_belongs_to_the_cut() -> None:
    """Below a closed contact no scan saw the tooth: the ledge there lay beyond the last of its surface, which curls in,
    so it passed for gingiva, and the line climbed the wall."""
    tooth = ReferenceTooth(ball_above(-2.5))
    ground = plate(-7.5, 7.5, -7.5, 7.5, 0.0, 0.15)
    away = np.linalg.norm(ground.vertices[:, :2], axis=1)
    level = np.interp(away, [2.5, 3.2, 4.3, 4.6], [3.0, -5.0, -5.0, -8.0])
    stump = ground.with_vertices(np.column_stack([ground.vertices[:, :2], level]))
    up, all_mine = np.array([0.0, 0, 1]), np.ones(stump.n_vertices, dtype=bool)
    depth, unseen = tooth.depth(stump.vertices)
    ledge = (away > 3.4) & (away < 4.1)
    assert unseen[ledge].all()
    assert (depth[ledge] < -1.5).any()  # as if outside
    found = cut_region(stump, tooth, tooth.surface, up, all_mine)
    assert found is not None
    assert found.mask[away < 4.1].all()
    assert not found.mask[away > 5.2].any()
