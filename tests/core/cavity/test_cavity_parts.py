"""Floors, boxes, covered cusps and the isthmus told apart on surfaces that are given as heights over a plan."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from measured_cavities import PLAIN, cut_of, measured
from solids import plate

from vane_line.core.arrays import Floats
from vane_line.core.cavity.boxes import nearest_to
from vane_line.core.cavity.floor import Floor, floor_depth
from vane_line.core.cavity.isthmus import find_isthmus
from vane_line.core.cavity.parts import FILLET_MM, Parts, part
from vane_line.core.mesh.surface import Surface
from vane_line.core.outline.curve import Outline
from vane_line.core.outline.line import OutlineLine
from vane_line.core.trace.section import Axes

AXES = Axes.make(np.zeros(3), np.array([0.0, 0, 1]), facial=np.array([0.0, 1, 0]), mesial=np.array([1.0, 0, 0]))
LONG, BROAD, STEP = 4.8, 4.0, 0.12  # half of the plan, mm
TOP_MM, RAMP_MM = 2.2, 0.3  # of the walls over the floor; a step's breadth
Heights = Callable[[Floats, Floats], Floats]


def within(x: Floats, low: float, high: float) -> Floats:
    """1 between two places, 0 outside, with ramps inside."""
    return np.asarray(np.clip(np.minimum(x - low, high - x) / RAMP_MM, 0, 1))


def trough(x: Floats, y: Floats) -> Floats:
    """A level floor at 0 under walls all round."""
    return np.asarray(TOP_MM * (1 - within(x, -3.2, 3.2) * within(y, -1.5, 1.5)))


def with_a_covered_cusp(x: Floats, y: Floats) -> Floats:
    """Distolingually cut down to 1.3, level, beside a mesiolingual cusp that stands; outside it falls off."""
    shelf = within(x, -3.4, -0.2) * within(y, -3.4, -1.0)
    fall = np.clip((-2.9 - y) / 0.5, 0, 1) * within(x, -3.6, 0.2) * 2.0
    return np.asarray(trough(x, y) + shelf * (1.3 - np.maximum(trough(x, y), 1.3)) - fall)


def with_a_cusp_covered_along_its_inclines(x: Floats, y: Floats) -> Floats:
    """The lingual cusps cut down, level in the middle at 1.3; to three sides their inclines rise by 39 degrees."""
    off = np.hypot(np.maximum(np.abs(x) - 1.4, 0), np.maximum(-y - 2.2, 0))
    basin = 1.3 + 0.8 * np.minimum(off, 1.1)
    return np.asarray(np.minimum(trough(x, y), np.where(y < 0, basin, TOP_MM)))


def with_a_box(x: Floats, y: Floats, hidden: bool) -> Floats:
    """A box 1.2 lower to the mesial; where its end is hidden the scan rises before the outline."""
    low = within(x, 2.6, 9.0) * within(y, -1.2, 1.2)
    floor = trough(x, y) * (1 - low) - 1.2 * low
    return np.asarray(floor + (0.6 * np.clip((x - 4.5) / 0.3, 0, 1) * low if hidden else 0.0))


def open_to_the_distal(x: Floats, y: Floats) -> Floats:
    """The floor runs out to the outline."""
    return np.asarray(TOP_MM * (1 - within(x, -9.0, 3.2) * within(y, -1.5, 1.5)))


def surface_of(heights: Heights) -> Surface:
    flat = plate(-LONG, LONG, -BROAD, BROAD, 0.0, STEP)
    x, y = flat.vertices[:, 0], flat.vertices[:, 1]
    return flat.with_vertices(np.column_stack([x, y, heights(x, y)]))


def outline_of(heights: Heights) -> Outline:
    """The plan's rim."""
    x, y = np.arange(-LONG, LONG, STEP), np.arange(-BROAD, BROAD, STEP)
    across = np.concatenate([
        np.column_stack([x, np.full_like(x, -BROAD)]), np.column_stack([np.full_like(y, LONG), y]),
        np.column_stack([-x, np.full_like(x, BROAD)]), np.column_stack([np.full_like(y, -LONG), -y]),
    ])  # fmt: skip
    out = np.column_stack([across, np.zeros(len(across))])
    sure = np.ones(len(across), dtype=bool)
    points = np.column_stack([across, heights(across[:, 0], across[:, 1])])
    up = np.tile([0.0, 0, 1], (len(across), 1))
    return Outline(points, np.full(len(across), 90.0), sure, ~sure, out / np.linalg.norm(out, axis=1)[:, None], up)


def parts_of(heights: Heights) -> tuple[Surface, Parts]:
    surface = surface_of(heights)
    return surface, part(surface, outline_of(heights), AXES)


def test_a_covered_cusp_beside_a_standing_one_is_no_floor() -> None:
    """Walls rise on two of its four sides; it stands 1.3 over the floor."""
    surface, parts = parts_of(with_a_covered_cusp)
    x, y = surface.vertices[:, :2].T
    shelf = (np.abs(x + 1.8) < 1.0) & (np.abs(y + 2.1) < 0.4)
    assert parts.cover[shelf].all()
    assert not parts.floor[y < -1.5].any()
    assert parts.floor[(np.abs(x) < 2.5) & (np.abs(y) < 0.7)].all()


def test_a_covered_cusp_between_its_inclines_is_no_floor() -> None:
    """What rises from it all about but on one side are inclines: walls stand about a floor. Told as one, the reduction
    over two of an onlay's cusps was not judged, and nothing said so."""
    surface, parts = parts_of(with_a_cusp_covered_along_its_inclines)
    x, y = surface.vertices[:, :2].T
    assert parts.cover[(np.abs(x) < 1.0) & (np.abs(y + 1.9) < 0.2)].all()
    assert not parts.floor[y < -1.6].any()
    assert parts.floor[(np.abs(x) < 2.5) & (np.abs(y) < 0.7)].all()


@pytest.mark.parametrize("hidden", [False, True])
def test_a_box_whose_end_a_scanner_filled_is_a_box(hidden: bool) -> None:
    """Between it and the neighbour little is seen: its floor ends before the outline, lower than the other floor."""
    surface, parts = parts_of(lambda x, y: with_a_box(x, y, hidden))
    (box,) = parts.boxes
    assert box.side == "mesial"
    x, y, z = surface.vertices.T
    assert box.floor[(np.abs(x - 3.6) < 0.2) & (np.abs(y) < 0.5)].all()
    assert not parts.floor[z < -0.5].any()
    assert parts.floor[(np.abs(x) < 2.0) & (np.abs(y) < 0.7)].all()


def test_a_floor_that_runs_out_ends_before_the_outline() -> None:
    """On the outline nothing is cut: the depth there says nothing of the cavity's."""
    surface, parts = parts_of(open_to_the_distal)
    x, y, _ = surface.vertices.T
    assert not parts.floor[x < -LONG + FILLET_MM].any()
    assert parts.floor[(np.abs(x) < 2.0) & (np.abs(y) < 0.8)].all()
    assert not parts.boxes


def test_how_far_the_least_depth_hangs_on_its_place() -> None:
    """Over a floor whose depth rises by 1.5 a millimetre from its one end, half the worst place and twice as much lie
    apart by what the slope says; over a level one they are one."""

    def depth(slope: float) -> Floor:
        flat = plate(0, 4, 0, 2, 0.0, 0.05)
        over = flat.with_vertices(flat.vertices + [[0, 0, 1.0]] + slope * flat.vertices[:, :1] * [[0, 0, 1.0]])
        every = np.ones(flat.n_vertices, dtype=bool)
        found, _ = floor_depth(flat, every, flat.vertices[:, 2], AXES.up, over, None)
        assert found is not None
        return found

    level, steep = depth(0.0), depth(1.5)
    assert level.low_moves_mm == pytest.approx(0.0, abs=1e-6)
    # 0.05 and 0.2 mm² of a floor 2 mm broad end 0.025 and 0.1 mm from its end; averaged, its end is less steep.
    assert 0.3 < steep.low_moves_mm / (1.5 * 0.075 / 2) < 1.0
    assert level.median_moves_mm == steep.median_moves_mm == 0.0


@pytest.mark.long
def test_the_isthmus_is_not_read_in_a_box_that_was_not_told() -> None:
    """Without its box the outline goes down the proximal side, where the cavity is narrower: the same isthmus."""
    geometry = measured(PLAIN)
    cut, line = cut_of(geometry), geometry.line
    assert cut.boxes
    assert cut.isthmus is not None
    assert isinstance(line, OutlineLine)
    bare = replace(cut.parts, boxes=[])
    found = find_isthmus(line.outline, cut.patches, cut.walls, bare, geometry.axes, geometry.anatomy)
    assert found is not None
    assert found.width_mm == pytest.approx(cut.isthmus.width_mm, abs=0.05)
    assert cut.isthmus.moves_mm < 0.1


@pytest.mark.parametrize(("off_mm", "seen", "clear"), [(0.3, True, True), (0.3, False, False), (0.01, True, False)])
def test_an_outline_that_runs_on_to_the_neighbour_is_no_clear_edge(off_mm: float, seen: bool, clear: bool) -> None:
    """Where the scanner filled the gap the edge lies somewhere under it; a gap that is seen is told."""
    neighbour = plate(-2, 2, -2, 2, 0.0)
    outline = np.array([[x, 0.0, off_mm + abs(x)] for x in np.linspace(-1, 1, 21)])
    told = nearest_to(outline, np.full(len(outline), seen), neighbour)
    assert told.away_mm == pytest.approx(off_mm)
    assert told.at == pytest.approx((0, 0, off_mm))
    assert told.clear is clear
    assert nearest_to(outline, np.full(len(outline), seen), None).away_mm is None
