"""A veneer's plan before cutting: target, depths and finish line from the tooth as it is, or through a mock-up."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from long import first
from planned import pointed_at, recipe_of

from vane_line.core.burs import generic
from vane_line.core.case import measure
from vane_line.core.judge.judgement import judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.judge.verdicts import FAULTS, Verdict
from vane_line.core.kinds.window import WindowCut
from vane_line.core.options import Options
from vane_line.core.plan.decide import decide
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.makers import maker_of
from vane_line.core.plan.plan import Plan, PlanOptions
from vane_line.core.plan.planner import make_plan
from vane_line.core.plan.sequence import built_in as sequences
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.recipes import Recipe, mocked_up_central
from vane_line.demo.scene import Scene
from vane_line.demo.window import HALF, LEVELS, MIDDLE, FaceCut
from vane_line.errors import BadOption

GRID_MM = 0.22
BACK = 0.27  # of the thickness: the demo burs cut a ledge straight across, so they are led so much further back
TEETH = ("21", "22", "32", "13")
STANDARD = {tooth: choose("lithium-disilicate", "veneer", None, ToothNumber(tooth)) for tooth in TEETH}


def recipe(tooth: str, seed: int) -> Recipe:
    """The demo's veneer on another tooth, scanned anew and coarser."""
    made = mocked_up_central(seed)
    return replace(made, tooth=tooth, scan=replace(made.scan, grid_mm=GRID_MM))


@cache
def scene(tooth: str, seed: int) -> Scene:
    return Scene.of(recipe(tooth, seed))


def options(tooth: str, there: Scene) -> Options:
    return pointed_at(tooth, there, restoration="veneer")


@cache
def planned(tooth: str, seed: int, incisal: str = "butt", mocked: bool = False) -> Plan:
    there = scene(tooth, seed)
    asked = PlanOptions(options(tooth, there), incisal=incisal)
    return make_plan(there.preop(), None, asked, STANDARD[tooth], generic(), mockup=there.mockup() if mocked else None)


def faults(plan: Plan) -> set[tuple[str, str]]:
    """What is proven against the target, of what a plan is told by."""
    assert plan.judgement is not None
    told = maker_of("veneer").told_by
    return {(v.criterion, v.zone) for v in plan.judgement.verdicts if v.status in FAULTS and v.criterion in told}


def verdict(plan: Plan, criterion: str, zone: str, bound: str = "min") -> Verdict:
    assert plan.judgement is not None
    return next(v for v in plan.judgement.verdicts if (v.criterion, v.zone, v.bound) == (criterion, zone, bound))


@pytest.mark.parametrize(("tooth", "seed"), first(1, ("21", 31), ("32", 6), ("22", 4), ("13", 9), ("21", 7)))
def test_the_target_meets_the_standard_that_it_was_made_by(tooth: str, seed: int) -> None:
    """Measured by the pipeline that measures a preparation, nothing that a plan is told by is proven against it."""
    plan = planned(tooth, seed)
    assert faults(plan) == set()
    assert plan.ways_out == []
    assert {s.zone: s.depth_mm for s in plan.sites} == {
        "incisal-edge": 1.5, "facial/incisal": 0.7, "facial/middle": 0.6, "facial/cervical": 0.4,
    }  # fmt: skip
    assert plan.geometry is not None
    assert isinstance(plan.geometry.cut, WindowCut)
    assert plan.geometry.cut.incisal is not None
    assert plan.geometry.cut.incisal.form == "butt"


def test_depths_and_ledge_are_those_that_were_planned() -> None:
    """Read on the target: thirds within a tenth, the ledge the width of the standard, the edge shorter by 1.5."""
    plan = planned("21", 31)
    assert plan.geometry is not None
    assert plan.judgement is not None
    assert plan.judgement.space is not None
    median = {z.zone: z.median_mm for z in plan.judgement.space.zones}
    assert median["facial/middle"] == pytest.approx(0.58, abs=0.08)
    assert median["facial/cervical"] == pytest.approx(0.41, abs=0.06)
    assert verdict(plan, "incisal-reduction", "incisal-edge").value == pytest.approx(1.5, abs=0.12)
    assert isinstance(plan.geometry.cut, WindowCut)
    neck = plan.geometry.cut.where.neck
    assert np.nanmedian(plan.geometry.cut.widths[neck]) == pytest.approx(0.4, abs=0.05)
    assert verdict(plan, "margin-height", "facial").value == pytest.approx(-0.5, abs=0.15)


def test_beside_a_contact_the_line_stays_short_of_it() -> None:
    """By 0.2 or more; on the other side, where the teeth stand apart, it runs further back."""
    plan = planned("21", 31)
    assert plan.geometry is not None
    assert isinstance(plan.geometry.cut, WindowCut)
    short = {e.side: e.past_contact_mm for e in plan.geometry.cut.endings}
    assert short["distal"] is not None
    assert short["distal"] < -0.2


@pytest.mark.long
def test_under_the_edge_the_tooth_keeps_its_length() -> None:
    """A window: the edge stays as it was, the line runs below it."""
    plan = planned("21", 31, "window")
    assert faults(plan) == set()
    assert plan.geometry is not None
    assert plan.target is not None
    assert isinstance(plan.geometry.cut, WindowCut)
    assert plan.geometry.cut.incisal is not None
    assert plan.geometry.cut.incisal.form == "window"
    top = [float(((s.vertices - plan.axes.origin) @ plan.axes.up).max()) for s in (plan.target, plan.tooth.surface)]
    assert top[0] == pytest.approx(top[1], abs=0.06)


@pytest.mark.long
def test_through_a_mock_up_the_tooth_loses_less() -> None:
    """Depths count from the mock-up, which stands 0.25 before the face and 1.2 over the edge."""
    through, bare = planned("21", 31, mocked=True), planned("21", 31)
    assert faults(through) == set()
    assert through.through_mockup
    assert through.judgement is not None
    assert through.judgement.removed is not None
    assert bare.judgement is not None
    assert bare.judgement.removed is not None
    lost, whole = ({z.zone: z.median_mm for z in j.removed.zones} for j in (through.judgement, bare.judgement))  # type: ignore[union-attr]
    assert lost["facial/middle"] < whole["facial/middle"] - 0.15  # type: ignore[operator]
    assert 1.4 < (verdict(through, "incisal-reduction", "incisal-edge").value or 0.0) < 2.0
    document = plan_document(through, sequences()["veneer-through-mock-up"], generic())
    assert document["earlier"]["space_to"] == "the mock-up"
    assert document["incisal"] == "butt"
    assert document["predicted"] is None


@pytest.mark.long
def test_a_mock_up_of_another_mouth_is_not_planned_through() -> None:
    """Said, and planned from the tooth as it is."""
    there = scene("21", 31)
    other = scene("32", 6).preop()
    plan = make_plan(there.preop(), None, PlanOptions(options("21", there)), STANDARD["21"], generic(), mockup=other)
    assert not plan.through_mockup
    assert any("does not fit" in w for w in plan.warnings)


@pytest.mark.long
def test_what_is_cut_as_planned_meets() -> None:
    """By simulated burs led with the plan's depths along its line, scanned with noise, measured as any scan. Those burs
    pass from face to side sooner than the plan does, so the side is cut to the most that the standard allows."""
    plan, there = planned("21", 31), scene("21", 31)
    tooth, mine = there.mine.tooth, there.mine
    length, _, _, fl, _ = tooth.size
    local = mine.to_local(move(np.linalg.inv(there.to_preop), plan.course))
    depth = {s.zone: float(s.depth_mm or 0.0) for s in plan.sites}
    neck = local[(local[:, 2] < 0.4 * length) & (local[:, 1] > 0)]
    middle = neck[np.abs(neck[:, 0]) < 0.8, 2].mean()
    beside = local[(local[:, 2] > 0.45 * length) & (local[:, 2] < 0.65 * length)]
    share = (beside[:, 1] - fl * np.interp(beside[:, 2] / length, LEVELS, MIDDLE)) / (
        fl * np.interp(beside[:, 2] / length, LEVELS, HALF)
    )
    ends = tuple(float(np.median(share[beside[:, 0] * sign > 0])) - BACK for sign in (1, -1))
    cut = FaceCut(
        thirds_mm=(depth["facial/cervical"], depth["facial/middle"], depth["facial/incisal"]),
        side_mm=plan.standard.width_limits("mesial").max, incisal_mm=depth["incisal-edge"], neck_mm=float(middle),
        papilla_mm=1.5, end_share=(ends[0], ends[1]),
    )  # fmt: skip
    prep = Scene.of(replace(there.recipe, face=cut)).prep()
    geometry = measure(Scans(prep, there.preop(), None, None), Options(ToothNumber("21"), restoration="veneer"))
    judged = judge(geometry, STANDARD["21"])
    for v in judged.verdicts:
        print(v.criterion, v.zone, v.bound, v.value, v.U, v.limit, v.status)
    told = {"reduction", "incisal-reduction", "incisal-form", "undercut", "contact-ending", "scoop"}
    assert {(v.criterion, v.zone) for v in judged.verdicts if v.status in FAULTS and v.criterion in told} == set()


@pytest.mark.long
def test_materials_are_compared_for_a_veneer_too() -> None:
    """Tooth to cut from the targets' volumes: the thinner material spares more; walls are none of its business."""
    there, tooth = scene("21", 31), ToothNumber("21")
    thick = choose("zirconia-translucent", "veneer", None, tooth)
    rows = decide(there.preop(), None, PlanOptions(options("21", there)), [thick, STANDARD["21"]], generic())
    assert [r.standard.id for r in rows] == [STANDARD["21"].id, thick.id]
    cut = [r.cut_mm3 or 0.0 for r in rows]
    assert 10.0 < cut[0] < cut[1]
    assert all(r.left_mm is None and r.resists is None for r in rows)


def test_an_unknown_end_is_refused_and_a_molar_has_no_veneer() -> None:
    """Before anything is measured."""
    with pytest.raises(BadOption, match="butt, window"):
        PlanOptions(Options(ToothNumber("21")), incisal="feather").check()
    assert maker_of("veneer").on == "12345"


@cache
def premolar(tooth: str, seed: int, incisal: str) -> Plan:
    there = Scene.of(replace(recipe_of(tooth, "lithium-disilicate", seed), papilla_mm=1.0, cervical_gingiva_mm=0.3))
    standard = choose("lithium-disilicate", "veneer", None, ToothNumber(tooth))
    return make_plan(there.preop(), None, PlanOptions(options(tooth, there), incisal=incisal), standard, generic())


@pytest.mark.long
@pytest.mark.parametrize(
    ("tooth", "seed", "incisal"),
    [("24", 24, "butt"), ("34", 22, "window"), ("25", 25, "butt"), ("45", 23, "butt")],
)
def test_a_premolar_s_veneer_leaves_the_cusp_behind(tooth: str, seed: int, incisal: str) -> None:
    """Depths by thirds of its face and off its facial cusp; what lies behind the groove stands; nothing is proven
    against the target."""
    plan = premolar(tooth, seed, incisal)
    assert plan.target is not None
    assert [s.zone for s in plan.sites] == ["incisal-edge", "facial/incisal", "facial/middle", "facial/cervical"]
    groove = float(np.median(plan.anatomy.groove_y))
    tip = plan.axes.local(np.array([plan.sites[0].at]))[0]
    assert tip[1] > groove
    before, after = (plan.axes.local(s.vertices) for s in (plan.tooth.surface, plan.target))
    behind = before[before[:, 1] < groove - 0.3, 2].max()
    assert after[after[:, 1] < groove - 0.3, 2].max() == pytest.approx(behind, abs=0.06)  # the other cusp stands
    lowered = tip[2] - after[np.linalg.norm(after[:, :2] - tip[:2], axis=1) < 0.3, 2].max()
    assert lowered == pytest.approx(1.5 if incisal == "butt" else 0.0, abs=0.35)
    rows = [v for v in plan.judgement.verdicts if v.criterion in maker_of("veneer").told_by]  # type: ignore[union-attr]
    # A fissure of its own that is deeper than the facet stays, and hides from a path that leans to the face.
    own = {v.at for v in rows if v.criterion == "undercut" and v.at and uncut(plan, v.at)}
    assert {(v.criterion, v.zone) for v in rows if v.status in FAULTS and v.at not in own} == set()


def uncut(plan: Plan, place: tuple[float, float, float]) -> bool:
    """Whether the tooth before ran there too."""
    return bool(np.linalg.norm(plan.tooth.surface.closest(np.array([place]))[2] - place) < 0.05)
