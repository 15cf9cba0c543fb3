"""The line of a tooth's greatest girth, and what of the earlier scan is another's: on a block of known width."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from forms import random_partial
from made import kept_case
from solids import plate

from vane_line.core.cast.survey import OPEN_FACE
from vane_line.core.measure.finish_line import OWN_MM
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.options import Options
from vane_line.core.outline.girth import girth_of
from vane_line.core.placed import place
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.section import Axes

SIZE = (10.0, 8.0, 7.0, 6.0, 5.0)  # crown's height, and widths as published sizes are given
HALF_FACIAL, HALF_MESIAL = 3.0, 4.0
BASE = Axes.make(np.zeros(3), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), np.array([1.0, 0, 0]))
PAPILLA_TO_MM = 6.2  # how far a strip beside the tooth reaches, of what a scan could not part from it


def wall(x0: float, x1: float, y0: float, y1: float) -> Surface:
    """An upright rectangle between two corners, from the neck (0) to the top (10)."""
    lying = plate(0.0, 10.0, 0.0, float(np.hypot(x1 - x0, y1 - y0)), 0.0)
    along = np.array([x1 - x0, y1 - y0, 0.0]) / np.hypot(x1 - x0, y1 - y0)
    points = np.array([x0, y0, 0.0]) + lying.vertices[:, :1] * [0, 0, 1.0] + lying.vertices[:, 1:2] * along
    return Surface(points, lying.faces)


def block() -> Surface:
    """Four walls round the origin, twice as wide along the arch as half its width says."""
    a, b = HALF_MESIAL, HALF_FACIAL
    return merge([wall(-a, a, b, b), wall(a, a, b, -b), wall(a, -a, -b, -b), wall(-a, -a, -b, b)])


def papilla() -> Surface:
    """A low strip at the mesial neck."""
    return plate(HALF_MESIAL, PAPILLA_TO_MM, -1.0, 1.0, 2.0)


def turned() -> np.ndarray:
    """A rigid (4, 4) matrix."""
    a = np.radians(37.0)
    matrix = np.eye(4)
    matrix[:3, :3] = [[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]]
    matrix[:3, 3] = [12.0, -7.0, 3.0]
    return matrix


@pytest.mark.parametrize("matrix", [np.eye(4), turned()])
def test_a_papilla_beside_the_neck_does_not_widen_the_tooth(matrix: np.ndarray) -> None:
    """Along the arch the girth is told where teeth touch; facially and behind at any level."""
    axes = Axes.make(matrix[:3, 3], matrix[:3, 2], matrix[:3, 1], matrix[:3, 0])
    tooth = merge([block(), papilla()])
    girth = girth_of(Surface(move(matrix, tooth.vertices), tooth.faces), axes, SIZE)
    for azimuth, half in ((0, HALF_FACIAL), (90, HALF_MESIAL), (180, HALF_FACIAL), (270, HALF_MESIAL)):
        assert girth.at(np.array([float(azimuth)]), girth.radius)[0] == pytest.approx(half, abs=0.15)


def test_a_bulge_at_the_neck_of_the_face_is_girth() -> None:
    """Many teeth are widest near the gingiva, facially: that is theirs."""
    bulge = plate(-1.0, 1.0, HALF_FACIAL, HALF_FACIAL + 0.8, 1.5)
    girth = girth_of(merge([block(), bulge]), BASE, SIZE)
    assert girth.at(np.array([0.0]), girth.radius)[0] == pytest.approx(HALF_FACIAL + 0.8, abs=0.05)


def test_what_stands_out_further_is_anothers() -> None:
    """Of the strip only what lies against the tooth counts as it."""
    tooth = merge([block(), papilla()])
    mine = girth_of(tooth, BASE, SIZE).holds(tooth, BASE)
    own = np.arange(tooth.n_vertices) < block().n_vertices
    assert mine[own].all()
    out = tooth.vertices[:, 0] > HALF_MESIAL + OWN_MM + 0.15
    assert out.any()
    assert not mine[out].any()


@pytest.mark.long
def test_a_partial_crown_s_tooth_is_looked_for_about_the_cut_s_own_middle() -> None:
    """4 mm facially of it, as a veneer's lies behind the cut, the wall behind passed for the next tooth's, and its seam
    with the gingiva was not found: on a lifelike upper molar with its facial wall standing."""
    recipe = random_partial(7)
    case = kept_case("girth-partial-7", replace(recipe, scan=replace(recipe.scan, grid_mm=0.25)))
    options = Options(ToothNumber(recipe.tooth), opposing_frame="preop", restoration="partial-crown")
    scans = Scans(case.prep, case.preop)
    placed = place(scans, options, lambda _text, _share: None, OPEN_FACE.centre)
    survey = OPEN_FACE.survey(placed, options)
    azimuth, _, _ = survey.axes.cylinder(survey.teeth["preop"].gingiva)
    behind = (azimuth > 140) & (azimuth < 220)
    assert np.histogram(azimuth[behind], 8, (140, 220))[0].min() >= 3
