"""Clearance in movements against closed forms, and against a general-purpose library that moves the mesh."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from long import first
from solids import Stump, facing, plate, sphere, turned

from vane_line.core.arrays import Floats
from vane_line.core.case import measure
from vane_line.core.jaw.articulator import Articulator, Jaw, guided
from vane_line.core.judge.document import document
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.measure.moving import GUIDE_MM, STEPS_MM, Guides, Moving, clearance_moving, relative
from vane_line.core.mesh.surface import Surface, merge
from vane_line.core.rigid import move
from vane_line.core.tooth.frame import Frame
from vane_line.core.tooth.notation import ToothNumber

FLAT = Articulator(30.0, 0.0, 30.0)  # equal angles: protrusion is a translation


def jaw_of(tooth: ToothNumber) -> Jaw:
    """About a tooth at nought whose facial direction is y and whose occlusal direction is z."""
    mesial = np.array([-1.0 if tooth.right_handed else 1.0, 0, 0])
    return Jaw.of(Frame(np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), mesial, 1.0, {}), np.zeros(3), tooth)


def by_others(points: Floats) -> Guides:
    """None of them the tooth's own."""
    return Guides(points, np.zeros(len(points), dtype=bool))


def moving(
    points: Floats, opposing: Surface, jaw: Jaw, by: Articulator, guides: Floats | None = None
) -> dict[str, Moving]:
    rest = opposing.signed_distance(points)[0]
    upper = bool(jaw.up[2] < 0)
    led = by_others(np.zeros((0, 3)) if guides is None else guides)
    return {m.movement: m for m in clearance_moving(points, rest, led, opposing, jaw, by, upper)}


@pytest.mark.parametrize("slope", [10.0, 40.0])
def test_a_point_that_slides_under_a_slope(slope: float) -> None:
    """The point sinks by 30 degrees while it goes 3 mm forward; the plane over it falls forward by `slope`: where it
    falls more steeply, the gap closes by (tan slope - tan 30) of the way, times the slope's cosine."""
    jaw = jaw_of(ToothNumber("36"))
    roof = plate(-12, 12, -12, 12, 0.0, down=True)
    fall = np.tan(np.radians(slope))
    lifted = roof.vertices.copy()
    lifted[:, 2] = 4.0 - fall * (lifted @ jaw.forward)
    found = moving(np.zeros((1, 3)), roof.with_vertices(lifted), jaw, FLAT)["protrusive"]
    forward = 3 * np.cos(np.radians(30))
    least = 4.0 - max(fall - np.tan(np.radians(30)), 0.0) * forward
    assert found.value[0] == pytest.approx(least * np.cos(np.radians(slope)), abs=1e-6)
    assert found.step_mm[0] == (3.0 if slope > 30 else 0.0)
    assert found.spread_mm[0] == 0.0  # all that matters to protrusion was entered


def test_two_balls_pass_each_other() -> None:
    """One goes straight on: the least distance is that of its centre's line, at the step that comes nearest."""
    jaw = jaw_of(ToothNumber("46"))
    ball = sphere(2.0, tuple(1.5 * jaw.forward + 4.0 * jaw.outward), grid=0.1)  # type: ignore[arg-type]
    points = sphere(1.0, grid=0.2).vertices
    found = moving(points, ball, jaw, Articulator(0.0, 0.0, 0.0))["protrusive"]
    assert found.value.min() == pytest.approx(4.0 - 3.0, abs=0.01)
    assert found.step_mm[int(np.argmin(found.value))] == pytest.approx(1.5, abs=0.25)


@pytest.mark.parametrize("number", ["36", "16"])
def test_flat_teeth_that_guide_part_behind(number: str) -> None:
    """Two level rows, condyles that sink by 30 degrees: the foremost guide keeps touching, what
    lies behind it parts, what lies ahead closes (C. Christensen, The problem of the bite, 1905)."""
    tooth = ToothNumber(number)
    jaw = jaw_of(tooth)
    x, y = np.meshgrid(np.arange(-25, 4, 0.5), np.arange(-3, 3, 0.5))
    own = x.ravel()[:, None] * jaw.forward + y.ravel()[:, None] * jaw.outward
    guides, facing_up = own[own @ jaw.forward < 3.6], np.array([0.0, 0, 1])
    roof = plate(-45, 45, -45, 45, 0.0, step=1.0, down=True)
    point = (-20.0 * jaw.forward - 0.001 * facing_up)[None]
    found = moving(np.repeat(point, 1, 0), roof, jaw, Articulator(30.0, 15.0), guides)["protrusive"]
    assert found.by_teeth
    assert found.step_mm[0] == 0.0  # it parts: nearest with the teeth together
    # A tooth in front of the foremost guide comes nearer as the jaw turns shut.
    ahead = (10.0 * jaw.forward - 1.0 * facing_up)[None]
    value = moving(ahead, roof, jaw, Articulator(30.0, 15.0), guides)["protrusive"].value[0]
    foremost = float((guides @ jaw.forward).max())
    sunk = 3.0 * np.sin(np.radians(30))
    back = -float(jaw.own @ jaw.forward)
    turn = sunk / (back + foremost)  # small angles
    expected = 1.0 - turn * (10.0 - foremost)
    assert value == pytest.approx(expected, abs=0.02)


@pytest.mark.parametrize(
    ("movement", "number"),
    first(1, ("laterotrusive", "36"), ("protrusive", "26"), ("mediotrusive", "36"), ("protrusive", "36"),
          ("laterotrusive", "26"), ("mediotrusive", "26")),
)  # fmt: skip
def test_against_a_library_that_moves_the_mesh(movement: str, number: str) -> None:
    """trimesh moves the opposing mesh back by each pose and takes its own distances: equal to 1 µm."""
    jaw, by = jaw_of(ToothNumber(number)), Articulator(35.0, 12.0, 20.0)
    opposing = merge([sphere(2.0, c, grid=0.3) for c in ((0.5, 1.5, 4.0), (-3.0, -1.0, 3.5), (3.5, 0.0, 4.2))])
    points = np.random.default_rng(3).uniform([-3, -3, -1], [3, 3, 0.8], (60, 3))
    found = moving(points, opposing, jaw, by)[movement]
    mesh = trimesh.Trimesh(opposing.vertices, opposing.faces, process=False)
    least = np.full(len(points), np.inf)
    for step in [0.0, *STEPS_MM]:
        pose = guided(jaw, by, movement, float(step)) if step else np.eye(4)  # type: ignore[arg-type]
        other = mesh.copy()
        other.apply_transform(np.linalg.inv(relative(pose, number == "26")))
        least = np.minimum(least, trimesh.proximity.closest_point_naive(other, points)[1])
    assert found.value == pytest.approx(least, abs=1e-3)


def test_the_same_in_any_position() -> None:
    """Everything turned and carried elsewhere: the same least distances to a micrometre."""
    jaw, by = jaw_of(ToothNumber("36")), Articulator(None, None)
    points = np.stack(np.meshgrid([-1.0, 0, 1], [-1.0, 0, 1], [0.0]), -1).reshape(-1, 3)
    row = plate(-8, 8, -4, 4, 0.0)
    guides = Guides.on(row, np.array([0.0, 0, 1]), lambda p: np.abs(p[:, 0]) < 3, earlier=False).points
    roof = merge(
        [plate(-10, -3, -8, 8, 0.02, down=True), plate(3, 12, -8, 8, 0.02, down=True), sphere(1.5, (1, 0, 3.5))]
    )
    here = moving(points, roof, jaw, by, guides)
    matrix = turned((0.3, -0.5, 0.8), 71.0, (40.0, -12.0, 7.0))
    rotation = matrix[:3, :3]
    there_jaw = Jaw(*(rotation @ d for d in (jaw.up, jaw.forward, jaw.outward)),
                    *(move(matrix, p[None])[0] for p in (jaw.own, jaw.other, jaw.incisal)))  # fmt: skip
    rest = roof.signed_distance(points)[0]
    there = clearance_moving(
        move(matrix, points), rest, by_others(move(matrix, guides)), roof.moved(matrix), there_jaw, by, upper=False
    )
    for other in there:
        assert other.value == pytest.approx(here[other.movement].value, abs=1e-3)
        assert other.spread_mm == pytest.approx(here[other.movement].spread_mm, abs=1e-3)


def test_too_few_guides_tell_nothing() -> None:
    jaw = jaw_of(ToothNumber("36"))
    roof = plate(-5, 5, -5, 5, 2.0, down=True)
    assert moving(np.zeros((1, 3)), roof, jaw, Articulator(), np.zeros((3, 3))) == {}


def test_guides_face_the_opposing_teeth_and_are_not_the_preparation() -> None:
    both = merge([plate(-4, 4, -2, 2, 0.0), plate(-4, 4, -2, 2, -1.0, down=True)])
    up = np.array([0.0, 0, 1])
    cut = Guides.on(both, up, lambda p: p[:, 0] > 0, earlier=False)
    assert (cut.points[:, 2] == 0.0).all()
    assert cut.points[:, 0].max() <= 0
    assert not cut.own.any()
    assert len(cut.points) > 0.5 * 16 / GUIDE_MM**2
    before = Guides.on(both, up, lambda p: p[:, 0] > 0, earlier=True)
    assert (before.own == (before.points[:, 0] > 0)).all()
    assert before.own.any()


def test_a_tooth_that_leads_is_told_by_how_much() -> None:
    """One cusp slides down a slope of 30 degrees while level rows would keep touching: without it the jaw closes by
    what the cusp sinks. Opening about condyles `high` over it and `ahead` behind takes it back by high / ahead of that,
    so it sinks by tan 30 (3 mm - that). A tooth that does not reach the slope leads by nothing."""
    jaw = jaw_of(ToothNumber("36"))
    side = jaw.outward
    y, z = np.meshgrid(np.arange(-12, 12, 0.5), np.arange(2.5, 6, 0.5))
    rows = y.ravel()[:, None] * jaw.forward + z.ravel()[:, None] * side
    cusp = np.array([[0.0, 0, 0]]) + 0.01 * np.arange(4)[:, None] * side
    roof = plate(-25, 25, -25, 25, 0.0, step=0.5, down=True)
    vertices = roof.vertices.copy()
    ramp = (np.abs(vertices @ side) < 2.0) & (vertices @ jaw.forward > 0)
    vertices[ramp, 2] -= np.tan(np.radians(30)) * (vertices[ramp] @ jaw.forward)
    points, level = np.zeros((1, 3)) - [0, 0, 1.0], Articulator(0.0, 0.0)
    opposing = roof.with_vertices(vertices)
    rest = opposing.signed_distance(points)[0]
    fall, ahead, high = np.tan(np.radians(30)), -float(jaw.own @ jaw.forward), float(jaw.own @ jaw.up)
    for lowered, expected in ((0.0, 3 * fall / (1 + fall * high / ahead)), (3.0, 0.0)):
        own = np.r_[np.ones(len(cusp), dtype=bool), np.zeros(len(rows), dtype=bool)]
        guides = Guides(np.concatenate([cusp - [0, 0, lowered], rows]), own)
        found = clearance_moving(points, rest, guides, opposing, jaw, level, upper=False)[0]
        assert found.movement == "protrusive"
        assert found.leads_mm == pytest.approx(expected, abs=0.05)


class TestWholeMeasurement:
    """A stump under a plate, between teeth that meet level plates: level paths keep the clearance as it is."""

    @pytest.fixture(scope="class")
    @staticmethod
    def found() -> dict[str, object]:
        stump = Stump(noise_um=5)
        options = facing(ToothNumber("36"), movements=Articulator(0.0, 0.0, 0.0))
        geometry = measure(stump.scans(clearance_mm=1.3), options)
        return document(geometry, judge(geometry, choose("zirconia", "full-crown")))

    def test_level_movement_under_a_level_plate_changes_nothing(self, found: dict) -> None:  # type: ignore[type-arg]
        assert [m["movement"] for m in found["movements"]] == ["protrusive", "laterotrusive", "mediotrusive"]
        for row in found["movements"]:
            assert not row["by_teeth"]
            zones = {z["zone"]: z["low_mm"] for z in row["zones"]}
            still = {z["zone"]: z["low_mm"] for z in found["clearance"]["zones"]}
            for zone in ("functional-cusp/mesiofacial", "functional-cusp/distofacial"):
                assert zones[zone] == pytest.approx(still[zone], abs=0.03)

    def test_each_movement_is_judged_over_functional_cusps_with_its_pose(self, found: dict) -> None:  # type: ignore[type-arg]
        rows = [v for v in found["verdicts"] if v["criterion"].startswith("clearance/")]
        assert {v["pose"] for v in rows} == {"protrusive", "laterotrusive", "mediotrusive"}
        assert all(v["zone"].startswith("functional-cusp") for v in rows)
        still = next(v for v in found["verdicts"] if v["criterion"] == "clearance")
        assert all(v["U"] > still["U"] for v in rows)


@pytest.mark.long
def test_without_an_opposing_scan_movements_are_not_told_and_say_why() -> None:
    geometry = measure(Stump(noise_um=5).scans(), facing(ToothNumber("36"), movements=Articulator()))
    judged = judge(geometry, choose("zirconia", "full-crown"))
    rows = [v for v in judged.verdicts if v.criterion.startswith("clearance/")]
    assert [v.status for v in rows] == ["not-measured"] * 3
    assert all("opposing" in v.why for v in rows)
