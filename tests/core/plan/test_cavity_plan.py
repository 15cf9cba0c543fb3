"""A cavity's plan before cutting: occlusal part, boxes and covered cusps from the tooth as it is."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from long import first
from planned import pointed_at

from vane_line.core.burs import generic
from vane_line.core.case import measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.standards import Standard
from vane_line.core.judge.verdicts import FAULTS
from vane_line.core.kinds.cavity import CavityCut
from vane_line.core.options import Options
from vane_line.core.plan.body import rounded_max
from vane_line.core.plan.cavity_choice import CavityChoice
from vane_line.core.plan.cavity_shape import INNER_MM, CavityShape, cavity_shape
from vane_line.core.plan.decide import Crown, decide
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.makers import maker_of, told
from vane_line.core.plan.plan import Ground, Plan, PlanOptions
from vane_line.core.plan.planner import find_ground, make_plan, plan_on
from vane_line.core.plan.sequence import built_in as sequences
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.cavity import Cavity, Stroke
from vane_line.demo.recipes import sound_recipe
from vane_line.demo.scene import Scene
from vane_line.errors import BadOption

GRID_MM = 0.22
MEASURED = ("cavity-depth", "isthmus", "box-depth", "contact-clearance", "divergence", "undercut")


@cache
def scene(tooth: str, seed: int, gap_mm: float = 0.12) -> Scene:
    made = sound_recipe(tooth, "zirconia", seed=seed, bite_with="preop", earlier_seed=seed, gap_mm=gap_mm,
                        bridging_mm=0.1)  # fmt: skip
    return Scene.of(replace(made, scan=replace(made.scan, grid_mm=GRID_MM)))


def standard(tooth: str, kind: str, material: str) -> Standard:
    return choose(material, kind, None, ToothNumber(tooth))


@cache
def ground(tooth: str, kind: str, boxes: tuple[str, ...] = (), covered: tuple[str, ...] | None = None,
           seed: int = 3) -> Ground:  # fmt: skip
    """Without the opposing teeth, whose contacts no outline on these teeth keeps clear of."""
    there = scene(tooth, seed)
    asked = PlanOptions(pointed_at(tooth, there, restoration=kind), cavity=CavityChoice(boxes, covered))
    return find_ground(there.preop(), None, asked)


@cache
def planned(tooth: str, kind: str, boxes: tuple[str, ...] = (), covered: tuple[str, ...] | None = None,
            seed: int = 3, material: str = "lithium-disilicate") -> Plan:  # fmt: skip
    return plan_on(ground(tooth, kind, boxes, covered, seed), standard(tooth, kind, material), generic())


def cut_of(plan: Plan) -> CavityCut:
    assert plan.geometry is not None
    assert isinstance(plan.geometry.cut, CavityCut)
    return plan.geometry.cut


def faults(plan: Plan) -> set[tuple[str, str]]:
    """What is proven against the target, of what a plan is told by."""
    assert plan.judgement is not None
    maker = maker_of(plan.options.case.restoration)
    return {(v.criterion, v.zone) for v in plan.judgement.verdicts if v.status in FAULTS and told(maker, v)}


@pytest.mark.long
@pytest.mark.parametrize(
    ("tooth", "kind", "boxes", "seed", "material"),
    [
        ("46", "onlay", ("mesial",), 3, "lithium-disilicate"), ("14", "inlay", ("distal",), 4, "full-metal"),
        ("36", "inlay", (), 7, "lithium-disilicate"), ("26", "inlay", ("distal",), 5, "lithium-disilicate"),
    ],
)  # fmt: skip
def test_the_target_meets_the_standard_that_it_was_made_by(
    tooth: str, kind: str, boxes: tuple[str, ...], seed: int, material: str
) -> None:
    """Measured by the pipeline that measures a preparation, nothing that a plan is told by is proven against it."""
    plan = planned(tooth, kind, boxes, None, seed, material)
    assert faults(plan) == set()
    assert plan.ways_out == []
    assert plan.ledge == {}
    assert any("decay" in w.lower() for w in plan.warnings)


@pytest.mark.long
def test_what_is_measured_on_the_target_is_what_was_planned() -> None:
    """Depth from the standard's least on, isthmus, walls and box as asked for; the reader finds the chosen box only."""
    plan = planned("46", "inlay", ("mesial",))
    cut, wanted = cut_of(plan), plan.standard
    assert cut.floor is not None
    assert cut.floor.depth_low_mm is not None
    assert cut.floor.depth_median_mm is not None
    assert wanted.bounds("cavity-depth").min <= cut.floor.depth_low_mm  # type: ignore[operator]
    assert cut.floor.depth_median_mm <= wanted.bounds("cavity-depth").max  # type: ignore[operator]
    assert cut.isthmus is not None
    assert cut.isthmus.width_mm == pytest.approx(2.2, abs=0.35)  # as wide as half of the cusps' distance lets it be
    assert [b.side for b in cut.boxes] == ["mesial"]
    assert cut.boxes[0].depth_mm == pytest.approx(1.3, abs=0.15)
    walls = {w.zone: w.divergence_deg for w in cut.walls if w.told}
    assert walls["wall/facial"] == pytest.approx(6.0, abs=0.6)
    assert walls["wall/lingual"] == pytest.approx(6.0, abs=0.6)
    assert cut.internal_radius_mm == pytest.approx(INNER_MM, abs=0.15)
    assert not any(c.covered for c in cut.cusps)


@pytest.mark.long
def test_a_floor_lies_as_deep_as_its_site_says() -> None:
    """The site's depth is the way straight down from the tooth to the floor there."""
    plan = planned("46", "inlay", ("mesial",))
    floor = next(s for s in plan.sites if s.zone == "floor")
    assert floor.depth_mm is not None
    assert floor.depth_mm >= floor.needed.min
    assert plan.target is not None
    face, down = plan.target.first_hit(np.array([floor.at]), -plan.axes.up)
    assert face[0] >= 0
    assert down[0] == pytest.approx(floor.depth_mm, abs=0.12)
    assert {s.zone for s in plan.sites} == {"floor", "box/mesial"}


@pytest.mark.parametrize(("kind", "covered"), first(1, ("onlay", 3), ("inlay", 0), ("overlay", 5)))
def test_each_kind_covers_its_cusps(kind: str, covered: int) -> None:
    """Where none was chosen: none for an inlay, the functional ones (46: facial and distal), all for an overlay."""
    there = ground("46", kind, ("mesial",))
    shape = cavity_shape(there, standard("46", kind, "lithium-disilicate"))
    assert len(shape.covered) == covered
    assert all("lingual" not in c for c in shape.covered) or kind == "overlay"


@pytest.mark.long
def test_what_covering_a_cusp_costs_is_what_it_takes() -> None:
    """The cost told beside an uncovered cusp, against the targets with and without it counted on another grid."""
    bare, covered = planned("46", "inlay", ("mesial",)), planned("46", "onlay", ("mesial",), ("distolingual",))
    told = bare.cover_mm3["distolingual"]
    count = Crown.of(ground("46", "inlay", ("mesial",)))
    assert bare.target is not None
    assert covered.target is not None
    assert told == pytest.approx(count.cut_mm3(covered.target) - count.cut_mm3(bare.target), rel=0.15)
    assert {c.cusp for c in cut_of(covered).cusps if c.covered} == {"distolingual"}


@pytest.mark.long  # in the browser too
def test_an_outline_drawn_by_hand_is_followed() -> None:
    """Drawn on the tooth as an oval about the fossa: the cavity comes out where it was drawn."""
    there = ground("46", "inlay")
    axes, tooth = there.axes, there.tooth.surface
    turn = np.radians(np.arange(0, 360, 30.0))
    middle = np.array([float(np.mean(there.anatomy.groove_x)), float(np.mean(there.anatomy.groove_y))])
    oval = middle + np.stack([2.2 * np.cos(turn), 1.25 * np.sin(turn)], axis=1)
    above = axes.world(np.c_[oval, np.full(len(oval), 9.0)])
    face, down = tooth.first_hit(above, -axes.up)
    assert (face >= 0).all()
    drawn = above - down[:, None] * axes.up
    asked = replace(there, options=replace(there.options, cavity=CavityChoice(outline=drawn)))
    plan = plan_on(asked, standard("46", "inlay", "lithium-disilicate"), generic())
    found = axes.local(plan.course)[:, :2]
    away = np.array([np.linalg.norm(found - p, axis=1).min() for p in oval])
    assert np.median(away) < 0.15
    assert away.max() < 0.3
    assert np.ptp(found[:, 0]) == pytest.approx(4.4, abs=0.3)


@pytest.mark.long
def test_a_plan_tells_what_it_cannot_meet() -> None:
    """In the bite the outline runs in a contact, which the plan says, with what can be done."""
    there = scene("46", 3)
    asked = PlanOptions(pointed_at("46", there, restoration="inlay"), cavity=CavityChoice(("mesial",)))
    plan = make_plan(there.preop(), there.opposing(), asked, standard("46", "inlay", "lithium-disilicate"), generic())
    assert ("outline-contact", "overall") in faults(plan)
    assert any(v.criterion == "outline-contact" and "draw it beside" in do for v, do in plan.ways_out)


@pytest.mark.long
def test_the_document_tells_boxes_cusps_and_order() -> None:
    plan = planned("46", "onlay", ("mesial",))
    made = plan_document(plan, sequences()["cavity-depth-first"], generic())
    told = made["cavity"]
    assert [b["side"] for b in told["boxes"]] == ["mesial"]
    assert {c["cusp"] for c in told["cusps"] if c["covered"]} == {"mesiofacial", "distofacial", "distal"}
    assert all(c["needed_mm"] == 2.0 for c in told["cusps"] if not c["covered"])
    assert all(c["cover_mm3"] > 5 for c in told["cusps"])
    assert made["finish_line"]["sides"] == []
    assert made["predicted"] is None
    steps = {s["title"].split(":")[0]: s for s in made["sequence"]["steps"]}
    assert "half-angle" in steps["Floor"]["bur"]
    assert steps["Boxes"]["depth"].endswith("mm")


@pytest.mark.long
def test_the_materials_are_compared_for_a_cavity() -> None:
    """Each by a plan of its own; gold, that can be thinner and narrower, takes the least tooth."""
    there = ground("14", "inlay", ("distal",), None, 4)
    every = [standard("14", "inlay", m) for m in ("full-metal", "lithium-disilicate")]
    rows = decide(there.preop, None, there.options, every, generic())
    assert [r.standard.material for r in rows] == ["full-metal", "lithium-disilicate"]
    assert all(r.cut_mm3 is not None and 5 < r.cut_mm3 < 120 for r in rows)


@pytest.mark.parametrize(
    ("choice", "what"),
    [
        (CavityChoice(("facial",)), "box facial"),
        (CavityChoice(outline=np.zeros((3, 3))), "outline"),
        (CavityChoice(outline=np.full((9, 3), np.nan)), "outline"),
    ],
)
def test_what_no_plan_can_be_made_of_is_refused(choice: CavityChoice, what: str) -> None:
    with pytest.raises(BadOption, match=what):
        PlanOptions(Options(ToothNumber("46"), near=np.zeros(3)), cavity=choice).check()


def test_what_does_not_belong_to_the_tooth_is_refused() -> None:
    """An outline drawn beside it, a cusp that it has not: said, with what there is."""
    there = ground("46", "inlay", ("mesial",))
    by = standard("46", "inlay", "lithium-disilicate")
    turn = np.radians(np.arange(0, 360, 45.0))
    away = there.axes.world(np.stack([30 + 2 * np.cos(turn), 2 * np.sin(turn), 0 * turn], axis=1))
    beside = replace(there, options=replace(there.options, cavity=CavityChoice(outline=away)))
    with pytest.raises(BadOption, match="too little of this tooth"):
        cavity_shape(beside, by)
    onlay = ground("46", "onlay", ("mesial",))
    odd = replace(onlay, options=replace(onlay.options, cavity=CavityChoice(("mesial",), ("palatal",))))
    with pytest.raises(BadOption, match="this tooth has mesiofacial"):
        cavity_shape(odd, standard("46", "onlay", "lithium-disilicate"))


def test_a_box_s_floor_lies_where_it_was_chosen() -> None:
    """Over the gingiva or under it, as far as neither contact nor pulpal floor ask for more."""
    there, by = ground("46", "inlay", ("mesial",)), standard("46", "inlay", "lithium-disilicate")
    around = 90.0 + np.arange(-20, 21, 4.0)
    gingiva = float((there.line.at(around, there.line.height)).max()) - there.options.above_gingiva_mm
    for above in (0.5, -0.5):
        line = replace(there.line, height=there.line.height + above - there.options.above_gingiva_mm)
        asked = replace(there, line=line, options=replace(there.options, above_gingiva_mm=above))
        level = cavity_shape(asked, by).boxes[0].level
        assert level <= gingiva + above + 1e-6
        assert level >= gingiva + min(above, 0.0) - 0.15


def test_rounding_the_corner_of_two_planes_leaves_a_circle() -> None:
    """In closed form: between two planes square to each other lies a quarter of a circle of the radius asked for."""
    turn = np.radians(np.linspace(1, 89, 30))
    radius = 0.5
    on_circle = radius * np.stack([np.cos(turn), np.sin(turn)], axis=1) - radius  # the planes at 0, within: negative
    assert rounded_max([on_circle[:, 0], on_circle[:, 1]], radius) == pytest.approx(np.zeros(30), abs=1e-9)
    far = np.array([[-3.0, -0.2], [0.4, -2.0]])
    assert rounded_max([far[:, 0], far[:, 1]], radius) == pytest.approx(far.max(axis=1))


# --- planned, cut, scanned, measured ---------------------------------------------------------------------------------


def as_planned(there: Ground, shape: CavityShape, made: Scene) -> Scene:
    """The tooth cut by the demo's tapered burs, led by the plan's numbers."""
    _, md, _, fl, _ = made.mine.tooth.size
    back, axes = np.linalg.inv(made.to_preop), there.axes

    def local(places: np.ndarray) -> np.ndarray:
        return np.asarray(made.mine.to_local(move(back, axes.world(places))))

    def share(places: np.ndarray) -> tuple[tuple[float, float], ...]:
        lean = float(made.mine.tooth.lean(made.mine.tooth.size[0]))
        return tuple((float(x / md), float((y - lean) / fl)) for x, y, _ in local(places))

    wide = np.ptp(shape.foot[:, 1]) / 2
    ends = shape.foot[:, 0].min() + wide, shape.foot[:, 0].max() - wide
    middle = float(np.median(shape.foot[:, 1]))
    course = np.array([[x, middle, shape.level] for x in ends])
    strokes = [Stroke(share(course), float(wide), float(local(course)[:, 2].mean()), shape.lean_deg)]
    for box in shape.boxes:
        half = box.half_mm - 0.25
        x = box.sign * (box.axial + half)
        way = np.array([[x, box.ends[1][1] + half, box.level], [x, box.ends[0][1] - half, box.level]])
        level = float(local(way)[:, 2].mean())
        out = way + [box.sign * 1.2, 0, 0]
        strokes += [Stroke(share(w), float(half), level, shape.lean_deg) for w in (way, out)]
    return Scene.of(replace(made.recipe, cavity=Cavity(tuple(strokes)), occlusal=None, axial=None))  # type: ignore[arg-type]


@pytest.mark.parametrize(("tooth", "boxes", "seed"), first(1, ("36", (), 7), ("46", ("mesial",), 3)))
def test_planned_cut_scanned_and_measured_it_meets(tooth: str, boxes: tuple[str, ...], seed: int) -> None:
    """The loop closed: nothing of what was planned is proven against the scan of what was cut by it."""
    there, by = ground(tooth, "inlay", boxes, None, seed), standard(tooth, "inlay", "lithium-disilicate")
    made = scene(tooth, seed)
    cut = as_planned(there, cavity_shape(there, by), made)
    geometry = measure(Scans(cut.prep(), made.preop()), pointed_at(tooth, made, restoration="inlay"))
    judged = judge(geometry, by)
    against = {(v.criterion, v.zone) for v in judged.verdicts if v.criterion in MEASURED and v.status in FAULTS}
    assert against == set()
    assert isinstance(geometry.cut, CavityCut)
    assert geometry.cut.floor is not None
    target = cut_of(planned(tooth, "inlay", boxes, None, seed)).floor
    assert target is not None
    assert geometry.cut.floor.depth_low_mm == pytest.approx(target.depth_low_mm, abs=0.15)
