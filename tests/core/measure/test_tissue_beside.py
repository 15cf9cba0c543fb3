"""Gingiva that rises behind a ledge without an edge before it, and raised rims, on profiles of known course."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest
from solids import course

from vane_line.core.measure.finish_line import FinishLine, find_finish_line
from vane_line.core.measure.line_window import search_windows, taken
from vane_line.core.rings import degrees_apart
from vane_line.core.trace.crease import crease_turn
from vane_line.core.trace.section import Profiles
from vane_line.core.trace.wall import find_walls

Places = Sequence[tuple[float, float]]
WALL: Places = ((0.0, 4.3), (1.5, 4.3), (1.7, 4.0), (2.0, 0.3), (2.3, 0.0))
EDGE: Places = (*WALL, (3.0, 0.0), (2.9, -0.7), (3.8, -0.3), (5.5, -0.4))
VALLEY_MM = 2.8
FLOOR: Places = (*WALL, (VALLEY_MM, -0.05))
HIGH: Places = (*FLOOR, (3.4, 0.6), (5.5, 0.6))
AZIMUTHS = 180
SAMPLES = 400


def rings_of(*stretches: tuple[float, Places]) -> Profiles:
    """A tooth that has an edge all round, but about 90 degrees, within so many of it, other profiles; the narrowest
    stretch last."""
    azimuth = np.arange(AZIMUTHS) * 360 / AZIMUTHS
    off = degrees_apart(azimuth, 90)
    radius, height = np.full((2, AZIMUTHS, SAMPLES), np.nan)
    for half_deg, places in ((180.0, EDGE), *stretches):
        one = course(*places)
        count = one.radius.shape[1]
        for grid, told in ((radius, one.radius), (height, one.height)):
            grid[off <= half_deg] = np.pad(told[0], (0, SAMPLES - count), constant_values=np.nan)
    return Profiles(course(*EDGE).axes, azimuth, radius, height, 0.1)


def beside(*stretches: tuple[float, Places]) -> FinishLine:
    rings = rings_of(*stretches)
    return find_finish_line(rings, find_walls(rings), None)


def within(line: FinishLine, half_deg: float) -> np.ndarray:
    return np.asarray(line.radius[degrees_apart(line.azimuth_deg, 90) <= half_deg])


@pytest.mark.parametrize("half_deg", [15.0, 50.0])
def test_a_broad_crest_behind_a_floor_is_gingiva(half_deg: float) -> None:
    """It rises by less than a rim may, and bends as sharply: the line stays in the valley before it, and says that no
    edge is seen there."""
    line = beside((half_deg, (*FLOOR, (3.3, 0.36), (3.8, -0.05), (4.3, -0.3), (5.5, -0.4))))
    assert np.abs(within(line, half_deg - 6) - VALLEY_MM).max() < 0.15
    assert not line.clear[degrees_apart(line.azimuth_deg, 90) <= half_deg - 6].any()


@pytest.mark.parametrize(("half_deg", "same"), [(18.0, True), (30.0, False)])
def test_a_low_crest_between_high_ones_is_the_same_gingiva(half_deg: float, same: bool) -> None:
    """As narrow as a rim, but it goes on from tissue on either side that is told by its height: the line is not looked
    for on it. A long one may be a rim."""
    low: Places = (*FLOOR, (3.0, 0.3), (3.15, -0.1), (3.8, -0.3), (5.5, -0.4))
    rings = rings_of((40.0, HIGH), (half_deg, low))
    _, last, _ = search_windows(rings, find_walls(rings), crease_turn(rings), None, True)
    ends = taken(rings.radius, last)[degrees_apart(rings.azimuth_deg, 90) <= half_deg]
    assert (ends < 2.9).all() == same


@pytest.mark.parametrize("high_mm", [0.15, 0.3])
@pytest.mark.parametrize("half_deg", [15.0, 50.0])
def test_a_rim_is_the_edge(high_mm: float, half_deg: float) -> None:
    """What a bur cut too deep leaves standing is narrow: the line runs on its crest."""
    rim: Places = (*WALL, (2.7, -0.02), (2.95, high_mm), (3.05, high_mm), (3.0, -0.7), (3.8, -0.3), (5.5, -0.4))
    line = beside((half_deg, rim))
    assert within(line, half_deg - 6).min() > 2.9
    assert line.clear.mean() > 0.95


@pytest.mark.parametrize("up_deg", [10.0, 20.0])
def test_a_floor_that_rises_to_its_edge_is_a_ledge(up_deg: float) -> None:
    """An acute edge: no valley stands before it but the fillet at the wall."""
    edge = (3.2, 0.9 * np.tan(np.radians(up_deg)))
    line = beside((180.0, (*WALL, edge, (3.1, -0.7), (3.8, -0.3), (5.5, -0.4))))
    assert np.abs(line.radius - 3.2).max() < 0.1
