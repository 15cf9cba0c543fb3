"""Ferrule on a stump with a core of known border, drawn and by colour."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.arrays import Floats
from vane_line.core.case import Geometry, complete, measure, prepare
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.ferrule import SectorFerrule, core_from_colour, ferrule
from vane_line.core.mesh.surface import Surface
from vane_line.core.placed import place
from vane_line.core.tooth.notation import ToothNumber


def border(height: Floats | float, radius: Floats | float) -> Floats:
    """A closed border from azimuth 0 (facial, +y) rising to mesial (+x)."""
    a = np.radians(np.arange(0, 360, 5))
    h, r = np.broadcast_to(height, a.shape), np.broadcast_to(radius, a.shape)
    return np.stack([r * np.sin(a), r * np.cos(a), h], axis=1)


def of(geometry: Geometry, curve: Floats) -> dict[str, SectorFerrule]:
    return {s.sector: s for s in ferrule(geometry.ring.profiles, geometry.ring.walls, geometry.line, curve)}


def test_a_border_on_the_wall_gives_the_height_and_no_thickness(stump_geometry: Geometry) -> None:
    """Core down to 3.4, and to 2.0 mesially: 1.8 of dentine over the ledge at 1.6, 0.4 mesially."""
    azimuth = np.arange(0, 360, 5)
    height = np.where(np.abs(azimuth - 90) < 35, 2.0, 3.4)
    found = of(stump_geometry, border(height, 3.8))
    assert len(found) == 8
    assert found["facial"].height_mm == pytest.approx(1.8, abs=0.06)
    assert found["mesial"].height_mm == pytest.approx(0.4, abs=0.06)
    assert found["facial"].thickness_mm is None


def test_a_border_on_top_gives_the_wall_s_height_and_the_thickness(stump_geometry: Geometry) -> None:
    """A core of radius 2.2 in the flat top at 5.5, whose edge lies at radius 4 - 3.9 tan 6 degrees = 3.59."""
    found = of(stump_geometry, border(5.5, 2.2))
    for sector in found.values():
        assert sector.height_mm == pytest.approx(3.9, abs=0.35)  # the wall's run ends a little under its rounded edge
        assert sector.thickness_mm == pytest.approx(3.59 - 2.2, abs=0.12)


def test_verdicts_ask_for_height_and_thickness_by_sector() -> None:
    """1.5 at least, 2.0 wanted, 1.0 thick: 0.4 mesially is 1.1 short."""
    options = facing(ToothNumber("15"))
    prepared = prepare(place(Stump(seed=3).scans(), options, lambda _t, _s: None), options)
    azimuth = np.arange(0, 360, 5)
    curve = border(np.where(np.abs(azimuth - 90) < 35, 2.0, 3.9), 3.75)
    drawn = facing(ToothNumber("15"), core=curve)
    verdicts = judge(complete(prepared, drawn), choose("zirconia", "full-crown", None)).verdicts
    rows = {v.zone: v for v in verdicts if v.criterion == "ferrule"}
    assert rows["mesial"].status == "short"
    assert rows["mesial"].missing == pytest.approx(1.1, abs=0.08)
    assert rows["facial"].status == "meets"
    assert rows["facial"].target == 2.0


def painted(geometry: Geometry, core: bool) -> Surface:
    inside, rng = geometry.inside, np.random.default_rng(2)
    _, _, height = geometry.axes.cylinder(inside.vertices)
    level = float(np.median(geometry.line.height)) + 2.0
    colour = np.where((height > level)[:, None] & core, [120, 150, 200], [215, 200, 160])
    colour = np.clip(colour + 6 * rng.standard_normal(colour.shape), 0, 255)
    return Surface(inside.vertices, inside.faces, colour.astype(np.uint8))


def test_a_core_is_read_from_its_colour(stump_geometry: Geometry) -> None:
    """Painted from 2.0 above the ledge upward: its border is found there; one colour has none."""
    found = core_from_colour(painted(stump_geometry, core=True), stump_geometry.axes)
    assert found is not None
    _, _, height = stump_geometry.axes.cylinder(found)
    assert np.median(height - np.median(stump_geometry.line.height)) == pytest.approx(2.0, abs=0.1)
    assert core_from_colour(painted(stump_geometry, core=False), stump_geometry.axes) is None
    assert core_from_colour(stump_geometry.inside, stump_geometry.axes) is None


@pytest.mark.long
def test_a_sound_stump_has_no_ferrule_verdict() -> None:
    """Only built-up teeth have one."""
    geometry = measure(Stump(seed=5).scans(), facing(ToothNumber("15")))
    assert geometry.ring.shape.ferrule is None
