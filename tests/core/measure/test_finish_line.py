"""The finish line on ledges whose edge is known."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.case import Geometry, measure
from vane_line.core.files import Measurement
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cases import MadeCase


def off_edge_um(geometry: Geometry, radius: float, height: float) -> np.ndarray:
    """Distance (µm) of every point of the line from the circle it should be."""
    p = geometry.line.points
    return 1000 * np.hypot(np.hypot(p[:, 0], p[:, 1]) - radius, p[:, 2] - height)


def test_a_shoulder_s_edge_is_found_within_the_reach(stump_geometry: Geometry) -> None:
    """Median below 30 µm and 95 % below 80 µm from the true edge, closed, clear everywhere."""
    off = off_edge_um(stump_geometry, 5.0, 1.6)
    assert np.median(off) < 30
    assert np.quantile(off, 0.95) < 80
    assert stump_geometry.line.closed
    assert stump_geometry.line.clear.mean() > 0.97
    assert stump_geometry.line.length_mm == pytest.approx(2 * np.pi * 5, rel=0.03)


@pytest.mark.parametrize("reference", [True, False])
def test_with_and_without_an_earlier_scan(reference: bool) -> None:
    """A sloping chamfer-like ledge: the same edge, within the reach, whether or not there is an earlier scan."""
    stump = Stump(fillet_mm=0.5, width_mm=0.8, ledge_slope_deg=10, noise_um=8, seed=4)
    options = facing(ToothNumber("36"), near=np.array([0.5, 0.3, 5.0]))
    geometry = measure(stump.scans(reference=reference), options)
    height = 1.6 - 0.8 * np.tan(np.radians(10))
    off = off_edge_um(geometry, 5.0, height)
    assert np.median(off) < 30
    assert np.quantile(off, 0.95) < 80
    assert geometry.line.closed


def test_the_line_follows_a_wavy_ledge_and_stays_closed() -> None:
    """A ledge that rises by 0.8 mesially and distally, as gingiva does."""
    stump = Stump(line_mm=lambda a: 1.5 + 0.4 * (1 - np.cos(2 * np.radians(a))), noise_um=8)
    line = measure(stump.scans(), facing(ToothNumber("36"))).line
    expected = 1.5 + 0.4 * (1 - np.cos(2 * np.radians(line.azimuth_deg)))
    assert np.median(np.abs(line.points[:, 2] - expected)) < 0.03
    assert np.quantile(np.abs(line.points[:, 2] - expected), 0.95) < 0.08
    assert line.closed


def test_points_begin_facial_and_rise_in_azimuth(stump_geometry: Geometry) -> None:
    """From azimuth 0, rising, the first not repeated."""
    line = stump_geometry.line
    assert line.azimuth_deg[0] == 0
    assert (np.diff(line.azimuth_deg) > 0).all()
    assert np.linalg.norm(line.points[0] - line.points[-1]) > 0.02
    assert line.points[0][1] > 4.8


def test_the_demo_s_line_lies_on_the_cut_s_edge(demo_case: MadeCase, demo_measured: Measurement) -> None:
    """Against the exact edge of bur and tooth, with its step, rim and scallops, on a mesh of 0.16 mm: where the line
    calls itself clear, within the reach."""
    from scipy.spatial import cKDTree

    line = demo_measured.geometry.line
    truth = np.array(demo_case.truth["finish_line"])
    dense = np.concatenate([truth + t * (np.roll(truth, -1, axis=0) - truth) for t in np.linspace(0, 1, 8)[:-1]])
    off = 1000 * cKDTree(dense).query(line.points)[0]
    assert np.median(off[line.clear]) < 30
    assert np.quantile(off[line.clear], 0.95) < 80
    assert line.clear.mean() > 0.6
