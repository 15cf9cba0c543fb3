"""Every protocol's depths worked by hand; the target on a plain solid; a plan that cannot meet its own standard."""

from __future__ import annotations

import numpy as np
import pytest
from solids import Stump, facing

from vane_line.core.burs import generic
from vane_line.core.judge.standard_choice import DEFAULTS, FRONT_DEFAULTS, choose
from vane_line.core.judge.standard_files import built_in
from vane_line.core.plan.depths import plan_sites
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.makers import maker_of
from vane_line.core.plan.plan import Plan, PlanOptions
from vane_line.core.plan.planner import make_plan
from vane_line.core.plan.sequence import built_in as sequences
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption, UnfitScans

NEAR = np.array([0.3, 0.2, 7.0])
TOOTH = Stump(facial_mm=4.9, mesial_mm=5.2, seed=61, noise_um=5, gap_mm=0.8)
# Target less the gap that counts, by hand: functional cusp, other cusp, groove at a gap of 0.6.
BY_HAND = {
    "full-metal": (0.9, 0.4, 0.4), "metal-ceramic-moderate": (1.2, 0.9, 0.9), "metal-ceramic-textbook": (1.4, 0.9, 0.9),
    "metal-ceramic-textbook-metal-occlusal": (0.9, 0.4, 0.4), "lithium-disilicate-bonded": (0.9, 0.9, 0.9),
    "lithium-disilicate-conventional": (1.2, 1.2, 1.2), "all-ceramic-classical": (1.4, 1.4, 1.4),
    "zirconia-usual": (0.9, 0.9, 0.9), "zirconia-thin": (0.4, 0.4, 0.4), "zirconia-translucent-4y": (0.6, 0.6, 0.6),
    "zirconia-translucent-5y": (0.9, 0.9, 0.9), "zirconia-translucent-full": (1.4, 1.4, 1.4),
    "layered-zirconia": (1.4, 1.2, 1.2), "resin-ceramic": (1.0, 1.0, 0.8),
}  # fmt: skip


def made(standard: str = "zirconia-usual", clearance: float | None = None, **options: object) -> Plan:
    """A plan on the uncut solid, whose top is flat at 7.0."""
    scans = TOOTH.scans(clearance_mm=None if clearance is None else TOOTH.occlusal_mm + clearance)
    assert scans.preop is not None
    case = facing(ToothNumber("36"), near=NEAR, **options)
    return make_plan(scans.preop, scans.opposing, PlanOptions(case), built_in()[standard], generic())


@pytest.fixture(scope="module")
def plain() -> Plan:
    return made()


def test_every_back_protocol_s_depths_are_the_target_less_the_gap(plain: Plan) -> None:
    """Worked by hand; at a gap of 2.6 nothing is cut anywhere, and it says so."""
    assert set(BY_HAND) == {k for k, s in built_in().items() if s.teeth == "back" and s.restoration == "full-crown"}
    for name, (functional, other, groove) in BY_HAND.items():
        for gap in (0.6, 2.6):
            found = plan_sites(
                ToothNumber("36"), plain.tooth.surface, plain.anatomy, "facial", built_in()[name], plain.axes, gap,
                True, "", generic(),
            )  # fmt: skip
            sites = {s.zone: s for s in found}
            zones = ("functional-cusp/mesiofacial", "non-functional-cusp/mesiolingual", "central-groove")
            for zone, wanted in zip(zones, (functional, other, groove), strict=True):
                assert sites[zone].depth_mm == pytest.approx(wanted if gap == 0.6 else 0.0), (name, zone)
                assert sites[zone].nothing_to_cut == (gap == 2.6)
                assert ("nothing is cut" in sites[zone].why) == (gap == 2.6)
                assert sites[zone].most_mm == pytest.approx(max(sites[zone].needed.max - gap, 0))


def test_the_target_of_a_plain_tooth_is_a_frustum_on_its_ledge(plain: Plan) -> None:
    """0.8 wide, 5 degrees a wall, 1.5 off the flat top, its finish line 0.5 over the gingiva at 0.3."""
    assert plain.geometry is not None
    assert plain.judgement is not None
    line = plain.line.points()
    assert np.median(line[:, 2]) == pytest.approx(0.8, abs=0.12)
    walls = plain.geometry.ring.shape.walls
    assert walls.convergence_at(0) == pytest.approx(10, abs=0.5)
    assert walls.convergence_at(90) == pytest.approx(10, abs=0.5)
    widths = plain.geometry.ring.shape.form.width_summary()
    assert widths is not None
    assert widths[1] == pytest.approx(0.8, abs=0.04)
    assert plain.judgement.space is not None
    zones = {z.zone: z for z in plain.judgement.space.zones}
    assert zones["non-functional-cusp/mesiolingual"].median_mm == pytest.approx(1.5, abs=0.04)
    assert plain.ways_out == []
    for v in plain.judgement.verdicts:
        if v.criterion in (*maker_of("full-crown").told_by, "finish-line-width"):
            assert v.status in ("meets", "within-uncertainty", "not-measured"), (v.criterion, v.zone, v.value)


@pytest.mark.long
def test_a_short_tooth_is_planned_less_deep_by_its_gap() -> None:
    """0.7 short of the bite: 0.8 is cut for a target of 1.5; the space over the target is 1.5 all the same."""
    plan = made(clearance=0.7, earlier="short")
    assert plan.lift_mm == pytest.approx(0.7, abs=0.04)
    site = next(s for s in plan.sites if s.zone == "central-groove")
    assert site.depth_mm == pytest.approx(0.8, abs=0.04)
    assert plan.judgement is not None
    assert plan.judgement.space is not None
    zone = next(z for z in plan.judgement.space.zones if z.zone == "non-functional-cusp/mesiolingual")
    assert zone.median_mm == pytest.approx(1.5, abs=0.06)


@pytest.mark.long
def test_an_old_crown_has_no_depth_and_a_copied_one_says_to_what() -> None:
    """Not kept: cut by the space to the opposing teeth, no target. Copied: depths to the contour."""
    old = made(earlier="old-crown")
    assert all(s.depth_mm is None and "space to the opposing" in s.why for s in old.sites)
    assert old.geometry is None
    copied = made(earlier="copied-crown")
    assert all("contour" in s.why for s in copied.sites)
    assert copied.geometry is not None


@pytest.mark.long
def test_a_plan_that_cannot_meet_its_standard_says_the_ways_out() -> None:
    """Two millimetres off a tooth 4.6 high leave walls of 2: short, with what would help."""
    low = Stump(facial_mm=4.9, mesial_mm=5.2, seed=62, top_mm=4.8)
    scans = low.scans()
    assert scans.preop is not None
    options = PlanOptions(facing(ToothNumber("36"), near=np.array([0.0, 0, 4.8])))
    plan = make_plan(scans.preop, None, options, choose("all-ceramic", "full-crown"), generic())
    said = {v.criterion: do for v, do in plan.ways_out}
    assert "grooves or a box" in said["wall-height"]
    document = plan_document(plan, sequences()["occlusal-first"], generic())
    assert document["schema"] == "vane-line/plan/1"
    assert [w["criterion"] for w in document["ways_out"]] == [v.criterion for v, _ in plan.ways_out]
    assert len(document["sequence"]["steps"]) == len(sequences()["occlusal-first"].steps)
    assert "anaesthetic" in document["reminder"]


@pytest.mark.long
def test_where_a_scanner_cannot_see_the_finish_line_is_said() -> None:
    """0.3 of room to both neighbours; under the gingiva it must be displaced."""
    scans = Stump(seed=63, gap_mm=0.3).scans()
    assert scans.preop is not None
    case = facing(ToothNumber("36"), near=NEAR)
    plan = make_plan(scans.preop, None, PlanOptions(case, -0.2), built_in()["zirconia-usual"], generic())
    said = {c.sector: c for c in plan.capture}
    assert "0.3 mm to the next tooth" in said["mesial"].why
    assert "distal" in said
    assert "facial" not in said
    assert "cord" in said["all round"].do


@pytest.mark.parametrize(
    ("change", "words"),
    [({"above_gingiva_mm": 9.0}, "over the gingiva"), ({"taper_deg": 45.0}, "taper"), ({"near": None}, "near")],
)
def test_what_cannot_be_planned_is_refused(change: dict[str, object], words: str) -> None:
    """A finish line or taper out of reach, no tooth pointed at."""
    case = facing(ToothNumber("36"), near=change.get("near", NEAR))
    more = {k: v for k, v in change.items() if k != "near"}
    with pytest.raises((BadOption, UnfitScans), match=words):
        make_plan(TOOTH.preop(), None, PlanOptions(case, **more), built_in()["zirconia-usual"], generic())  # type: ignore[arg-type]


def test_every_material_can_be_planned_on_front_and_back_teeth() -> None:
    """Each default standard has limits for the sites that its teeth are planned by."""
    for tooth, defaults in (("36", DEFAULTS), ("11", FRONT_DEFAULTS)):
        for material in defaults:
            standard = choose(material, "full-crown", None, ToothNumber(tooth))
            zones = ("incisal-edge", "facial/middle", "lingual-fossa") if tooth == "11" else ("central-groove",)
            assert all(standard.limits_for_zone(z) is not None for z in zones)


def test_a_raised_bite_gives_room_over_a_fossa_by_its_slope() -> None:
    """A fossa that slopes 60 degrees to the path takes half of an axial lift; a cusp all of it; the facial none."""
    from vane_line.core.mesh.surface import Surface
    from vane_line.core.plan.depths import lift_share
    from vane_line.core.trace.section import Axes

    x, y = np.meshgrid(np.arange(-2, 2.1, 0.2), np.arange(-2, 2.1, 0.2), indexing="ij")
    vertices = np.stack([x.ravel(), y.ravel(), np.tan(np.radians(60)) * y.ravel()], axis=1)
    cell = np.arange(x.size).reshape(x.shape)
    a, b, c, d = cell[:-1, :-1].ravel(), cell[1:, :-1].ravel(), cell[1:, 1:].ravel(), cell[:-1, 1:].ravel()
    slope = Surface(vertices, np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)]))
    axes = Axes.make(np.zeros(3), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), np.array([1.0, 0, 0]))
    at = np.zeros(3)
    assert lift_share("lingual-fossa", at, slope, axes) == pytest.approx(0.5, abs=1e-6)
    assert lift_share("functional-cusp/distal", at, slope, axes) == 1.0
    assert lift_share("facial/incisal", at, slope, axes) == 0.0


@pytest.mark.long
def test_the_target_of_metal_ceramic_narrows_at_the_wing() -> None:
    """Wide to the contact and a millimetre past it, narrow beyond: the same course that is judged."""
    from vane_line.core.plan.target import widths

    plan = made("metal-ceramic-textbook")
    azimuth = np.round(plan.line.azimuth_deg).astype(int).tolist()
    width = dict(zip(azimuth, widths(plan.line, plan.standard), strict=True))
    facial, lingual = plan.standard.width_limits("facial").target, plan.standard.width_limits("lingual").target
    for side, sign in ((90, 1), (270, -1)):
        assert width[side] == pytest.approx(facial, abs=0.12)
        assert width[side + sign * 40] == pytest.approx(lingual, abs=0.12)
