"""The common path of several abutments, against closed forms, a brute search and linear programming."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import linprog
from scipy.spatial.transform import Rotation

from vane_line.core.arrays import Floats
from vane_line.core.bridge.common_path import Abutment, common_path
from vane_line.core.measure.path import QUANTILE, draft_deg
from vane_line.core.spread import weighted_quantile
from vane_line.core.vectors import unit

UP, FACIAL, MESIAL = np.eye(3)[2], np.eye(3)[1], np.eye(3)[0]


def turned_about_y(vectors: Floats, degrees: float) -> Floats:
    t = np.radians(degrees)
    return vectors @ np.array([[np.cos(t), 0, -np.sin(t)], [0, 1, 0], [np.sin(t), 0, np.cos(t)]])


def cone(tooth: str, taper_deg: float, tip_deg: float, count: int = 720, upright: Floats | None = None) -> Abutment:
    """Walls of a cone that leans by `tip_deg` to mesial."""
    a = np.linspace(0, 2 * np.pi, count, endpoint=False)
    t = np.radians(taper_deg)
    normals = np.stack([np.sin(a) * np.cos(t), np.cos(a) * np.cos(t), np.full(count, np.sin(t))], axis=1)
    lean = turned_about_y(normals, tip_deg)
    return Abutment(tooth, lean, np.ones(count), FACIAL, MESIAL, turned_about_y(UP[None], tip_deg)[0])


CONES = [(6.0, 0.0), (6.0, 8.0), (6.0, 12.0), (8.0, 10.0), (4.0, 14.0), (6.0, 18.0)]


@pytest.mark.parametrize(("taper", "tip"), CONES)
def test_two_cones_meet_half_way(taper: float, tip: float) -> None:
    """Axes that differ by an angle: the path is their middle, the least draft the taper less half the angle (the
    twentieth part of the walls that may stay under it lies within 2 % of the angle)."""
    found = common_path([cone("35", taper, 0.0), cone("37", taper, tip)])
    middle = turned_about_y(UP[None], tip / 2)[0]
    assert np.degrees(np.arccos(np.clip(found.direction @ middle, -1, 1))) < 0.3
    assert found.least_draft_deg == pytest.approx(taper - tip / 2, abs=0.02 * tip + 0.05)
    assert found.exists == (taper - tip / 2 >= 0 or found.least_draft_deg >= 0)
    assert found.to_common_deg["37"] == pytest.approx(tip / 2, abs=0.3)


def test_an_impossible_pair_names_its_two_walls_and_the_degrees() -> None:
    """6 degrees of taper, axes 18 apart: 3 are missing, on the walls that look away from the other's lean."""
    found = common_path([cone("35", 6.0, 0.0), cone("37", 6.0, 18.0)])
    assert not found.exists
    assert {(f.tooth, f.side) for f in found.limited_by} == {("35", "mesial"), ("37", "distal")} or {
        (f.tooth, f.side) for f in found.limited_by
    } == {("35", "distal"), ("37", "mesial")}
    for wall in found.limited_by:
        assert wall.missing_deg == pytest.approx(3.0, abs=0.5)


def test_a_possible_pair_forbids_nothing() -> None:
    assert common_path([cone("35", 6.0, 0.0), cone("37", 6.0, 8.0)]).limited_by == ()


def _least(abutments: list[Abutment], direction: Floats) -> float:
    normals = np.concatenate([a.normals for a in abutments])
    areas = np.concatenate([a.areas / a.areas.sum() for a in abutments])
    return weighted_quantile(draft_deg(normals, direction), areas, QUANTILE)


def _brute(abutments: list[Abutment]) -> float:
    """The greatest least draft over a fine grid of directions."""
    axis = unit(np.sum([a.own for a in abutments], axis=0))
    side = unit(np.cross(axis, [0.3, 1, 0.2]))
    other = np.cross(axis, side)
    best = -90.0
    for reach, step in ((16.0, 1.0), (1.2, 0.1)):
        centre = axis
        grid = np.arange(-reach, reach + 1e-9, step)
        for s in grid:
            for t in grid:
                d = unit(centre + np.tan(np.radians(s)) * side + np.tan(np.radians(t)) * other)
                value = _least(abutments, d)
                if value > best:
                    best, axis = value, d
    return best


def random_pair(seed: int) -> list[Abutment]:
    """Walls that lean differently on every side, axes up to 14 degrees apart in any direction."""
    random = np.random.default_rng(seed)
    out = []
    for tooth in ("35", "37"):
        a = np.linspace(0, 2 * np.pi, 180, endpoint=False)
        taper = np.radians(6 + 3 * random.standard_normal() * np.cos(a - random.uniform(0, 7)))
        normals = np.stack([np.sin(a) * np.cos(taper), np.cos(a) * np.cos(taper), np.sin(taper)], axis=1)
        turn = Rotation.from_rotvec(np.radians(random.uniform(0, 7)) * unit(np.r_[random.standard_normal(2), 0.0]))
        out.append(Abutment(tooth, turn.apply(normals), random.uniform(0.5, 1.5, 180), FACIAL, MESIAL, turn.apply(UP)))
    return out


@pytest.mark.parametrize("seed", range(25))
def test_random_pairs_reach_what_a_brute_search_finds(seed: int) -> None:
    """The least draft within 0.2 degrees of the best of a fine grid."""
    pair = random_pair(seed)
    assert common_path(pair).least_draft_deg == pytest.approx(_brute(pair), abs=0.2)


@pytest.mark.parametrize("seed", range(30, 50))
def test_no_direction_has_more_draft_than_linear_programming_allows(seed: int) -> None:
    """The greatest t with n·d >= t for every wall is a linear program where d is nearly a unit vector: what 95 % of the
    walls have is no less, and no more than a few degrees better."""
    pair = random_pair(seed)
    normals = np.concatenate([a.normals for a in pair])
    # d = (x, y, 1), divided by its length afterwards.
    found = linprog([0, 0, -1], A_ub=np.c_[-normals[:, :2], np.ones(len(normals))], b_ub=normals[:, 2],
                    bounds=[(-1, 1), (-1, 1), (None, None)])  # fmt: skip
    direction = unit(np.r_[found.x[:2], 1.0])
    strict = float(draft_deg(normals, direction).min())
    best = common_path(pair).least_draft_deg
    assert strict - 0.2 <= best <= strict + 3.0


def test_a_path_needs_two_abutments_with_walls() -> None:
    with pytest.raises(ValueError, match="two abutments"):
        common_path([cone("35", 6.0, 0.0)])
