"""Figures move evenly with the surface: none jumps from one sample, cell or vertex to the next."""

from __future__ import annotations

import numpy as np
import pytest
from solids import course, plate

from vane_line.core.arrays import Floats
from vane_line.core.channels.groove import _counting
from vane_line.core.child.neck import _between, _down_to
from vane_line.core.judge.judgement import _nudges
from vane_line.core.measure.finish_line import _despiked, placed_on
from vane_line.core.measure.margin import seam_level
from vane_line.core.measure.reduction import field_of, summarise
from vane_line.core.measure.undercut import _averaged, _held_on
from vane_line.core.measure.zones import Zones
from vane_line.core.rings import without_gaps
from vane_line.core.tooth.anatomy import height_picture, tips_of
from vane_line.core.tooth.occlusal import _highest_around
from vane_line.core.trace.crease import crease_turn
from vane_line.core.trace.section import STEP_MM, Axes, Profiles
from vane_line.core.trace.strip import Strip, closed_path, even_course
from vane_line.core.trace.wall import find_walls
from vane_line.core.window.forms import _longest

UP, FACIAL, MESIAL = np.eye(3)[[2, 1, 0]]


def _all_round(*places: tuple[float, float]) -> Profiles:
    """A profile through places (radius, height), the same all round."""
    one = course(*places)
    rows = (np.tile(np.pad(x, ((0, 0), (0, 40)), constant_values=np.nan), (12, 1)) for x in (one.radius, one.height))
    return Profiles(one.axes, np.arange(0, 360, 30.0), *rows, 0.1)


def _line_at(*places: tuple[float, float]) -> Floats:
    """(2,) where the line is put on an outline through places (radius, height), the same all round."""
    rings = _all_round(*places)
    turn = crease_turn(rings)
    line = placed_on(rings, np.full(12, int(np.nanargmax(turn[0]))), turn, np.ones(12, dtype=bool))
    return np.array([line.radius[0], line.height[0]])


def _greatest_step(course: Floats) -> float:
    return float(np.linalg.norm(np.diff(course, axis=0), axis=1).max())


def test_the_edge_of_a_ledge_moves_with_its_rim() -> None:
    """A bevel grows on the rim by 1 µm a step: the samples that turn most and the fits that count change, the place
    moves by no more than a few."""
    bevels = np.arange(0.0, 0.16, 0.001)
    places = np.array([_line_at((3, 3), (3, 0), (3.85, 0), (4, -b), (4, -2)) for b in bevels])
    assert _greatest_step(places) < 0.008
    np.testing.assert_allclose(places[0], (4, 0), atol=0.005)


def test_the_edge_moves_with_the_ledge() -> None:
    """A ledge that gets wider by 1 µm a step: where the samples lie along it is nothing to its edge."""
    widths = np.arange(0.9, 1.0, 0.001)
    places = np.array([_line_at((3, 3), (3, 0), (3 + w, 0), (3 + w, -2)) for w in widths])
    np.testing.assert_allclose(places[:, 0], 3 + widths, atol=0.012)
    assert _greatest_step(places) < 0.006


def test_the_taper_over_the_gingiva_moves_with_the_walls_end() -> None:
    """A wall, 2 degrees and bulging by a little, that gets longer by 1 µm a step over a round seam: where the samples
    lie is nothing to its lowest part's taper, which else jumps by a fifth of a degree."""
    tapers, turn = [], np.radians(np.linspace(0, 80, 30))
    for longer in np.arange(0.0, 0.06, 0.001):
        depth = np.linspace(0, 2.4 + longer, 60)
        wall = np.stack([3 + depth * np.tan(np.radians(2)) + 0.03 * (depth - longer) ** 2, 3 - depth], axis=1)
        seam = wall[-1] + np.stack([0.5 * (1 - np.cos(turn)), -0.5 * np.sin(turn)], axis=1)
        rings = _all_round((1, 3.0), *wall, *seam[1:], (6, seam[-1][1]))
        runs = find_walls(rings)
        tapers.append(_between(rings, runs, 5.0, _down_to(rings, runs, 5.0, runs.foot)).taper_deg[0])
    assert np.isfinite(tapers).all()
    assert np.abs(np.diff(tapers)).max() < 0.01


def test_past_a_half_turn_a_crease_goes_on() -> None:
    """Under an overhang the surface leads back: 22 degrees up, then 169 down and in, are 191, and no hollow."""
    rings = course((3, 3), (3, 0), (4, 0.4), (3.4, 0.28), (3.4, -1.5))
    turn = crease_turn(rings)[0]
    at = int(np.nanargmin(np.hypot(rings.radius[0] - 4, rings.height[0] - 0.4)))
    assert turn[at - 1 : at + 2].max() == pytest.approx(191, abs=3)


def _strip(middle: float) -> Strip:
    """Forty rows of nine places 0.05 apart, cheapest at `middle`, counted in places."""
    column = np.tile(np.arange(9.0), (40, 1))
    return Strip(0.02 * (column - middle) ** 2, 5 + STEP_MM * column, np.zeros_like(column))


def test_a_doubtful_line_lies_between_samples() -> None:
    """Where two places are as good as each other, the cheapest path jumps to the next sample; the course does not."""
    middles = np.arange(3.3, 4.7, 0.02)
    paths = np.array([closed_path(_strip(m))[0] for m in middles])
    assert set(paths) == {3, 4, 5}
    radius = np.array([even_course(_strip(m), closed_path(_strip(m)))[0, 0] for m in middles])
    np.testing.assert_allclose(radius, 5 + STEP_MM * middles, atol=0.001)


def test_the_last_sample_comes_in_by_and_by() -> None:
    """A profile that just reaches its last sample: that has no say yet."""
    strip, without = _strip(6.0), _strip(6.0)
    short = np.ones_like(strip.cost)
    short[:, 7:] = 0.0
    at_last = Strip(strip.cost, strip.radius, strip.height, None, short)
    cut = Strip(without.cost[:, :7], without.radius[:, :7], without.height[:, :7])
    path = np.full(40, 6)
    np.testing.assert_allclose(even_course(at_last, path), even_course(cut, path), atol=1e-6)
    assert even_course(strip, path)[0, 0] > even_course(cut, path)[0, 0] + 0.01


def test_a_spike_is_put_back_by_and_by() -> None:
    """A point that leaves its neighbourhood by 0.02 stays, by 0.12 goes, and in between nothing jumps."""
    spikes = np.arange(0.02, 0.12, 0.001)
    left = []
    for size in spikes:
        values = np.zeros(30)
        values[11] = size
        left.append(_despiked(values)[11])
    assert left[0] == spikes[0]
    assert left[-1] == 0.0
    assert np.abs(np.diff(left)).max() < 0.004


@pytest.mark.parametrize("shift", [0.0, 0.02, 0.05, 0.09, 0.13])
def test_a_cusp_s_tip_lies_where_it_is(shift: float) -> None:
    """A rounded cusp of radius 1.2 at (0.31, -0.17), by vertices 0.16 apart that lie elsewhere each time."""
    flat = plate(shift - 2.4, shift + 2.24, 0.7 * shift - 2.4, 0.7 * shift + 2.24, 0.0, 0.16)
    x, y, _ = flat.vertices.T
    surface = flat.with_vertices(np.stack([x, y, 5 - ((x - 0.31) ** 2 + (y + 0.17) ** 2) / 2.4], axis=1))
    axes = Axes.make(np.zeros(3), UP, FACIAL, MESIAL)
    points = surface.vertices[:, :2]
    tips = tips_of(surface, points, axes, height_picture(surface, points, axes))
    assert len(tips) == 1
    np.testing.assert_allclose(tips[0], (0.31, -0.17), atol=0.004)


def test_one_vertex_more_hardly_moves_a_zone_s_low() -> None:
    """Values that fall towards a zone's border, which goes over one row of vertices after the other: with the border
    alone its low jumps; over borders a little beside it goes evenly."""
    surface = plate(0.0, 2.85, 0.0, 0.75, 0.0, 0.15)
    value, unseen = 0.5 * surface.vertices[:, 0], np.zeros(surface.n_vertices, dtype=bool)

    def zones(border: float) -> Zones:
        return Zones(["low", "high"], (surface.vertices[:, 0] > border).astype(np.int64))

    borders, plain, even, eased = np.arange(0.9, 1.5, 0.01), [], [], []
    for border in borders:
        nudged = [zones(border + off) for off in np.linspace(-0.075, 0.075, 9)]
        plain.append(summarise(surface, value, value, unseen, zones(border))[0][1].low_mm)
        even.append(field_of(surface, value, unseen, zones(border), nudged=nudged).zones[1].low_mm)
        parts, _ = summarise(surface, value, value, unseen, zones(border), nudged)  # of parts of zones the same way
        assert parts[1].low_mm is not None
        eased.append(parts[1].low_mm)
    jump, step, eased_step = (float(np.abs(np.diff(v)).max()) for v in (plain, even, eased))
    assert jump > 0.06
    assert step < jump / 4
    assert eased_step < jump / 4


def test_the_gingiva_s_level_moves_with_its_points() -> None:
    """A seam that rises by 0.4 mm at 40 degrees, told at 45 as it is turned by a tenth of a degree a step."""
    level = []
    for turned in np.arange(0.0, 12.0, 0.1):
        azimuth = np.arange(0, 90, 1.7) + turned
        level.append(seam_level(azimuth, np.where(azimuth < 40 + turned, 0.0, 0.4), np.array([45.0]), False)[0])
    assert level[0] == pytest.approx(0.4, abs=0.05)
    assert level[-1] == pytest.approx(0.0, abs=0.05)
    assert np.abs(np.diff(level)).max() < 0.03


def test_a_groove_s_end_moves_with_its_depth() -> None:
    """Its last levels get shallower by 1 % a step: the axis is told from a little less of it each time."""
    height = np.arange(0, 2.05, 0.1)
    said = []
    for deep in np.arange(1.0, 0.0, -0.01):
        level, counts = _counting(height, np.where(height > 1.55, 0.6 * deep, 0.6), 0.6)
        said.append(np.interp(np.arange(0, 2, 0.05), level, counts))
    assert np.abs(np.diff(said, axis=0)).max() < 0.06
    assert said[0][30] > 0.9 > 0.2 > said[-1][30]  # at 1.5


def test_walls_that_go_outward_have_no_undercut_beside_shorter_ones() -> None:
    """Half the walls end sooner, on a ledge that the others reach lower down; beyond the line they go in, or are not
    seen. None hangs over; averaged as they are, the longer ones would by 0.05 and more."""
    arc = np.arange(120)
    end = np.where(np.arange(360) < 180, 60, 90)
    wall = 4.0 + 0.002 * arc + np.clip(0.05 * (arc - (end[:, None] - 12)), 0, 0.6)
    beyond = arc > end[:, None]
    for outside in (np.nan, 3.0):
        radius = np.where(beyond, outside, wall)
        kept = np.where(beyond, np.nan, _averaged(_held_on(radius, end)))
        inward = np.nanmax(np.fmax.accumulate(kept, axis=1) - kept)
        assert inward < 0.02
        plain = np.where(beyond, np.nan, _averaged(radius))
        assert np.nanmax(np.fmax.accumulate(plain, axis=1) - plain) > 0.05


def test_a_side_of_a_veneer_is_one_stretch_of_its_line() -> None:
    """A stretch over the line's first point, with a gap of four points in it; ten points of the butt's end, further on,
    are none of it, and were a seventh of the points that told a scoop."""
    mask = np.zeros(200, dtype=bool)
    mask[[*range(160, 180), *range(184, 200), *range(20)]] = True
    side = mask.copy()
    mask[60:70] = True
    np.testing.assert_array_equal(_longest(mask), side)
    assert not _longest(np.zeros(200, dtype=bool)).any()


def test_one_point_that_looks_another_way_parts_no_stretch() -> None:
    """Nor two, over the line's first point too; a stretch's ends stay where they are, and a wide gap stays one."""
    mask = np.zeros(100, dtype=bool)
    mask[[*range(95, 100), *range(20), *range(40, 50)]] = True
    torn = mask.copy()
    torn[[99, 0, 44]] = False
    np.testing.assert_array_equal(without_gaps(torn, 3), mask)


def test_tops_do_not_hang_on_the_scan_s_outermost_place() -> None:
    """How high the highest stands around every other place stays as it is when that one moves a little."""
    random = np.random.default_rng(7)
    plan, height = random.uniform(-20, 20, (3000, 2)), random.uniform(0, 6, 3000)
    plan[0], height[0] = (-24.0, -24.0), 0.0
    before = _highest_around(plan, height)
    plan[0] -= 0.07
    assert (_highest_around(plan, height)[1:] == before[1:]).all()
    assert np.ptp(before) > 0.3


def test_borders_beside_are_each_another() -> None:
    """Along no way do two of them lie alike: a place that comes to lie beyond one has a ninth of the say."""
    x, y, z = np.eye(3)
    matrices = np.array(_nudges(Axes.make(np.zeros(3), z, x, y)))
    for way in range(3):
        moved = np.sort(matrices[:, way, 3])
        assert np.diff(moved).min() > 0.002
        assert abs(moved.mean()) < 0.003
