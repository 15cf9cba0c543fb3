"""The finish line on ledges whose edge is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import uniform_filter1d
from solids import Stump, course, facing

from vane_line.core.case import Geometry, complete, measure, prepare
from vane_line.core.files import Measurement
from vane_line.core.judge.shape_rows import finish_line_row
from vane_line.core.measure.finish_line import FinishLine, placed_on
from vane_line.core.measure.line_by_hand import follow, redraw
from vane_line.core.options import HandLine
from vane_line.core.placed import place
from vane_line.core.rings import degrees_apart
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.trace.crease import crease_turn
from vane_line.core.trace.section import STEP_MM, Profiles
from vane_line.demo.cases import MadeCase
from vane_line.errors import BadOption


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


@pytest.mark.long
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


def test_where_the_scan_ends_on_the_ledge_the_line_is_doubtful_but_goes_on() -> None:
    """Over 44 degrees beside a contact, where the line rises and the wall is low, nothing was seen past the ledge's
    edge: also where the wall above has a hole there, no more of the line is without evidence than lies under it."""
    stump = Stump(line_mm=lambda a: 1.0 + 2.4 * np.exp(-((degrees_apart(a, 90) / 28) ** 2)), width_mm=0.8, noise_um=8)
    scans = stump.scans()
    azimuth, radius = stump.azimuth(scans.prep.face_centres), np.hypot(*scans.prep.face_centres[:, :2].T)
    height = scans.prep.face_centres[:, 2]
    beside = degrees_apart(azimuth, 90) < 22
    ended = beside & (radius > 4.9) & (height < 3.6)
    hole = (degrees_apart(azimuth, 86) < 4) & (radius > 3.5) & (height < 4.2)
    gap = {}
    for name, mask in {"border": ended, "and hole": ended | hole}.items():
        torn, _ = scans.prep.keep_faces(~mask)
        line = measure(replace(scans, prep=torn), facing(ToothNumber("36"))).line
        assert not line.clear[degrees_apart(line.azimuth_deg, 98) < 6].any()
        gap[name] = line.gap_deg
    assert gap["border"] < 4
    assert 5 < gap["and hole"] < 20


def test_points_begin_facial_and_rise_in_azimuth(stump_geometry: Geometry) -> None:
    """From azimuth 0, rising, the first not repeated."""
    line = stump_geometry.line
    assert line.azimuth_deg[0] == 0
    assert (np.diff(line.azimuth_deg) > 0).all()
    assert np.linalg.norm(line.points[0] - line.points[-1]) > 0.02
    assert line.points[0][1] > 4.8


@pytest.mark.long
def test_the_demo_s_line_lies_on_the_cut_s_edge(fine_case: MadeCase, fine_measured: Measurement) -> None:
    """Against the exact edge of bur and tooth, with its step, rim and scallops, on a mesh of 0.16 mm: where the line
    calls itself clear, within the reach."""
    from scipy.spatial import cKDTree

    line = fine_measured.geometry.line
    truth = np.array(fine_case.truth["finish_line"])
    dense = np.concatenate([truth + t * (np.roll(truth, -1, axis=0) - truth) for t in np.linspace(0, 1, 8)[:-1]])
    off = 1000 * cKDTree(dense).query(line.points)[0]
    assert np.median(off[line.clear]) < 30
    assert np.quantile(off[line.clear], 0.95) < 80
    assert line.clear.mean() > 0.6


def _stroke(radius: float, height: float, from_deg: float, to_deg: float, count: int = 9) -> np.ndarray:
    a = np.radians(np.linspace(from_deg, to_deg, count))
    return np.stack([radius * np.sin(a), radius * np.cos(a), np.full(count, height)], axis=1)


def test_a_stroke_beside_the_edge_snaps_to_it(stump_geometry: Geometry) -> None:
    """Drawn 0.25 inside the edge over 60 degrees: the stretch comes back onto it, the rest does not move."""
    line = stump_geometry.line
    drawn = redraw(line, stump_geometry.ring.profiles, _stroke(4.75, 1.62, 100, 160), snap=True, closed=False)
    assert np.median(off_edge_um(replace(stump_geometry, line=drawn), 5.0, 1.6)[105:155]) < 30
    np.testing.assert_array_equal(np.delete(drawn.points, range(99, 162), 0), np.delete(line.points, range(99, 162), 0))
    assert drawn.drawn.sum() in (59, 60, 61, 62)
    assert drawn.drawn[130]
    assert not drawn.drawn[20]


@pytest.mark.parametrize("reverse", [False, True])
def test_without_the_snap_a_stretch_stays_where_the_hand_put_it(stump_geometry: Geometry, reverse: bool) -> None:
    """0.4 inside the edge, across facial (azimuth 0), drawn either way round."""
    stroke = _stroke(4.6, 1.6, -20, 20)
    stroke = stroke[::-1] if reverse else stroke
    drawn = redraw(stump_geometry.line, stump_geometry.ring.profiles, stroke, snap=False, closed=False)
    for row in (345, 0, 15):
        assert np.hypot(*drawn.points[row, :2]) == pytest.approx(4.6, abs=0.02)
    assert np.hypot(*drawn.points[180, :2]) == pytest.approx(5.0, abs=0.05)


def test_a_whole_ring_replaces_the_line(stump_geometry: Geometry) -> None:
    """A rough ring within a third of a millimetre of the edge is enough."""
    rough = _stroke(4.85, 1.6, 0, 330, 12)
    drawn = redraw(stump_geometry.line, stump_geometry.ring.profiles, rough, snap=True, closed=True)
    assert drawn.drawn.all()
    assert drawn.closed
    assert np.median(off_edge_um(replace(stump_geometry, line=drawn), 5.0, 1.6)) < 30


def test_a_line_read_again_is_the_same_line(stump_geometry: Geometry) -> None:
    """What is stored as points comes back within a few micrometres."""
    again = follow(stump_geometry.ring.profiles, stump_geometry.line.points, stump_geometry.line.drawn)
    assert np.abs(again.points - stump_geometry.line.points).max() < 0.005
    thinned = follow(stump_geometry.ring.profiles, stump_geometry.line.points[::4], stump_geometry.line.drawn[::4])
    assert np.median(np.abs(thinned.points - stump_geometry.line.points)) < 0.01


@pytest.mark.parametrize(
    ("stroke", "closed", "said"),
    [
        (_stroke(5.0, 1.6, 0, 40), True, "go round"),
        (_stroke(20.0, 1.6, 0, 40), False, "leaves the tooth"),
        (_stroke(5.0, 1.6, 10.1, 10.4), False, "too short"),
        (np.full((3, 3), np.nan), False, "three numbers"),
    ],
)
def test_a_stroke_that_cannot_be_read_is_refused(
    stump_geometry: Geometry, stroke: np.ndarray, closed: bool, said: str
) -> None:
    """With what to do."""
    with pytest.raises(BadOption, match=said):
        redraw(stump_geometry.line, stump_geometry.ring.profiles, stroke, snap=True, closed=closed)


@pytest.mark.long
def test_all_that_depends_on_a_drawn_line_is_measured_again(stump: Stump) -> None:
    """A ring drawn 0.5 inside the edge, unsnapped: the ledge is 0.5 wide then, and the doubt is gone."""
    options = facing(ToothNumber("36"))
    prepared = prepare(place(stump.scans(), options, lambda _t, _s: None), options)
    found = complete(prepared, options)
    ring = redraw(prepared.survey.found, prepared.survey.rings, _stroke(4.5, 1.6, 0, 355, 72), snap=False, closed=True)
    drawn = complete(prepared, facing(ToothNumber("36"), line=HandLine(ring.points, ring.drawn)))
    assert found.ring.shape.form.width_summary()[1] == pytest.approx(1.0, abs=0.03)
    assert drawn.ring.shape.form.width_summary()[1] == pytest.approx(0.5, abs=0.04)
    assert drawn.inside.face_areas.sum() < found.inside.face_areas.sum() - 10
    assert drawn.line.doubtful_share == 0.0


def test_a_feather_edge_is_given_as_a_band() -> None:
    """A wall of 6 degrees that runs out into the uncut tooth at 1.6 has no crease: doubtful all round, drawn where the
    cut's own course ends, and the band is what 0.05 mm of depth either way makes along such a wall."""
    geometry = measure(Stump(width_mm=0.0, seed=13, noise_um=5).scans(), facing(ToothNumber("36")))
    line = geometry.line
    assert line.clear.mean() < 0.05
    height = line.points[:, 2]
    assert np.median(height) == pytest.approx(1.6, abs=0.08)
    assert np.quantile(np.abs(height - 1.6), 0.95) < 0.25
    assert np.isfinite(line.band_mm).mean() > 0.9
    assert np.nanmedian(line.band_mm) == pytest.approx(2 * 0.05 / np.sin(np.radians(6)), rel=0.15)
    row = finish_line_row(geometry)
    assert row.bands
    assert row.bands[0].width_mm == pytest.approx(0.95, rel=0.2)


def scanned(*places: tuple[float, float], edge_mm: float, blunt_mm: float = 0.0) -> FinishLine:
    """The line on an outline through places (radius, height), the same all round, seen by samples of arc whose
    triangles blunt it over so much; asked for where it turns most."""
    one = course(*places, edge_mm=edge_mm)
    r, h = one.radius, one.height
    if blunt_mm:
        r, h = (uniform_filter1d(x, round(blunt_mm / STEP_MM) | 1, mode="nearest") for x in (r, h))
    rows = (np.tile(np.pad(x, ((0, 0), (0, 40)), constant_values=np.nan), (24, 1)) for x in (r, h))
    rings = Profiles(one.axes, np.arange(0, 360, 15.0), *rows, edge_mm)
    turn = crease_turn(rings)
    index = np.full(24, int(np.nanargmax(turn[0])))
    return placed_on(rings, index, turn, np.ones(24, dtype=bool))


LEDGE = (1.7, 4.0), (2.0, 0.3), (2.3, 0.0), (3.0, 0.0)
NARROW = (2.3, 3.0), (2.5, 0.35), (2.62, 0.12), (3.0, 0.0)


@pytest.mark.parametrize("deep_mm", [0.3, 0.5])
@pytest.mark.parametrize("crest", [(3.3, 0.2), (3.6, 0.2)])
@pytest.mark.parametrize(("edge_mm", "blunt_mm", "within_mm"), [(0.1, 0.0, 0.03), (0.2, 0.25, 0.06)])
def test_a_shallow_sulcus_does_not_draw_the_edge_inward(
    deep_mm: float, crest: tuple[float, float], edge_mm: float, blunt_mm: float, within_mm: float
) -> None:
    """Root for so far below a narrow ledge, then gingiva that rises: the far side is no part of the edge's own."""
    line = scanned(*NARROW, (2.98, -deep_mm), crest, edge_mm=edge_mm, blunt_mm=blunt_mm)
    assert line.clear.all()
    np.testing.assert_allclose(line.radius, 3.0, atol=within_mm)
    np.testing.assert_allclose(line.height, 0.0, atol=1.5 * within_mm)


@pytest.mark.parametrize(("seen_mm", "clear"), [(0.25, False), (1.0, True)])
def test_where_the_scan_ends_right_past_a_bend_no_edge_is_clear(seen_mm: float, clear: bool) -> None:
    """Triangles at a scan's border slope down as an edge does: what lies past it must be seen."""
    line = scanned(*LEDGE, (3.0 + 0.5 * seen_mm, -0.85 * seen_mm), edge_mm=0.1)
    assert (line.clear == clear).all()
