"""Thickness written into a section, on outlines whose answer is plain geometry."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from vane_line.core.arrays import Floats
from vane_line.core.trace.thickness import crossings, thicknesses


def outline(corners: list[tuple[float, float]], step: float = 0.04) -> Floats:
    """A polyline through corners, with points between."""
    parts = []
    for a, b in pairwise(corners):
        n = max(2, int(np.hypot(b[0] - a[0], b[1] - a[1]) / step))
        parts.append(np.linspace(a, b, n, endpoint=False))
    return np.concatenate([*parts, [corners[-1]]])


# A roof with two cusps and a groove, cut 1.5 under the top and 1.0 beside the walls; wings stand for gingiva.
EARLIER = outline([(-9, -2), (-5, -2), (-5, 4), (-2.5, 5.5), (0, 4.5), (2.5, 5.5), (5, 4), (5, -2), (9, -2)])
CUT = outline([(-9, -2), (-5, -2), (-4, -2), (-4, 2.9), (-2.5, 4.0), (0, 3.0), (2.5, 4.0), (4, 2.9), (4, -2), (9, -2)])
ENDS = np.array([[-4.9, -2.0], [4.9, -2.0]])


def slant(foot: tuple[float, float], top: tuple[float, float], p: tuple[float, float]) -> float:
    """Distance of a place from a straight line."""
    (ax, ay), (bx, by) = foot, top
    return abs((bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax)) / np.hypot(bx - ax, by - ay)


def test_cusps_groove_and_walls_are_told() -> None:
    found = thicknesses([CUT], [EARLIER], ENDS)
    assert sorted(t.at for t in found) == ["cusp", "cusp", "groove", "wall", "wall"]
    walls = [t.mm for t in found if t.at == "wall"]
    assert walls == pytest.approx([1.0, 1.0], abs=0.02)
    groove = next(t for t in found if t.at == "groove")
    assert groove.mm == pytest.approx(1.5, abs=0.03)  # straight under the earlier one's bottom
    for cusp in (t for t in found if t.at == "cusp"):
        x = np.sign(cusp.place[0])
        near = min(slant((0, 4.5), (2.5 * x, 5.5), cusp.place), slant((5 * x, 4), (2.5 * x, 5.5), cusp.place))
        assert cusp.mm == pytest.approx(near, abs=0.03)


@pytest.mark.parametrize("step", [0.02, 0.07, 0.11])
def test_the_grid_of_the_scan_does_not_matter(step: float) -> None:
    def again(o: Floats) -> Floats:
        arc = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(o, axis=0), axis=1))])
        at = np.arange(0, arc[-1], step)
        return np.stack([np.interp(at, arc, o[:, k]) for k in (0, 1)], axis=1)

    usual = thicknesses([CUT], [EARLIER], ENDS)
    other = thicknesses([again(CUT)[::-1]], [again(EARLIER)], ENDS[::-1])
    assert sorted(t.at for t in usual) == sorted(t.at for t in other)
    by_place = {(t.at, round(np.sign(t.place[0]))): t.mm for t in other if t.at != "groove"}
    for t in usual:
        if t.at != "groove":
            assert by_place[t.at, round(np.sign(t.place[0]))] == pytest.approx(t.mm, abs=0.06)


def test_where_the_earlier_scan_ends_nothing_is_claimed() -> None:
    """The facial half of the earlier scan is missing: no figure there, those of the other half stand."""
    half = EARLIER[EARLIER[:, 0] < -0.5]
    found = thicknesses([CUT], [half], ENDS)
    assert found
    assert all(t.place[0] < 0.2 for t in found)


def test_across_the_tooth_its_four_sides_are_told() -> None:
    turn = np.linspace(0, 2 * np.pi, 200)
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    found = thicknesses([ring * 3.0], [ring * 4.2], np.zeros((0, 2)))
    assert [t.at for t in found] == ["side"] * 4
    assert [t.mm for t in found] == pytest.approx([1.2] * 4, abs=0.01)


def test_crossings_of_a_ring_with_a_plane() -> None:
    turn = np.linspace(0, 2 * np.pi, 360, endpoint=False)
    ring = np.stack([5 * np.cos(turn), 5 * np.sin(turn), np.full(360, 1.0)], axis=1)
    x, y, z = np.eye(3)
    found = crossings(ring, np.array([0.0, 3.0, 0.0]), y, x, z)
    assert found == pytest.approx(np.array([[-4.0, 1.0], [4.0, 1.0]]), abs=2e-3)
    assert len(crossings(ring, np.array([0.0, 9.0, 0.0]), y, x, z)) == 0
