"""Pins and their holes behind a front tooth, in closed form: direction, depth, cover, ledge, and what is left."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from calibration_castings import pin_errors
from castings import Pinned, Rod
from long import first
from solids import facing, turned

from vane_line.core.aligned import align
from vane_line.core.case import Geometry, measure
from vane_line.core.cast.survey import agreed
from vane_line.core.channels.guide_pins import pulled
from vane_line.core.contract.measurement import MeasurementDocument
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.vectors import unit
from vane_line.demo.scanner import placed
from vane_line.errors import BadOption, UnfitScans

TOOTH = ToothNumber("11")
HOLES = Pinned(noise_um=8)
OFF = Pinned(noise_um=8, rods=(Rod(2.0), Rod(-2.0, 4.0)))
PINS = Pinned(noise_um=8, rods=(Rod(2.0, 0.0, 1.0), Rod(-2.0, 3.0, 1.0)), out_mm=4.0)


def read(made: Pinned, **said: object) -> Geometry:
    return measure(made.scans(), facing(TOOTH, restoration="pin-casting", **said))


def told(geometry: Geometry) -> MeasurementDocument:
    found = document(geometry, judge(geometry, choose("full-metal", "pin-casting", None, TOOTH)))
    return MeasurementDocument.model_validate(found)


@pytest.fixture(scope="module")
def holes() -> Geometry:
    return read(HOLES)


@pytest.fixture(scope="module")
def pins() -> Geometry:
    return read(PINS, guide_pins=True)


def test_holes_in_closed_form(holes: Geometry) -> None:
    assert [c.side for c in holes.cut.channels] == ["mesial", "distal"]
    for hole, rod in zip(holes.cut.channels, HOLES.rods, strict=True):
        assert hole.kind == "pin-hole"
        assert hole.depth_mm == pytest.approx(HOLES.deep_mm, abs=0.03)
        assert hole.depth_is_least
        assert hole.diameter_mm == pytest.approx(HOLES.wide_mm, abs=0.02)
        assert np.degrees(np.arccos(hole.direction @ rod.direction)) < 0.5
        assert hole.cover_mm == pytest.approx(HOLES.cover_mm(rod), abs=0.05)
        assert hole.floor is not None
        assert hole.floor.width_mm == pytest.approx(HOLES.shelf_wide_mm, abs=0.12)
        assert hole.floor.slope_deg is not None
        assert hole.floor.slope_deg < 1.0


def test_the_tooth_that_is_left(holes: Geometry) -> None:
    row = told(holes).budget
    assert row is not None
    assert row.thickness_mm == pytest.approx(HOLES.thick_mm, abs=0.05)
    assert row.left_mm == pytest.approx(HOLES.left_mm, abs=0.05)


@pytest.mark.long
def test_guide_pins_tell_directions_and_leave_the_cut_as_it_is(pins: Geometry) -> None:
    """Half a degree with a pin; the surface under its foot is closed, and read as without it."""
    for pin, rod in zip(pins.cut.channels, PINS.rods, strict=True):
        assert pin.kind == "guide-pin"
        assert np.degrees(np.arccos(pin.direction @ rod.direction)) < 0.3
        assert pin.depth_mm is None
        assert pin.length_mm == pytest.approx(PINS.out_mm, abs=0.1)
    plain = read(replace(PINS, out_mm=0.0, deep_mm=0.0, rods=()))
    assert pins.line.length_mm == pytest.approx(plain.line.length_mm, abs=0.4)
    rows = told(pins)
    assert rows.budget is not None
    assert rows.budget.left_mm == pytest.approx(PINS.left_mm, abs=0.08)
    row = next(v for v in rows.verdicts if v.criterion == "pin-depth")
    assert row.status == "not-measured"
    assert "gauge" in row.why


@pytest.mark.long
def test_a_gauge_says_what_the_scan_cannot() -> None:
    """A hole read shallow is not proven short until it is gauged; a gauge's depth is judged as such."""
    shallow = Pinned(noise_um=8, deep_mm=1.4)

    def mesial(geometry: Geometry) -> tuple[float | None, str]:
        row = next(v for v in told(geometry).verdicts if (v.criterion, v.zone, v.bound)
                   == ("pin-depth", "pin/mesial", "min"))  # fmt: skip
        return row.value, row.status

    value, status = mesial(read(shallow))
    assert (value, status) == (pytest.approx(1.4, abs=0.03), "within-uncertainty")
    assert mesial(read(shallow, gauge={"mesial": 1.5})) == (1.5, "short")
    assert mesial(read(shallow, gauge={"mesial": 2.4})) == (2.4, "meets")
    with pytest.raises(BadOption, match="mesial, lingual, distal"):
        read(shallow, gauge={"facial": 2.0})


@pytest.mark.long
def test_a_pin_off_the_others_is_told_and_not_followed() -> None:
    """Of two that disagree, the path goes along the one nearer to the tooth's own axis."""
    geometry = read(OFF)
    assert np.degrees(np.arccos(geometry.path.direction[2])) < 0.6
    rows = {v.zone: v for v in told(geometry).verdicts if v.criterion == "pin-parallel"}
    assert rows["pin/mesial"].status == "meets"
    assert rows["pin/distal"].status == "over"
    assert rows["pin/distal"].value == pytest.approx(4.0, abs=0.6)
    assert rows["between-pins"].value == pytest.approx(4.0, abs=0.8)
    assert not any(c.key.startswith("pin-parallel") for c in told(geometry).corrections)  # no stroke mends it
    assert not any(v.criterion == "undercut" and v.status == "over" for v in told(geometry).verdicts)


def test_the_direction_that_most_pins_share() -> None:
    ways = unit(np.array([[0, 0, 1.0], [0.01, 0, 1], [0.09, 0, 1]]))
    assert agreed(ways, np.array([0.3, 0, 1.0])) == pytest.approx(unit(np.array([0.005, 0, 1.0])), abs=1e-4)


@pytest.mark.long
def test_in_any_position(pins: Geometry) -> None:
    matrix = turned((2, -1, 1), 115.0, (-15.0, 40.0, 3.0))
    scans = PINS.scans()
    assert scans.preop is not None
    moved = Scans(placed(scans.prep, matrix), placed(scans.preop, matrix))
    options = facing(TOOTH, restoration="pin-casting", guide_pins=True)
    there = measure(moved, replace(options, occlusal=matrix[:3, 2], facial=matrix[:3, 1]))
    for one, other in zip(pins.cut.channels, there.cut.channels, strict=True):
        assert matrix[:3, :3] @ one.direction == pytest.approx(other.direction, abs=0.003)
        assert one.cover_mm == pytest.approx(other.cover_mm, abs=0.02)


def test_pins_that_are_not_there_are_said() -> None:
    with pytest.raises(UnfitScans, match="no guide pin"):
        read(HOLES, guide_pins=True)


@pytest.mark.long
def test_pins_nobody_spoke_of_are_taken_off_and_said() -> None:
    """Read as tooth they were undercuts of half a millimetre, and the wall behind them short: what is measured is the
    same as where they were spoken of."""
    options = facing(TOOTH, restoration="pin-casting")
    unsaid, said, without = (
        align(made.scans(), replace(options, guide_pins=told), lambda _text, _share: None)
        for made, told in ((PINS, False), (PINS, True), (HOLES, False))
    )
    assert [w for w in unsaid.scans.warnings if "Guide pins stand on the preparation (2)" in w]
    assert not [w for w in (*said.scans.warnings, *without.scans.warnings) if "Guide pins" in w]
    assert (len(unsaid.pins), without.pins) == (2, ())
    for one, other in zip(unsaid.pins, said.pins, strict=True):
        np.testing.assert_array_equal([one.foot, one.end], [other.foot, other.end])
    np.testing.assert_array_equal(unsaid.scans.prep.vertices, said.scans.prep.vertices)
    np.testing.assert_array_equal(unsaid.scans.prep.faces, said.scans.prep.faces)


def test_only_pins_are_pulled() -> None:
    """Thin edges and papillae are none; what is closed has no border that was not there before."""
    scan = PINS.prep()
    closed, found = pulled(scan)
    assert len(found) == 2
    assert len(closed.border_edges) == len(scan.border_edges)
    untouched, none = pulled(HOLES.preop())
    assert none == ()
    assert untouched is HOLES.preop()


@pytest.mark.long
@pytest.mark.parametrize("seed", first(1, 911, 912, 913))
def test_u_covers_the_truth_on_fresh_seeds(seed: int) -> None:
    _, errors = pin_errors(seed)
    for name, (error, u) in errors.items():
        assert abs(error) <= 1.5 * u, (name, error, u)


@pytest.mark.long
def test_a_crown_s_preparation_is_told() -> None:
    """Chosen wrongly, it is said and nothing is made up."""
    from solids import Stump

    with pytest.raises(UnfitScans, match="full crown"):
        measure(Stump(noise_um=8).scans(), facing(ToothNumber("36"), restoration="partial-crown"))
