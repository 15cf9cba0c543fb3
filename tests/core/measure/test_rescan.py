"""What is better scanned again at once: holes, thin data and gingiva of known extent along a known line."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump

from vane_line.core.case import Geometry
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.rescan import rescans
from vane_line.core.mesh.light import lightened
from vane_line.core.mesh.surface import Surface
from vane_line.core.rings import degrees_apart
from vane_line.core.vectors import lengths


@pytest.fixture(scope="module")
def scan(stump: Stump, stump_geometry: Geometry) -> Surface:
    """The preparation's scan in the coordinates that it was measured in."""
    return stump.scans(clearance_mm=1.0).prep


def test_a_sound_scan_asks_for_nothing(stump_geometry: Geometry) -> None:
    assert stump_geometry.rescans == ()
    made = document(stump_geometry, judge(stump_geometry, choose("zirconia", "full-crown")))
    assert made["rescan"] == []


@pytest.mark.parametrize(("azimuth", "side"), [(0, "facial"), (90, "mesial"), (181, "lingual"), (275, "distal")])
def test_a_hole_on_the_line_is_told_with_its_length(
    stump_geometry: Geometry, scan: Surface, azimuth: int, side: str
) -> None:
    """1 mm in radius about a point of the line: 2 mm of it and what lies within a quarter of its rim."""
    line = stump_geometry.line
    at = line.points[int(np.argmin(degrees_apart(line.azimuth_deg, azimuth)))]
    holed, _ = scan.keep_vertices(lengths(scan.vertices - at) > 1.0)
    (row,) = rescans(holed, line, stump_geometry.axes, ringed=True)
    assert (row.what, row.side) == ("hole", side)
    assert row.length_mm == pytest.approx(2.4, abs=0.6)
    assert np.linalg.norm(np.array(row.at) - at) < 0.5


def test_a_hole_beside_the_line_is_none(stump_geometry: Geometry, scan: Surface) -> None:
    """0.5 mm in radius, a whole millimetre further out: the edge itself is seen."""
    line, axes = stump_geometry.line, stump_geometry.axes
    away = axes.places(np.array([0.0]), line.at(np.zeros(1), line.radius) + 1.0, line.at(np.zeros(1), line.height))[0]
    holed, _ = scan.keep_vertices(lengths(scan.vertices - away) > 0.5)
    assert rescans(holed, line, axes, ringed=True) == ()


def test_points_too_far_apart_are_told(stump_geometry: Geometry, scan: Surface) -> None:
    """Thinned to triangles of about 0.7 mm: all of the line is thin."""
    area = float(scan.face_areas.sum())
    coarse = lightened(scan, int(area / (0.433 * 0.7**2)))
    (row,) = rescans(coarse, stump_geometry.line, stump_geometry.axes, ringed=True)
    assert row.what == "thin"
    assert row.length_mm > 0.9 * stump_geometry.line.length_mm


def test_gingiva_over_the_line_is_told_where_it_lies(stump_geometry: Geometry, scan: Surface) -> None:
    """Everything beyond the line raised by 0.8 mm over 40 degrees of the lingual side; of a cavity nothing is said."""
    line, axes = stump_geometry.line, stump_geometry.axes
    azimuth, radius, height = axes.cylinder(scan.vertices)
    beyond = (radius > line.at(azimuth, line.radius) + 0.03) & (radius < line.at(azimuth, line.radius) + 1.0)
    here = beyond & (degrees_apart(azimuth, 180.0) < 20)
    rise = np.where(here, line.at(azimuth, line.height) + 0.8 - height, 0.0)
    raised = scan.with_vertices(scan.vertices + rise[:, None] * axes.up)
    rows = rescans(raised, line, axes, ringed=True)
    assert [r.what for r in rows] == ["gingiva"]
    assert rows[0].side == "lingual"
    around = 2 * np.pi * float(line.radius.mean()) * 40 / 360
    assert rows[0].length_mm == pytest.approx(around, abs=1.2)
    assert all(r.what != "gingiva" for r in rescans(raised, line, axes, ringed=False))
