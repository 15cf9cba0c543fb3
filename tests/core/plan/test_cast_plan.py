"""A partial crown planned before cutting: its target read as a preparation is, and the loop closed."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from planned import as_planned, pointed_at, recipe_of

from vane_line.core.burs import generic
from vane_line.core.case import Geometry, measure
from vane_line.core.judge.judgement import Judgement, judge
from vane_line.core.judge.standard_choice import choose
from vane_line.core.plan.document import plan_document
from vane_line.core.plan.makers import maker_of
from vane_line.core.plan.plan import Plan, PlanOptions
from vane_line.core.plan.planner import make_plan
from vane_line.core.plan.sequence import built_in as sequences
from vane_line.core.rigid import move
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.demo.partial import Furrow, OpenFace
from vane_line.demo.scene import Scene

pytestmark = pytest.mark.long  # each plans, or scans and measures, a whole tooth
BEHIND_MM = 1.3  # of a planned groove's middle, to the standing face's wall
FAULTS = ("short", "over")


@cache
def scene(tooth: str, seed: int) -> Scene:
    return Scene.of(replace(recipe_of(tooth, "full-metal", seed), papilla_mm=0.7, cervical_gingiva_mm=0.2))


@cache
def planned(tooth: str, seed: int) -> Plan:
    there = scene(tooth, seed)
    options = PlanOptions(pointed_at(tooth, there, restoration="partial-crown"), above_gingiva_mm=0.0)
    standard = choose("full-metal", "partial-crown", None, ToothNumber(tooth))
    return make_plan(there.preop(), there.opposing(), options, standard, generic())


@pytest.mark.parametrize(("tooth", "seed"), [("14", 5), ("46", 4)])
def test_the_target_leaves_the_face_and_has_a_groove_in_each_end(tooth: str, seed: int) -> None:
    plan = planned(tooth, seed)
    assert plan.target is not None
    assert plan.geometry is not None
    found = {c.side: c for c in plan.geometry.cut.channels}
    assert set(found) == {"mesial", "distal"}
    for groove in found.values():
        assert groove.depth_mm == pytest.approx(1.0, abs=0.13)
        assert groove.diameter_mm == pytest.approx(1.0, abs=0.06)
        assert groove.to_path_deg < 1.0
    before, target = (plan.axes.local(s.vertices) for s in (plan.tooth.surface, plan.target))
    level = np.abs(before[:, 2]) < 0.6
    facial = before[level, 1].max()
    assert target[np.abs(target[:, 2]) < 0.6, 1].max() == pytest.approx(facial, abs=0.12)  # the face is as it was
    assert any("metal shows" in line for line in plan.warnings)


UNSEEN = "under a closed contact the line is guessed, and the region grows past the ledge: an undercut of 0.11 there"


@pytest.mark.parametrize(
    ("tooth", "seed"),
    [("14", 5), pytest.param("46", 4, marks=pytest.mark.xfail(reason=UNSEEN, strict=True))],
)
def test_the_target_meets_the_standard_that_it_was_made_by(tooth: str, seed: int) -> None:
    """But for grooves as long as the wall lets them be: it says itself where that is too short."""
    plan, maker = planned(tooth, seed), maker_of("partial-crown")
    assert plan.judgement is not None
    rows = [v for v in plan.judgement.verdicts if v.criterion in maker.told_by]
    assert {v.criterion for v in rows} >= {"reduction", "finish-line-width", "groove-pair", "groove-depth"}
    faults = {v.criterion for v in rows if v.status in FAULTS}
    assert faults <= {"groove-length"}


def test_the_order_of_work_is_filled_in() -> None:
    """Of its own kind: grooves after the walls that set the path; depths only where the plan has them."""
    sequence = sequences()["partial-crown"]
    tooth = ToothNumber("14")
    orders = {s.id for s in sequences().values() if s.serves(tooth, "partial-crown")}
    assert orders == {"partial-crown", "partial-crown-ends-first"}
    pinned = [s.id for s in sequences().values() if s.serves(ToothNumber("12"), "pin-casting")]
    assert pinned == ["pins-jig", "pins-survey"]
    steps = plan_document(planned("14", 5), sequence, generic())["sequence"]["steps"]
    assert len(steps) == len(sequence.steps)
    titles = [s["title"] for s in steps]
    assert titles.index("One groove, then the other to it") > titles.index("Lingual wall and both ends, along the path")


@pytest.mark.parametrize("order", ["partial-crown", "partial-crown-ends-first"])
def test_a_groove_s_bur_is_led_along_the_path(order: str) -> None:
    """It is as wide at its middle as the groove is planned, and its own taper does not lean it."""
    steps = plan_document(planned("14", 5), sequences()[order], generic())["sequence"]["steps"]
    (bur,) = [s["bur"] for s in steps if s["title"] == "One groove, then the other to it"]
    assert bur == "flat-end taper, rounded edge, 1.2 (012), 1.0 mm at its middle: along the path"


@cache
def cut_as_planned(tooth: str, seed: int) -> tuple[Geometry, Judgement]:
    """Cut by simulated burs as the plan says, scanned, measured and judged."""
    plan, made = planned(tooth, seed), scene(tooth, seed)
    assert plan.geometry is not None
    furrows, foot = [], 0.0
    for groove in plan.geometry.cut.channels:
        end = groove.middle - groove.direction * groove.length_mm / 2
        local = made.mine.to_local(move(np.linalg.inv(made.to_preop), np.stack([end, groove.middle])))
        foot = float(local[1, 1]) + BEHIND_MM
        furrows.append(
            Furrow(1.0 if groove.side == "mesial" else -1.0, ends_mm=float(local[0, 2]), behind_mm=BEHIND_MM)
        )
    recipe = as_planned(plan, made)
    share = foot / made.mine.tooth.size[3]
    standing = OpenFace(foot_share=share, flare_deg=0.0, furrows=tuple(furrows))
    cut = Scene.of(replace(recipe, standing=standing))
    options = pointed_at(tooth, made, restoration="partial-crown")
    geometry = measure(Scans(cut.prep(), made.preop(), None, made.opposing()), replace(options, opposing_frame="preop"))
    return geometry, judge(geometry, choose("full-metal", "partial-crown", None, ToothNumber(tooth)))


@pytest.mark.parametrize(("tooth", "seed"), [("14", 5), ("24", 6)])
def test_planned_cut_scanned_and_measured_it_meets(tooth: str, seed: int) -> None:
    """The loop closed with simulated burs: nothing of what was planned is proven against the scan of what was cut."""
    geometry, judged = cut_as_planned(tooth, seed)
    told = [v for v in judged.verdicts if v.criterion in maker_of("partial-crown").told_by]
    assert {(v.criterion, v.zone) for v in told if v.status in FAULTS and v.criterion != "groove-length"} == set()
    assert {c.side for c in geometry.cut.channels} == {"mesial", "distal"}


def test_gingiva_that_stands_over_the_line_is_no_undercut() -> None:
    """A 46 cut to the gingiva, which stands 0.4 over the line lingually: nothing of the tooth hangs over there."""
    _, judged = cut_as_planned("46", 4)
    assert [v for v in judged.verdicts if v.criterion == "undercut" and v.status == "over"] == []
