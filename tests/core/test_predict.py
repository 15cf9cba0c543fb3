"""Strokes tried on the scan: depth, volume and verdicts on a plain solid, and what is left as it was."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import complete, prepare
from vane_line.core.placed import Placed, place
from vane_line.core.predict import Stroke, cut_by
from vane_line.core.tooth.notation import ToothNumber

TOOTH = ToothNumber("36")
OPTIONS = facing(TOOTH, path=np.array([0.0, 0, 1]))
TOP_MM = 5.5


@pytest.fixture(scope="module")
def placed() -> Placed:
    return place(Stump(seed=81).scans(), OPTIONS, lambda _t, _s: None)


def line(y: float, z: float = TOP_MM) -> np.ndarray:
    return np.array([[-2.0, y, z], [0.0, y, z], [2.0, y, z]])


def test_a_stroke_takes_its_depth_over_the_bur_s_middle(placed: Placed) -> None:
    """0.5 deep under a bur of 2.0 over the flat top: 2.0 of space there, 1.5 beside it; nothing else moves."""
    cut = cut_by(placed, [Stroke(line(0.0), 0.5, 2.0)], TOOTH)
    g = complete(prepare(cut.placed, OPTIONS), OPTIONS)
    assert g.space is not None
    p = g.inside.vertices
    middle = (np.abs(p[:, 1]) < 0.3) & (np.abs(p[:, 0]) < 1.5) & (p[:, 2] > 4.5)
    beside = (np.abs(p[:, 1]) > 1.3) & (np.hypot(p[:, 0], p[:, 1]) < 2.6) & (p[:, 2] > 4.5)
    assert np.median(g.space.value[middle]) == pytest.approx(2.0, abs=0.04)
    assert np.median(g.space.value[beside]) == pytest.approx(1.5, abs=0.03)
    # A trough 4 long with round ends, flat over 0.6 of the radius and running out to the rim.
    assert cut.removed_mm3 == pytest.approx(0.5 * (4 * 1.6 + np.pi * 0.8**2), rel=0.12)
    assert cut.warnings == []


def test_the_kept_case_is_not_touched(placed: Placed) -> None:
    """Trying changes no scan and no earlier measurement."""
    before = placed.crop.vertices.copy()
    cut_by(placed, [Stroke(line(1.0), 0.8, 1.6)], TOOTH)
    np.testing.assert_array_equal(placed.crop.vertices, before)


def test_strokes_that_overlap_count_once_the_deeper(placed: Placed) -> None:
    """As with a stop on the bur."""
    one = cut_by(placed, [Stroke(line(0.0), 0.5, 2.0)], TOOTH).removed_mm3
    both = cut_by(placed, [Stroke(line(0.0), 0.5, 2.0), Stroke(line(0.0), 0.3, 2.0)], TOOTH).removed_mm3
    assert both == pytest.approx(one, rel=0.01)


def test_a_wall_s_other_side_is_not_cut(placed: Placed) -> None:
    """A wide bur led down the facial wall leaves the lingual one as it is."""
    wall = np.array([[0.0, 3.8, 2.5], [0.0, 3.65, 4.0]])
    cut = cut_by(placed, [Stroke(wall, 0.5, 2.0)], TOOTH)
    moved = np.linalg.norm(cut.placed.crop.vertices - placed.crop.vertices, axis=1) > 0.05
    assert moved.any()
    assert placed.crop.vertices[moved][:, 1].min() > 2.0


def test_strokes_beside_the_tooth_are_told(placed: Placed) -> None:
    """On the next tooth: beware. In the air: nothing is touched."""
    neighbour = np.array([[6.25, -0.4, 4.0], [6.25, -0.4, 5.0]])
    assert any("next tooth" in w for w in cut_by(placed, [Stroke(neighbour, 0.3, 1.2)], TOOTH).warnings)
    air = np.array([[0.0, 0, 20.0], [1.0, 0, 20.0]])
    assert any("do not touch" in w for w in cut_by(placed, [Stroke(air, 0.3, 1.2)], TOOTH).warnings)


@pytest.mark.long
def test_an_undercut_made_by_a_stroke_is_foretold(placed: Placed) -> None:
    """Half a millimetre out of the middle of a wall of 6 degrees: an undercut that was not there."""
    dent = np.array([[-1.0, 3.85, 3.0], [1.0, 3.85, 3.0]])
    options = replace(OPTIONS)
    before = complete(prepare(placed, options), options)
    after = complete(prepare(cut_by(placed, [Stroke(dent, 0.5, 1.6)], TOOTH).placed, options), options)
    assert before.ring.shape.undercut.regions == []
    assert [r.sector for r in after.ring.shape.undercut.regions] == ["facial"]
    assert after.ring.shape.undercut.max_depth_mm == pytest.approx(0.4, abs=0.12)
